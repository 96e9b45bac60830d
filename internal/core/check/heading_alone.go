package check

import (
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

func headingAlone() Check {
	return Check{
		Key: "heading-alone", Name: "Headings in menus with nothing below them", Weight: Wrong,
		Why: "A heading shows only with an item below it (rules 5.1): this one never does.",
		Menu: eachItem(func(l *Look, m *site.Menu, e *site.Entry, tell Tell) {
			if _, heading := e.Shows.(site.ItemHeading); heading && !e.Off && len(m.BelowLine(e.ID, 0)) == 0 {
				tell(entryThing(e.ID), 0, "", "%s is a heading, and no item stands below it.", l.called(m, e))
			}
		}),
		FixWords: "Take the heading out",
		Fix:      func(l *Look, p Problem) []edit.Op { return l.takeItem(p) },
	}
}
