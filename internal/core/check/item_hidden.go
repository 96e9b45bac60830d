package check

import (
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

func itemHidden() Check {
	return Check{
		Key: "item-hidden", Name: "Menu items hidden by what stands above them", Weight: Doubt,
		Why: "What stands below an item that is off shows to nobody, however it is set itself (rules 5.2).",
		Menu: eachItem(func(l *Look, m *site.Menu, e *site.Entry, tell Tell) {
			if above := m.Entry(e.Parent); !e.Off && above != nil && above.Off {
				tell(entryThing(e.ID), 0, "", "%s is on, and does not show: %s above it is off.",
					l.called(m, e), "“"+l.Site.EntryLabel(above)+"”")
			}
		}),
		FixWords: "Switch this item off too",
		Fix:      func(l *Look, p Problem) []edit.Op { return l.setItem(p, edit.FieldOn, "no") },
	}
}
