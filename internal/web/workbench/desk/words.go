package desk

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"vineladder/internal/core/address"
	"vineladder/internal/core/count"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/say"
	"vineladder/internal/core/site"
)

// Short bounds what a step says of a label.
func Short(label string) string {
	if runes := []rune(label); len(runes) > 60 {
		return string(runes[:59]) + "…"
	}
	return label
}

// Day writes a moment in short, in the zone of the site.
func Day(s *site.Site, t time.Time) string {
	return t.In(s.Settings().Zone).Format("2 Jan 2006, 15:04")
}

// Place says where a page stands: position and neighbours (rules 2.1).
func Place(s *site.Site, id site.PageID) string {
	p := s.Page(id)
	if p.Parent == 0 {
		return "The home page"
	}
	index, n := s.Index(id)
	words := fmt.Sprintf("%s of %s in “%s”", count.Number(index+1), count.Number(n), s.Page(p.Parent).Label)
	before, after := s.Neighbours(id)
	if before != 0 {
		words += ", after “" + s.Page(before).Label + "”"
	}
	if after != 0 {
		words += ", before “" + s.Page(after).Label + "”"
	}
	return words
}

// AddressOf is the address of a page.
func AddressOf(s *site.Site, id site.PageID) string { return address.Of(s, id) }

// LongMoment writes a moment in full, in the zone of the site.
func LongMoment(s *site.Site, t time.Time) string {
	return t.In(s.Settings().Zone).Format("2 January 2006, 15:04")
}

// Number reads an id; what is none is 0.
func Number[T ~int64](typed string) T {
	n, _ := strconv.ParseInt(typed, 10, 64)
	return T(n)
}

// sentence writes an error as a person reads it.
func sentence(err error) string {
	return say.Capital(err.Error()) + "."
}

// VisitorGets says what a visitor gets at a page, as the end of a sentence.
func VisitorGets(s *site.Site, id site.PageID, lens reach.Lens) string {
	switch reach.Ask(s, id, lens) {
	case reach.Sees:
		return "sees this page"
	case reach.SignIn:
		return "is asked to sign in"
	case reach.NoAccess:
		return "is told that there is no access"
	}
	return "gets “not found”"
}

// ReadIDs reads page ids separated by commas; what is no number is left out.
func ReadIDs(joined string) []site.PageID {
	var ids []site.PageID
	for part := range strings.SplitSeq(joined, ",") {
		if id, err := strconv.ParseInt(part, 10, 64); err == nil {
			ids = append(ids, site.PageID(id))
		}
	}
	return ids
}

// Neighbour is where to go when a page goes: the next sibling, the one before, the parent.
func Neighbour(s *site.Site, id site.PageID) site.PageID {
	before, after := s.Neighbours(id)
	switch {
	case after != 0:
		return after
	case before != 0:
		return before
	}
	return s.Page(id).Parent
}

// With gives a form in which one value is another.
func With(form func(string) string, name, value string) func(string) string {
	return func(asked string) string {
		if asked == name {
			return value
		}
		return form(asked)
	}
}
