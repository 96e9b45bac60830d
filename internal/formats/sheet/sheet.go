// Package sheet reads and writes the structure sheet: the tree of pages as CSV (RFC 4180), one page a row. Reading
// checks the whole file before anything is done, and says line and column of all that is wrong.
package sheet

import (
	"bufio"
	"bytes"
	"cmp"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"
	"unicode/utf8"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// A column is one of the sheet: its name, and the field of a page that it holds; "" for one that says where the page
// stands.
type column struct {
	name  string
	field edit.Field
}

// columns has those of the sheet, in the order of an export. docs/sheet.md says what each holds.
func columns(s *site.Site) []column {
	all := []column{{"key", ""}, {"parent_key", ""}, {"position", ""}}
	for _, field := range edit.PageFields(edit.InSheet) {
		all = append(all, column{string(field), field})
	}
	return append(all, detailColumns(s)...)
}

// Columns names the columns of the sheet of a site, in the order of an export: those of every site, and its details.
func Columns(s *site.Site) []string { return names(columns(s)) }

func names(columns []column) []string {
	list := make([]string, len(columns))
	for i, c := range columns {
		list[i] = c.name
	}
	return list
}

// KeyLimit is the length of the longest key, in characters.
const KeyLimit = 100

// An Error is something wrong in the sheet, at a line and column counted from 1, and where it is known the name of the
// column.
type Error struct {
	Line, Column int
	Name         string
	Sentence     string
}

func (e *Error) Error() string {
	if e.Name != "" {
		return fmt.Sprintf("line %d, column %d (%s): %s", e.Line, e.Column, e.Name, e.Sentence)
	}
	return fmt.Sprintf("line %d, column %d: %s", e.Line, e.Column, e.Sentence)
}

// inherits in the column “audience” of a page that moves has its new place say who sees it; an empty cell leaves who
// sees it as before.
const inherits = "inherit"

// errorLimit is the number of errors collected before reading stops.
const errorLimit = 20

// A row is one page of the sheet.
type row struct {
	key, parent string
	position    int      // from 1; 0: not said
	takes       bool     // who sees it is for its place to say
	topics      []string // that it bears, by key
	tagged      bool     // it says which
	lists       string   // what it lists, pages by key
	asks        bool     // it says so
	text        string   // HTML or words; "" leaves it as it is
	details     []detailCell
	cells       []cell // in the order of the first line; key, parent_key and position left out
	head        *[]column
	line        int
	starts      []uint16 // where each cell begins
}

// A cell is what a row says of a field: a sheet of a million rows is kept in slices, not in maps.
type cell struct {
	field  edit.Field
	value  string // canonical
	unsaid bool   // the cell is empty
}

// said gives what a row says of a field, and whether its column is there.
func (r *row) said(field edit.Field) (cell, bool) {
	for _, c := range r.cells {
		if c.field == field {
			return c, true
		}
	}
	return cell{}, false
}

func (r *row) value(field edit.Field) string { c, _ := r.said(field); return c.value }

func (r *row) fault(column, format string, args ...any) error {
	at := 0
	if i := slices.Index(names(*r.head), column); i >= 0 && i < len(r.starts) {
		at = int(r.starts[i])
	}
	return &Error{r.line, at, column, fmt.Sprintf(format, args...)}
}

// Write exports all pages that are not binned, parents first, with CRLF line ends; files, which are more than their row
// could say, and folders are left out. A segment that follows its label at
// now is left empty.
func Write(w io.Writer, s *site.Site, now time.Time) error {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	if err := out.Write(Columns(s)); err != nil {
		return err
	}
	var err error
	columns := columns(s)
	s.Walk(s.Home(), func(p *site.Page) bool {
		if p.IsFile() || p.IsFolder() {
			return true
		}
		cells := record(s, p, columns, now)
		for i, words := range cells {
			cells[i] = guarded(words)
		}
		err = out.Write(cells)
		return err == nil
	})
	if err != nil {
		return err
	}
	out.Flush()
	return out.Error()
}

// runs are the characters with which a spreadsheet takes a cell for a formula.
const runs = "=+-@\t\r"

// guarded writes a cell so that no spreadsheet runs it: with an apostrophe before it. One that looks guarded already
// gets one more, so that what is read is what was written.
func guarded(cell string) string {
	if cell != "" && (strings.ContainsRune(runs, rune(cell[0])) || looksGuarded(cell)) {
		return "'" + cell
	}
	return cell
}

func unguarded(cell string) string {
	if looksGuarded(cell) {
		return cell[1:]
	}
	return cell
}

func looksGuarded(cell string) bool {
	return len(cell) > 1 && cell[0] == '\'' && strings.ContainsRune(runs+"'", rune(cell[1]))
}

func record(s *site.Site, p *site.Page, columns []column, now time.Time) []string {
	cells := make([]string, len(columns))
	for i, column := range columns {
		cells[i] = cellOf(s, p, column, now)
	}
	return cells
}

// cellOf writes one cell: fields in their canonical form, but moments in the site's zone and lists in one line.
func cellOf(s *site.Site, p *site.Page, c column, now time.Time) string {
	switch c.name {
	case "key":
		return p.Key
	case "parent_key":
		if above := s.Page(p.Parent); above != nil {
			return above.Key
		}
		return ""
	case "position":
		above := s.Page(p.Parent)
		if above == nil || above.Sort != site.SortManual {
			return ""
		}
		index, _ := s.Index(p.ID)
		return strconv.Itoa(index + 1)
	}
	switch c.field {
	case "":
		return ""
	case edit.FieldSegment:
		if p.Follows(now) {
			return ""
		}
		return p.Segment
	case edit.FieldLiveFrom:
		return writeMoment(s, p.LiveFrom)
	case edit.FieldLiveUntil:
		return writeMoment(s, p.LiveUntil)
	case edit.FieldShortAddresses:
		return strings.Join(p.ShortAddresses, " ")
	case edit.FieldTopics:
		return topicsCell(s, p)
	case edit.FieldListing:
		return listingCell(s, p)
	}
	if edit.IsDetail(c.field) {
		return detailWords(s, p, c.name)
	}
	return edit.Value(p, c.field)
}

func writeMoment(s *site.Site, t time.Time) string {
	if t.IsZero() {
		return ""
	}
	return t.In(s.Settings().Zone).Format(time.RFC3339)
}

// read parses and checks everything that one row says by itself.
func read(r io.Reader, s *site.Site) ([]*row, error) {
	plain, err := recognise(r)
	if err != nil {
		return nil, err
	}
	in := csv.NewReader(plain)
	in.FieldsPerRecord = -1
	in.ReuseRecord = true
	header, err := in.Read()
	if errors.Is(err, io.EOF) {
		return nil, &Error{Line: 1, Column: 1, Sentence: "the file is empty; the first line names the columns"}
	}
	if err != nil {
		return nil, parseError(err)
	}
	columns, err := readHeader(in, header, s)
	if err != nil {
		return nil, err
	}
	var rows []*row
	var faults []error
	for len(faults) < errorLimit {
		cells, err := in.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			faults = append(faults, parseError(err))
			break
		}
		made, wrong := readRow(in, &columns, cells, s)
		rows, faults = append(rows, made), append(faults, wrong...)
	}
	return rows, errors.Join(faults...)
}

// recognise looks at the beginning of a file for what spreadsheets save instead of CSV with commas in UTF-8.
func recognise(r io.Reader) (io.Reader, error) {
	in := bufio.NewReaderSize(r, 4096)
	begin, err := in.Peek(4096)
	if err != nil && !errors.Is(err, io.EOF) {
		return nil, fmt.Errorf("read the sheet: %w", err)
	}
	wrong := func(sentence string) (io.Reader, error) { return nil, &Error{Line: 1, Column: 1, Sentence: sentence} }
	first, _, _ := bytes.Cut(begin, []byte("\n"))
	switch {
	case bytes.HasPrefix(begin, []byte{0xff, 0xfe}), bytes.HasPrefix(begin, []byte{0xfe, 0xff}):
		return wrong("the file is saved as UTF-16; save it as CSV in UTF-8")
	case bytes.HasPrefix(begin, []byte("PK\x03\x04")):
		return ofWorkbook(in)
	case bytes.ContainsRune(first, ';') && !bytes.ContainsRune(first, ','):
		return wrong("the cells are parted by semicolons; save the file with commas between them")
	case bytes.ContainsRune(first, '\t') && !bytes.ContainsRune(first, ','):
		return wrong("the cells are parted by tabs; save the file with commas between them")
	}
	return in, nil
}

func parseError(err error) error {
	var parse *csv.ParseError
	switch {
	case !errors.As(err, &parse):
		return fmt.Errorf("read the sheet: %w", err)
	case errors.Is(parse.Err, csv.ErrQuote) && parse.Line > parse.StartLine:
		return &Error{
			Line:   parse.StartLine,
			Column: 1,
			Sentence: fmt.Sprintf(
				"a quote that opens in this line is not closed; the file was read to line %d",
				parse.Line,
			),
		}
	}
	return &Error{
		Line:     parse.Line,
		Column:   parse.Column,
		Sentence: "a quote is not closed, or stands where none can be",
	}
}

func readHeader(in *csv.Reader, header []string, s *site.Site) ([]column, error) {
	said := slices.Clone(header)
	said[0] = strings.TrimPrefix(said[0], "\ufeff")
	known, found := append(columns(s), textColumn), make([]column, len(said))
	for i, name := range said {
		line, at := in.FieldPos(i)
		which := slices.Index(names(known), name)
		switch {
		case which < 0:
			const none = "there is no column “%s”; the columns are %s"
			return nil, &Error{line, at, name, fmt.Sprintf(none, name, strings.Join(names(known), ", "))}
		case slices.Index(said, name) != i:
			return nil, &Error{line, at, name, fmt.Sprintf("the column “%s” stands twice", name)}
		}
		found[i] = known[which]
	}
	for _, needed := range []string{"key", "parent_key"} {
		if !slices.Contains(said, needed) {
			return nil, &Error{Line: 1, Column: 1, Sentence: fmt.Sprintf("the column “%s” is missing", needed)}
		}
	}
	return found, nil
}

func readRow(in *csv.Reader, columns *[]column, cells []string, s *site.Site) (*row, []error) {
	r := &row{head: columns, cells: make([]cell, 0, len(*columns)), starts: make([]uint16, len(cells))}
	r.line, _ = in.FieldPos(0)
	if len(cells) != len(*columns) {
		_, last := in.FieldPos(len(cells) - 1)
		const uneven = "the line has %d cells and the first line names %d columns"
		return r, []error{&Error{r.line, last, "", fmt.Sprintf(uneven, len(cells), len(*columns))}}
	}
	var faults []error
	for i, cell := range cells {
		c := (*columns)[i]
		_, at := in.FieldPos(i)
		r.starts[i] = uint16(min(at, math.MaxUint16))
		if !utf8.ValidString(cell) {
			faults = append(faults, r.fault(c.name, "the text is not UTF-8; save the file in that encoding"))
			continue
		}
		if err := r.take(c, unguarded(cell), s); err != nil {
			faults = append(faults, r.fault(c.name, "%v", err))
		}
	}
	if from, until := r.value(edit.FieldLiveFrom), r.value(edit.FieldLiveUntil); from != "" && until != "" &&
		until <= from {
		faults = append(
			faults,
			r.fault("live_until", "the page would end before it begins: the end must be after the beginning"),
		)
	}
	return r, faults
}

// take reads one cell into its canonical form.
func (r *row) take(c column, value string, s *site.Site) (err error) {
	said := value
	if edit.IsDetail(c.field) {
		r.details = append(r.details, detailCell{c.name, value})
		return nil
	}
	switch c.name {
	case "key":
		if r.key = value; value == "" || strings.TrimSpace(value) != value {
			return errors.New("every page needs a key without blanks around it")
		}
		if n := utf8.RuneCountInString(value); n > KeyLimit {
			return fmt.Errorf("a key can have %d characters at most; this one has %d", KeyLimit, n)
		}
		return nil
	case "parent_key":
		r.parent = value
		return nil
	case "text":
		r.text = value
		return nil
	case "position":
		if value == "" {
			return nil
		}
		if r.position, err = strconv.Atoi(value); err != nil || r.position < 1 {
			return fmt.Errorf("“%s” is not a position; positions count from 1", value)
		}
		return nil
	case "topics":
		r.topics, r.tagged = strings.FieldsFunc(value, func(c rune) bool { return c == apart }), true
		return nil
	case "listing":
		r.lists, r.asks = value, true
		return nil
	case "audience":
		if value == inherits {
			r.takes, value = true, ""
		}
	case "live_from", "live_until":
		value, err = readMoment(value, s.Settings().Zone, c.field == edit.FieldLiveUntil)
	case "label":
		if strings.TrimSpace(value) == "" {
			err = errors.New("a page needs a label")
		}
	case "status":
		value, err = choice(value, "offline", "live", "offline")
	case "listed":
		value, err = choice(value, "yes", "yes", "no")
	case "kind":
		value = cmp.Or(value, "page")
	case "sort":
		value = cmp.Or(value, string(site.SortManual))
	case "conceal":
		value, err = choice(value, "no", "yes", "no")
	case "short_addresses":
		shorts := strings.Fields(value)
		slices.Sort(shorts)
		value = strings.Join(slices.Compact(shorts), "\n")
	}
	if err == nil && value != "" {
		if err = edit.CheckField(s, c.field, value); err != nil {
			err = errors.New(strings.TrimSuffix(err.Error(), "."))
		}
	}
	r.cells = append(r.cells, cell{c.field, value, said == ""})
	return err
}

func choice(cell, unset string, allowed ...string) (string, error) {
	if cell == "" {
		return unset, nil
	}
	if !slices.Contains(allowed, cell) {
		return "", fmt.Errorf("“%s” is not one of %s", cell, strings.Join(allowed, ", "))
	}
	return cell, nil
}

// readMoment takes RFC 3339 or a date: 00:00 as a start, the end of the day as an end (rules 1).
func readMoment(cell string, zone *time.Location, end bool) (string, error) {
	if cell == "" {
		return "", nil
	}
	if t, err := time.Parse(time.RFC3339, cell); err == nil {
		return t.UTC().Format(time.RFC3339), nil
	}
	day, err := time.ParseInLocation(time.DateOnly, cell, zone)
	if err != nil {
		return "", fmt.Errorf("“%s” is not a date; write 2026-11-24 or 2026-11-24T12:00:00Z", cell)
	}
	if end {
		day = day.AddDate(0, 0, 1)
	}
	return day.UTC().Format(time.RFC3339), nil
}
