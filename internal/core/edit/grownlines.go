package edit

import (
	"fmt"
	"strconv"
	"strings"

	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// FieldLines are all settings of lines that an item grows, as one JSON object by the pages of the lines; that of each
// line is a field by itself, as in “line:12”, so that two people who set different lines don't meet.
const FieldLines Field = "lines"

const linePrefix = "line:"

// LineField is the field of an item in which is set what becomes of one line that it grows.
func LineField(page site.PageID) Field { return Field(fmt.Sprintf("%s%d", linePrefix, page)) }

// LineOf gives the page of the line that a field sets; ok is false for other fields.
func LineOf(of Field) (page site.PageID, ok bool) {
	number, is := strings.CutPrefix(string(of), linePrefix)
	id, err := strconv.ParseInt(number, 10, 64)
	return site.PageID(id), is && err == nil
}

// linesLimit bounds the settings of all lines of an item together, in bytes.
const linesLimit = 256 << 10

// grownLines is the field of all settings, and finds that of each line.
type grownLines struct{ field[site.Entry] }

func newGrownLines() grownLines {
	return grownLines{Column[site.Entry, site.Values]{
		Fact: Fact{Field: FieldLines, Words: "single lines", Traits: Naming},
		Get:  func(e *site.Entry) site.Values { return e.Grown },
		Set:  func(_ *site.Site, e *site.Entry, all site.Values) error { e.Grown = all; return nil },
		Form: Form[site.Values]{
			Write: func(all site.Values) string { return string(all) },
			Read:  readLines,
		},
	}}
}

func readLines(s *site.Site, text string) (site.Values, error) {
	read, ok := site.ParseValues(text)
	if !ok || len(read) > linesLimit {
		return "", refuse("The settings of single lines can't be read.")
	}
	for key, value := range read.All() {
		page, is := site.LinePage(key)
		if line, ok := site.ParseGrownLine(value); !is || !ok || line == (site.GrownLine{}) {
			return "", refuse("“%s” can't be set of a line.", value)
		}
		if p := s.Page(page); p == nil || p.Purged {
			return "", lineGone(page)
		}
	}
	return read, nil
}

func lineGone(page site.PageID) error {
	return &typed.Missing{Page: page, Sentence: "The page of a line that is set is not there any more."}
}

// part finds the field of one line.
func (grownLines) part(of Field) (field[site.Entry], bool) {
	page, is := LineOf(of)
	return oneLine{page}, is
}

// oneLine is what is set of one line.
type oneLine struct{ page site.PageID }

func (l oneLine) fact() Fact { return Fact{Field: LineField(l.page)} }

func (l oneLine) read(e *site.Entry) string { return e.Line(l.page).String() }

func (l oneLine) write(s *site.Site, e *site.Entry, text string) error {
	if text == l.read(e) {
		return nil
	}
	line, ok := site.ParseGrownLine(text)
	if !ok {
		return refuse("“%s” can't be set of a line.", text)
	}
	if p := s.Page(l.page); text != "" && (p == nil || p.Purged) {
		return &Conflict{Page: l.page, Sentence: "The page of the line is not there any more."}
	}
	label, err := typed.Line(line.Label, "A label", LabelLimit)
	if err != nil {
		return err
	}
	line.Label = label
	if e.Grown = e.Grown.With(site.LineKey(l.page), line.String()); len(e.Grown) > linesLimit {
		return refuse("The settings of single lines of one item can have %d KiB together.", linesLimit>>10)
	}
	return nil
}

// lineTies gives the pages of the lines that fields of an item set.
func lineTies(changes []FieldChange) []tie {
	var ties []tie
	for _, c := range changes {
		if page, is := LineOf(c.Field); is && c.New != "" {
			ties = append(ties, pageTie(page))
		}
	}
	return ties
}
