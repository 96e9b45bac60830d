package check

import (
	"slices"

	"vineladder/internal/core/site"
)

func tableBare() Check {
	return Check{
		Key: "table-bare", Name: "Tables without headers", Weight: Wrong,
		Why: "A screen reader can't say what a cell is about (WCAG 2.2, 1.3.1; failure F91).",
		Page: func(l *Look, p *site.Page, _ Standing, tell Tell) {
			if slices.Contains(l.Site.TextFaults(p.Text), site.FaultBareTable) {
				tell(site.PageThing(p.ID), p.ID, "", "The text of %s has a table without a header row or column.",
					l.label(p.ID))
			}
		},
	}
}
