package check

import (
	"time"

	"vineladder/internal/core/site"
)

func reviewOverdue() Check {
	return Check{
		Key: "review-overdue", Name: "Pages whose review is overdue", Weight: Doubt,
		Why: "Nobody has said since that they are still right (rules 13).",
		Page: func(l *Look, p *site.Page, at Standing, tell Tell) {
			here := l.Care.Below(at.Care, p)
			if due, ok := l.Care.Due(here, p, l.At); ok && due.Before(l.At) {
				day := due.In(l.Site.Settings().Zone)
				tell(
					site.PageThing(p.ID),
					p.ID,
					day.Format(time.DateOnly),
					"The review of %s was due on %s.",
					l.label(p.ID),
					day.Format("2 January 2006"),
				)
			}
		},
	}
}
