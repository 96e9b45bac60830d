package check

import (
	"vineladder/internal/core/edit"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/site"
)

// inMenus is what menus, blocks and settings say of pages.
type inMenus struct {
	shown    map[site.PageID]bool // by an item of their own
	runs     map[site.PageID]int  // tops of runs, with their levels
	linked   map[site.PageID]bool // by texts of blocks
	special  map[site.PageID]bool // that stand in for others
	children bool                 // a block that stands somewhere shows the pages inside
	lists    []func(*site.Page) bool
	asked    bool // whether lists are known
}

func menusOf(s *site.Site) *inMenus {
	made := &inMenus{
		shown: map[site.PageID]bool{}, runs: map[site.PageID]int{}, linked: map[site.PageID]bool{},
		special: map[site.PageID]bool{s.Settings().Search: true},
	}
	for _, special := range edit.Specials(s.Settings()) {
		made.special[special.Page] = true
	}
	for i := range s.Menus() {
		for k := range s.Menus()[i].Entries {
			made.takeItem(&s.Menus()[i].Entries[k])
		}
	}
	for i := range s.Blocks() {
		b := &s.Blocks()[i]
		switch shows := b.Shows.(type) {
		case site.BlockText:
			for _, to := range s.Links(shows.Text) {
				made.linked[to] = true
			}
		case site.BlockChildren:
			made.children = made.children || len(s.PlacementsOf(b.ID)) > 0
		}
	}
	return made
}

func (m *inMenus) takeItem(e *site.Entry) {
	if e.Off {
		return
	}
	switch to := e.Shows.(type) {
	case site.ItemPage:
		m.shown[to.Page] = true
	case site.ItemBranch:
		depth := to.Depth
		if depth == 0 {
			depth = endless
		}
		m.runs[to.Root] = max(m.runs[to.Root], depth)
		if to.Self == site.SelfAbove || to.Self == site.SelfBeside {
			m.shown[to.Root] = true
		}
	}
}

// listed says whether a list takes a page.
func (l *Look) listed(p *site.Page) bool {
	if !l.menus.asked {
		l.menus.asked = true
		for _, id := range l.Site.Listers() {
			if q, lists := listing.Of(l.Site, id); lists && l.Site.InTree(id) {
				l.menus.lists = append(l.menus.lists, listing.Answering(l.Site, q))
			}
		}
		for i := range l.Site.Blocks() {
			b := &l.Site.Blocks()[i]
			if q, lists := listing.OfBlock(l.Site, b); lists && len(l.Site.PlacementsOf(b.ID)) > 0 {
				l.menus.lists = append(l.menus.lists, listing.Answering(l.Site, q))
			}
		}
	}
	for _, takes := range l.menus.lists {
		if takes(p) {
			return true
		}
	}
	return false
}
