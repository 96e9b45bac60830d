package grant

import (
	"fmt"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// Veiled is the label of a concealed page for who may not know of it.
const Veiled = "a page that you can't see"

// SeesThrough says whether somebody sees every page of the workbench at least by its label: who may order pages, or
// set who sees them, on the whole site (rules 8.1).
func SeesThrough(s *site.Site, roles []string) bool {
	h := Holding(s, roles)
	return h.Through(site.ActionArrange, site.SiteThing) != nil || h.Through(site.ActionAdmit, site.SiteThing) != nil
}

// Veil gives a Site as somebody may look at it: a concealed page that does not admit them, and that they may neither
// order nor admit to, has nothing but its place. Where there is no such page it is the Site itself.
func Veil(s *site.Site, roles []string) *site.Site { return NewVeil(roles)(s) }

// NewVeil gives a function that does so with several Sites. What is the same page in two of them is so through the
// veil too, so that they differ where they did.
func NewVeil(roles []string) func(*site.Site) *site.Site {
	known := map[*site.Page]*site.Page{}
	return func(s *site.Site) *site.Site {
		return veil(s, roles, func(p *site.Page) *site.Page {
			if known[p] == nil {
				known[p] = withoutWords(p)
			}
			return known[p]
		})
	}
}

func veil(s *site.Site, roles []string, cover func(*site.Page) *site.Page) *site.Site {
	if SeesThrough(s, roles) {
		return s
	}
	h := Holding(s, roles)
	panel := reach.NewPanel(reach.Lens{Visitor: reach.As(s, roles)})
	var veiled []*site.Page
	var walk func(p *site.Page, state reach.State)
	walk = func(p *site.Page, state reach.State) {
		if state.Concealed && state.Admitted == 0 && !h.knows(p.ID) {
			veiled = append(veiled, cover(p))
		}
		for _, id := range s.Children(p.ID) {
			kid := s.Page(id)
			walk(kid, panel.Below(state, kid))
		}
	}
	for _, top := range append([]site.PageID{s.Home()}, s.Binned()...) {
		if p := s.Page(top); p != nil {
			walk(p, panel.Home(p))
		}
	}
	if len(veiled) == 0 {
		return s
	}
	b := s.Builder()
	b.Put(veiled...)
	return b.Site()
}

// knows says whether somebody may know of a page whatever it conceals.
func (h *Holder) knows(id site.PageID) bool {
	return h.Through(site.ActionArrange, site.PageThing(id)) != nil ||
		h.Through(site.ActionAdmit, site.PageThing(id)) != nil
}

// withoutWords leaves of a page where it stands, who sees it and when.
func withoutWords(p *site.Page) *site.Page {
	name := fmt.Sprintf("page-%d", p.ID)
	return &site.Page{
		ID: p.ID, Parent: p.Parent, Key: name, Segment: name, Label: Veiled, Rank: p.Rank, Pin: p.Pin, Sort: p.Sort,
		Kind: p.Kind, Listed: p.Listed, Conceal: p.Conceal, KeptOut: p.KeptOut, SecondPerson: p.SecondPerson,
		Binned: p.Binned, BinnedAt: p.BinnedAt, Purged: p.Purged, Status: p.Status, Audience: p.Audience,
		LiveFrom: p.LiveFrom, LiveUntil: p.LiveUntil, FirstOnline: p.FirstOnline, Since: p.Since, Layout: p.Layout,
		BranchLayout: p.BranchLayout, Revision: p.Revision, Changed: p.Changed,
	}
}
