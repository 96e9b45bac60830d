package grant

import "vineladder/internal/core/site"

// MayExcuse says whether somebody may say of a problem with a thing that it is meant so: who may edit the thing (rules
// 10). What is no single thing's is for who keeps the site.
func (h *Holder) MayExcuse(s *site.Site, on site.Thing) Answer {
	switch on.Family {
	case site.FamilyPage:
		return h.May(site.ActionEdit, on)
	case site.FamilyMenu:
		return h.May(site.ActionLink, on)
	case site.FamilyEntry:
		for i := range s.Menus() {
			if m := &s.Menus()[i]; m.Entry(site.EntryID(on.ID)) != nil {
				return h.May(site.ActionLink, site.MenuThing(m.ID))
			}
		}
	case site.FamilyBlock, site.FamilyPlacement:
		return h.May(site.ActionPlace, site.AnyThing)
	}
	return h.May(site.ActionKeep, site.SiteThing)
}
