package check

import "vineladder/internal/core/site"

func summaryMissing() Check {
	return Check{
		Key: "summary-missing", Name: "Pages without a summary", Weight: Advice,
		Why: "Lists, searches and search engines show the summary (common practice, no source).",
		Page: func(l *Look, p *site.Page, at Standing, tell Tell) {
			if l.ordinary(p) && l.visited(p, at) && p.Summary == "" && p.Text != "" {
				tell(site.PageThing(p.ID), p.ID, "", "%s has no summary.", l.label(p.ID))
			}
		},
	}
}
