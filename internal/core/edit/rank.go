package edit

import (
	"slices"

	"vineladder/internal/core/site"
)

// rank gives a page its place among the children of place.Parent and settles the place's neighbours. A neighbour that is
// gone leaves the other one to go by, and without any the page stands last (rules 9.4). Only the page's own row
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
	if parent := s.Page(place.Parent); parent != nil && parent.Sort != site.Manual {
		// Under a rule the rank is kept for the day the rule ends; it goes last.
		at = len(siblings)
		p.Rank = site.RankBetween(highest(s, siblings), "")
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

// gap finds the index of a place among the siblings, the page itself left out of them.
func (st *state) gap(self site.PageID, place *Place) (int, []site.PageID) {
	siblings := st.Peek().Children(place.Parent)
	if own := slices.Index(siblings, self); own >= 0 {
		siblings = slices.Delete(slices.Clone(siblings), own, own+1)
	}
	at := len(siblings)
	if i := slices.Index(siblings, place.After); place.After != 0 && i >= 0 {
		at = i + 1
	} else if i := slices.Index(siblings, place.Before); place.Before != 0 && i >= 0 {
		at = i
	}
	place.After, place.Before = 0, 0
	if at > 0 {
		place.After = siblings[at-1]
	}
	if at < len(siblings) {
		place.Before = siblings[at]
	}
	return at, siblings
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
