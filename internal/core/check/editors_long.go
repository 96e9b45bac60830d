package check

import (
	"time"

	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

func editorsLong() Check {
	return Check{
		Key: "editors-long", Name: "Pages kept for editors for long", Weight: Doubt,
		Why: "“Only us until it is ready” is meant to end (rules 4.2).",
		Page: func(l *Look, p *site.Page, _ Standing, tell Tell) {
			days := l.Site.Settings().ReadyDays
			if p.Audience != site.AudienceEditors || days == 0 || p.Changed.IsZero() ||
				l.At.Sub(p.Changed) < time.Duration(days)*24*time.Hour {
				return
			}
			tell(site.PageThing(p.ID), p.ID, p.Changed.Format(time.DateOnly),
				"%s is only for who edits it, and was last changed more than %s ago.", l.label(p.ID),
				count.Of(days, "day", "days"))
		},
		FixWords: "Show it to whom the page above is shown",
		Fix: func(l *Look, p Problem) []edit.Op {
			return l.setPage(p, edit.FieldAudience, string(site.AudienceInherited))
		},
	}
}
