package grant

import (
	"vineladder/internal/core/site"
)

// A Setting is a page on which it is said who sees it, or who may do something there.
type Setting struct {
	Page   *site.Page
	Grants map[string]Rights // by role: what is given to it here
}

// Settings gives the pages of the tree with settings of their own, in its order. It visits every page.
func Settings(s *site.Site) []Setting {
	on := map[site.PageID]map[string]Rights{}
	for _, role := range s.Roles() {
		for _, g := range role.Grants {
			if g.On.Family != site.FamilyPage {
				continue
			}
			id := site.PageID(g.On.ID)
			if on[id] == nil {
				on[id] = map[string]Rights{}
			}
			on[id][role.Key] |= RightsTo(g.Action)
		}
	}
	var all []Setting
	s.Walk(s.Home(), func(p *site.Page) bool {
		if p.Parent == 0 || p.Audience != site.AudienceInherited || p.Conceal || on[p.ID] != nil {
			all = append(all, Setting{p, on[p.ID]})
		}
		return true
	})
	return all
}
