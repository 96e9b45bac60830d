package edit

import (
	"slices"

	"vineladder/internal/core/site"
)

// rank gives a page its place among the children of place.Parent and settles the place's neighbours. A neighbour that
// is gone leaves the other one to go by, and without any the page stands last (rules 9.4). Only the page's own row
// changes, unless the new rank is longer than site.RankLimit: then the run is numbered anew (rules 2.7).
func (st *state) rank(p *site.Page, place *Place) error {
	if place.After == p.ID || place.Before == p.ID {
		return refuse("A page can't stand beside itself.")
	}
	s := st.Peek()
	at, siblings := st.gap(p.ID, place)
	rankAt := func(i int) string {
		if i < 0 || i >= len(siblings) {
			return ""
		}
		return s.Page(siblings[i]).Rank
	}
	if parent := s.Page(place.Parent); parent != nil && parent.Sort != site.SortManual {
		p.Rank = rankUnderRule(s, p, at, siblings)
		return nil
	}
	if p.Rank = site.RankBetween(rankAt(at-1), rankAt(at)); len(p.Rank) > site.RankLimit {
		ranks := site.Ranks(len(siblings) + 1)
		p.Rank = ranks[at]
		renumbered := make([]*site.Page, len(siblings))
		for i, rank := range slices.Delete(ranks, at, at+1) {
			sibling := *s.Page(siblings[i])
			sibling.Rank = rank
			renumbered[i] = &sibling
		}
		st.Put(renumbered...)
	}
	return nil
}

// rankUnderRule places a pinned page among the pins beside the gap. Any other rank is kept for the day the rule ends:
// last. Ranks are unique among all siblings, so the next rank of any of them bounds the new one.
func rankUnderRule(s *site.Site, p *site.Page, at int, siblings []site.PageID) string {
	pinned := func(i int) bool { return i >= 0 && i < len(siblings) && s.Page(siblings[i]).Pin == p.Pin }
	lower, upper := "", ""
	switch {
	case p.Pin != site.PinNone && pinned(at-1):
		lower = s.Page(siblings[at-1]).Rank
		for _, id := range siblings {
			if rank := s.Page(id).Rank; rank > lower && (upper == "" || rank < upper) {
				upper = rank
			}
		}
	case p.Pin != site.PinNone && pinned(at):
		upper = s.Page(siblings[at]).Rank
		for _, id := range siblings {
			if rank := s.Page(id).Rank; rank < upper {
				lower = max(lower, rank)
			}
		}
	default:
		lower = highest(s, siblings)
	}
	return site.RankBetween(lower, upper)
}

// pinAt says how a page is pinned after a move: under a rule, at an end or among pins it is pinned there, and between
// two that the rule orders no page can be put by hand (rules 2.3). A pin belongs to a page and its parent.
func (st *state) pinAt(was, target *site.Page, o OpMove) (site.Pin, error) {
	place := o.To
	at, siblings := st.gap(was.ID, &place)
	switch {
	case o.Pin != nil:
		return site.Pin(o.Pin.New), nil
	case was.Parent != target.ID:
		return site.PinNone, nil
	case target.Sort == site.SortManual || len(siblings) == 0:
		return was.Pin, nil
	case o.To.After == 0 && o.To.Before == 0:
		return site.PinNone, nil
	}
	s := st.Peek()
	starts, ends := 0, 0
	for _, id := range siblings {
		switch s.Page(id).Pin {
		case site.PinStart:
			starts++
		case site.PinEnd:
			ends++
		}
	}
	switch {
	case at <= starts:
		return site.PinStart, nil
	case at >= len(siblings)-ends:
		return site.PinEnd, nil
	}
	return was.Pin, refuse(
		"The pages in “%s” stand %s, so none can be put between two of them. Choose “by hand” as their order first, or "+
			"put it first or last.",
		target.Label,
		RuleWords(target.Sort),
	)
}

// RuleWords says a sort rule as the screens do.
func RuleWords(rule site.SortRule) string {
	switch rule {
	case site.SortLabel:
		return "from A to Z"
	case site.SortNewest:
		return "newest first"
	case site.SortDate:
		return "by date, earliest first"
	case site.SortDateDown:
		return "by date, latest first"
	}
	return "by hand"
}

// Sorting gives the operations that change the sort rule of a page's children. To “by hand” the order that stands is
// kept: it is written down first (rules 2.4).
func Sorting(s *site.Site, page site.PageID, rule site.SortRule) []Op {
	was := s.Page(page).Sort
	change := OpEdit{Page: page, Fields: []FieldChange{{Field: FieldSort, Old: string(was), New: string(rule)}}}
	if rule == site.SortManual && was != site.SortManual {
		return []Op{OpOrder{Page: page, Children: slices.Clone(s.Children(page))}, change}
	}
	return []Op{change}
}

// gap finds the index of a place among the siblings, the page itself left out of them.
func (st *state) gap(self site.PageID, place *Place) (int, []site.PageID) {
	siblings := st.Peek().Children(place.Parent)
	if own := slices.Index(siblings, self); own >= 0 {
		siblings = slices.Delete(slices.Clone(siblings), own, own+1)
	}
	return settleGap(siblings, &place.After, &place.Before), siblings
}

// settleGap finds the index of a gap among siblings by its neighbours, and settles these. A neighbour that is gone
// leaves the other one to go by, and without any the gap is the last.
func settleGap[ID ~int64](siblings []ID, after, before *ID) int {
	at := len(siblings)
	if i := slices.Index(siblings, *after); *after != 0 && i >= 0 {
		at = i + 1
	} else if i := slices.Index(siblings, *before); *before != 0 && i >= 0 {
		at = i
	}
	*after, *before = 0, 0
	if at > 0 {
		*after = siblings[at-1]
	}
	if at < len(siblings) {
		*before = siblings[at]
	}
	return at
}

func (st *state) rankTaken(p *site.Page) bool {
	s := st.Peek()
	return slices.ContainsFunc(s.Children(p.Parent), func(id site.PageID) bool { return s.Page(id).Rank == p.Rank })
}

func highest(s *site.Site, siblings []site.PageID) string {
	top := ""
	for _, id := range siblings {
		top = max(top, s.Page(id).Rank)
	}
	return top
}
