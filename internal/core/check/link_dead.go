package check

import (
	"vineladder/internal/core/site"
	"vineladder/internal/core/weblink"
)

func linkDead() Check {
	return Check{
		Key: "link-dead", Name: "Web addresses that don't answer", Weight: Wrong,
		Why: "Visitors who follow the link get nowhere. It failed several times, days apart. Settings say whether " +
			"addresses are looked at.",
		Site: func(l *Look, tell Tell) {
			if l.Links == nil || len(l.Links.Dead) == 0 {
				return
			}
			weblink.Uses(l.Site, func(u weblink.Use) {
				if dead, is := l.Links.Of(u.To); is {
					tell(u.On, u.Page, u.To, "%s leads to %s, which does not answer: %s.", l.linking(u.On), u.To, dead.Why)
				}
			})
		},
	}
}

// linking names what links to a web address.
func (l *Look) linking(on site.Thing) string {
	switch on.Family {
	case site.FamilyPage:
		return "The page " + l.label(site.PageID(on.ID))
	case site.FamilyBlock:
		return "The block “" + l.Site.Block(site.BlockID(on.ID)).Name + "”"
	}
	for i := range l.Site.Menus() {
		m := &l.Site.Menus()[i]
		if e := m.Entry(site.EntryID(on.ID)); e != nil {
			return l.called(m, e)
		}
	}
	return "An item"
}
