package grant

import (
	"slices"

	"vineladder/internal/core/site"
)

// Rights is a set of actions, a bit for each in the order of site.Actions.
type Rights uint16

// RightsTo gives the set of some actions.
func RightsTo(actions ...site.Action) (set Rights) {
	for _, action := range actions {
		set |= 1 << slices.Index(site.Actions(), action)
	}
	return set
}

// Has says whether an action is in the set.
func (r Rights) Has(action site.Action) bool { return r&RightsTo(action) != 0 }

// Actions gives the actions of the set in their order.
func (r Rights) Actions() []site.Action {
	var all []site.Action
	for i, action := range site.Actions() {
		if r>>i&1 == 1 {
			all = append(all, action)
		}
	}
	return all
}

// pageRights is what somebody may do on each page, looked up once for all pages.
type pageRights struct {
	site   Rights
	pages  map[site.PageID]Rights
	kinds  map[string]Rights
	plenty bool // there are rights on pages or types
}

// onPages looks up what a holder may do on pages.
func (h *Holder) onPages() pageRights {
	made := pageRights{pages: map[site.PageID]Rights{}, kinds: map[string]Rights{}}
	for g := range h.given {
		set := RightsTo(g.Action)
		switch g.On.Family {
		case site.FamilySite:
			made.site |= set
		case site.FamilyPage:
			made.pages[site.PageID(g.On.ID)] |= set
		case site.FamilyKind:
			made.kinds[g.On.Key] |= set
		}
	}
	made.plenty = len(made.pages)+len(made.kinds) > 0
	return made
}

// On gives what the holder may do on one page.
func (h *Holder) On(id site.PageID) (set Rights) {
	for _, action := range site.Actions() {
		if h.Through(action, site.PageThing(id)) != nil {
			set |= RightsTo(action)
		}
	}
	return set
}

// Walk visits the tree of the public Site from the top down with what the holder may do on each page, the branch below
// a page as long as visit says so. It costs one pass over what is visited.
func (h *Holder) Walk(visit func(*site.Page, Rights) bool) {
	on, reader := h.onPages(), site.NewReader(h.public)
	var down func(p *site.Page, above Rights)
	down = func(p *site.Page, above Rights) {
		here := above
		if on.plenty {
			above |= on.pages[p.ID]
			here = above | on.kinds[p.Kind]
		}
		if !visit(p, here) {
			return
		}
		for _, id := range reader.Children(p.ID) {
			down(reader.Page(id), above)
		}
	}
	if home := h.public.Page(h.public.Home()); home != nil {
		down(home, on.site)
	}
}
