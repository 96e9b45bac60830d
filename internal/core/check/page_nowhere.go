package check

import (
	"slices"

	"vineladder/internal/core/site"
)

func pageNowhere() Check {
	return Check{
		Key: "page-nowhere", Name: "Pages in no menu and linked from nowhere", Weight: Doubt,
		Why: "Visitors find such a page by its address or by searching only.",
		Page: func(l *Look, p *site.Page, at Standing, tell Tell) {
			if p.Parent == 0 || !l.ordinary(p) || !l.visited(p, at) || l.found(p, at) {
				return
			}
			tell(site.PageThing(p.ID), p.ID, "", "%s is in no menu, and nothing links to it.", l.label(p.ID))
		},
	}
}

// found says whether a menu, a link, a list or a topic leads to a page.
func (l *Look) found(p *site.Page, at Standing) bool {
	listed := p.Listed && (at.run > 0 || l.menus.children)
	linked := func(from site.PageID) bool { return l.Site.InTree(from) }
	return listed || l.menus.shown[p.ID] || l.menus.linked[p.ID] ||
		slices.ContainsFunc(l.Site.Linking(p.ID), linked) ||
		slices.ContainsFunc(p.Topics, func(id site.PageID) bool { return l.Site.TopicOf(id) != 0 }) || l.listed(p)
}
