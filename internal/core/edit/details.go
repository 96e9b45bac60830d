package edit

import (
	"errors"
	"strings"

	"vineladder/internal/core/detail"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// FieldDetails are all values that a page has for details, as one JSON object; each by itself is a field by the key of
// its detail, as in “harbour.depth”.
const FieldDetails Field = "details"

// DetailField is the field of a page in which the value of a detail stands.
func DetailField(key string) Field { return Field(key) }

// IsDetail says whether a field of a page is the value of a detail.
func IsDetail(of Field) bool { return strings.Contains(string(of), ".") }

// detailsLimit bounds all values of a page together, in bytes.
const detailsLimit = 64 << 10

// values is the field of all values of a page, and finds that of each.
type values struct{ field[site.Page] }

func newValues() values {
	return values{Column[site.Page, site.Values]{
		Fact: Fact{Field: FieldDetails, Needs: site.ActionEdit, Traits: Copied | Purged | Inner},
		Get:  func(p *site.Page) site.Values { return p.Values },
		Set:  func(_ *site.Site, p *site.Page, all site.Values) error { p.Values = all; return nil },
		Form: Form[site.Values]{
			Write: func(all site.Values) string { return string(all) },
			Read: func(_ *site.Site, text string) (site.Values, error) {
				read, ok := site.ParseValues(text)
				if !ok || len(read) > detailsLimit {
					return "", refuse("These details can't be read.")
				}
				return read, nil
			},
		},
	}}
}

// part finds the field of one detail.
func (values) part(of Field) (field[site.Page], bool) {
	if !IsDetail(of) {
		return nil, false
	}
	return oneValue{string(of)}, true
}

// oneValue is the value of one detail of a page. Whether it can be had depends on the site, so it is no Column.
type oneValue struct{ key string }

func (v oneValue) fact() Fact {
	return Fact{Field: Field(v.key), Needs: site.ActionEdit, Traits: Inner | Naming}
}

func (v oneValue) read(p *site.Page) string { return p.Values.Get(v.key) }

// write takes a value of a detail that the site has, for a page of its type. What the page has already can always be
// had. A value that is kept unseen can't be taken away either: it could not be put back.
func (v oneValue) write(s *site.Site, p *site.Page, text string) error {
	was := p.Values.Get(v.key)
	if text == was {
		return nil
	}
	d := s.Detail(v.key)
	if d == nil {
		return &Conflict{
			Page: p.ID, Field: Field(v.key), Mine: text, Theirs: "taken away",
			Sentence: "The detail “" + Field(v.key).Words() + "” was taken away by " + somebody + ".",
		}
	}
	if d.Kind() != p.Kind {
		return refuse("“%s” is a detail of the page type “%s”; “%s” is of the type “%s”.",
			d.Label, s.Kind(d.Kind()).Name, p.Label, s.Kind(p.Kind).Name)
	}
	if text == "" {
		p.Values = p.Values.With(v.key, "")
		return nil
	}
	read, err := detail.Read(s, *d, text)
	var missing *typed.Missing
	switch {
	case errors.As(err, &missing):
		return &Conflict{Page: missing.Page, Sentence: missing.Sentence}
	case err != nil:
		return err
	}
	if err := detail.CheckChoice(*d, was, read); err != nil {
		return err
	}
	if p.Values = p.Values.With(v.key, read); len(p.Values) > detailsLimit {
		return refuse("The details of one page can have %d KiB together.", detailsLimit>>10)
	}
	return nil
}

// detailTies gives the details and the page types that the fields of a page need.
func detailTies(changes []FieldChange) []tie {
	var ties []tie
	for _, c := range changes {
		switch {
		case c.New == "":
		case IsDetail(c.Field):
			ties = append(ties, detailTie(string(c.Field)))
		case c.Field == FieldKind:
			ties = append(ties, kindTie(c.New))
		}
	}
	return ties
}
