package site

import (
	"cmp"
	"slices"
	"strings"
)

func compare(a, b string) int { return strings.Compare(a, b) }

// order compares two children of a page (rules 2.2 and 2.3): start pins, the rest by the rule, end pins. Pinned pages
// and the rule "manual" go by rank. The last word is the id, so the order is total.
func (s *Site) order(parent, a, b *Page) int {
	rule := SortManual
	if parent != nil && parent.Sort != "" {
		rule = parent.Sort
	}
	if rule == SortManual {
		return cmp.Or(compare(a.Rank, b.Rank), cmp.Compare(a.ID, b.ID))
	}
	if c := cmp.Compare(pinGroup(a), pinGroup(b)); c != 0 {
		return c
	}
	if a.Pin != PinNone {
		return cmp.Or(compare(a.Rank, b.Rank), cmp.Compare(a.ID, b.ID))
	}
	if rule == SortNewest {
		if c := cmp.Compare(neverOnline(b), neverOnline(a)); c != 0 {
			return c
		}
		if c := b.FirstOnline.Compare(a.FirstOnline); c != 0 {
			return c
		}
	}
	if c := compareDates(rule, a.Date, b.Date); c != 0 {
		return c
	}
	return cmp.Or(s.Collate(a.Label, b.Label), compare(a.Label, b.Label), cmp.Compare(a.ID, b.ID))
}

// compareDates orders by the date of the kind; missing dates are last both ways (rules 2.2).
func compareDates(rule SortRule, a, b string) int {
	switch {
	case rule != SortDate && rule != SortDateDown || a == b:
		return 0
	case a == "":
		return 1
	case b == "":
		return -1
	case rule == SortDateDown:
		return compare(b, a)
	}
	return compare(a, b)
}

func pinGroup(p *Page) int {
	switch p.Pin {
	case PinStart:
		return 0
	case PinEnd:
		return 2
	}
	return 1
}

func neverOnline(p *Page) int {
	if p.FirstOnline.IsZero() {
		return 1
	}
	return 0
}

// orderIndex is the place in a family at which p stands, or would stand.
func (s *Site) orderIndex(f *family, p *Page) int {
	parent := s.Page(p.Parent)
	at, _ := slices.BinarySearchFunc(f.kids, p, func(id PageID, p *Page) int {
		if id == p.ID {
			return 0
		}
		return s.order(parent, s.Page(id), p)
	})
	return at
}
