// Package detail says all that is so of each type of detail that a page type can ask for, a group of types a file: what
// it is called, how its values are read and written, and what visitors get of them (rules 7.1). A value travels in one
// canonical form, which is what Read gives; "" is none.
package detail

import (
	"strconv"
	"strings"

	"vineladder/internal/core/address"
	"vineladder/internal/core/picture"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// A Type is what is so of one type of detail.
type Type struct {
	Key   site.DetailType
	Words string // in lists of types
	// Read takes what people typed, or what Read gave, into the canonical form. It is not asked of nothing.
	Read func(s *site.Site, d site.Detail, text string) (string, error)
	// Shown is what visitors get of a value; nil for one that reads as nothing.
	Shown func(s *site.Site, d site.Detail, value string) []Shown
	// Order gives what values are sorted by, as bytes; nil: they can't be sorted by.
	Order func(value string) string
}

// Shown is one thing that visitors get of a value.
type Shown struct {
	Words string
	Href  string           // where it leads; "" nowhere
	Page  site.PageID      // to which it leads: it shows to who reaches that
	File  *picture.Picture // a picture, of which Words are the alternative
	Rich  string           // hash of the kept text that stands for words
}

// Types has every type, in the order in which they are offered. Nobody writes to it.
func Types() []Type { return types }

var types = []Type{
	line(), text(), rich(), number(), yesNo(), date(), dates(), moment(), choice(), choices(), page(), file(), image(),
	web(), mailTo(), phone(),
}

// Of gives the type of a detail; one that is not known is a line.
func Of(d site.Detail) Type {
	for _, t := range types {
		if t.Key == d.Type {
			return t
		}
	}
	return types[0]
}

// Limit bounds a value, in characters; TextLimit one of several lines.
const (
	Limit     = 400
	TextLimit = 4000
)

// Read takes what people typed for a detail into the canonical form of its values.
func Read(s *site.Site, d site.Detail, text string) (string, error) {
	if strings.TrimSpace(text) == "" {
		return "", nil
	}
	return Of(d).Read(s, d, text)
}

// Reads says whether a value that is kept reads as one of the detail. One that does not shows nothing and stays.
func Reads(s *site.Site, d site.Detail, value string) bool {
	read, err := Read(s, d, value)
	return err == nil && read != ""
}

// A Fact is what a page shows of one detail.
type Fact struct {
	Label  string
	Values []Shown
}

// Facts gives what a page shows of the details of its type that belong somewhere: its date, if the type asks for one,
// and every value that reads as one, to who reaches what it leads to.
func Facts(s *site.Site, p *site.Page, at func(site.Detail) bool, reached func(site.PageID) bool) []Fact {
	var facts []Fact
	if name := s.Kind(p.Kind).DateName; name != "" && p.Date != "" && at(dateOf(name)) {
		facts = append(facts, Fact{name, []Shown{{Words: DateWords(s, p.Date)}}})
	}
	if p.Values == "" {
		return facts
	}
	values := p.Values.All()
	for _, d := range s.Details(p.Kind) {
		if value := values[d.Key]; at(d) && value != "" && Reads(s, d, value) {
			if shown := reachable(Of(d).Shown(s, d, value), reached); len(shown) > 0 {
				facts = append(facts, Fact{d.Label, shown})
			}
		}
	}
	return facts
}

// dateOf is a page's date as a detail.
func dateOf(name string) site.Detail {
	return site.Detail{Label: name, Type: site.DetailDate, Shows: site.DetailBoth}
}

func reachable(shown []Shown, reached func(site.PageID) bool) []Shown {
	left := shown[:0]
	for _, one := range shown {
		if one.Page == 0 || reached(one.Page) {
			left = append(left, one)
		}
	}
	return left
}

// Points gives the pages to which the facts on a page can lead, whoever looks.
func Points(s *site.Site, p *site.Page) []site.PageID {
	var pages []site.PageID
	for _, fact := range Facts(s, p, site.Detail.OnPage, func(site.PageID) bool { return true }) {
		for _, one := range fact.Values {
			if one.Page != 0 {
				pages = append(pages, one.Page)
			}
		}
	}
	return pages
}

// typeOf is a type whose values are shown as they stand.
func typeOf(key site.DetailType, words string) Type {
	return Type{
		Key: key, Words: words,
		Shown: func(_ *site.Site, _ site.Detail, value string) []Shown { return []Shown{{Words: value}} },
		Order: func(value string) string { return value },
	}
}

// page leads to a page of the site.
func page() Type {
	t := typeOf(site.DetailPage, "Page")
	t.Order = nil
	t.Read = func(s *site.Site, _ site.Detail, text string) (string, error) {
		number, is := strings.CutPrefix(text, "page:")
		id, err := strconv.ParseInt(number, 10, 64)
		if !is || err != nil {
			return "", typed.Refuse("Choose a page.")
		}
		if p := s.Page(site.PageID(id)); p == nil || p.Purged {
			return "", &typed.Missing{Page: site.PageID(id), Sentence: "The page that was chosen is not there any more."}
		}
		return text, nil
	}
	t.Shown = func(s *site.Site, _ site.Detail, value string) []Shown {
		id, _ := strconv.ParseInt(strings.TrimPrefix(value, "page:"), 10, 64)
		to := site.PageID(id)
		return []Shown{{Words: s.Page(to).Label, Href: address.Of(s, to), Page: to}}
	}
	return t
}
