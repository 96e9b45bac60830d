package check

import (
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

func audienceWider() Check {
	return Check{
		Key: "audience-wider", Name: "Pages for more people than what stands above them", Weight: Doubt,
		Why: "Their own audience counts (rules 4.2), so people reach them who can't open the pages above.",
		Page: func(l *Look, p *site.Page, at Standing, tell Tell) {
			if p.Audience == site.AudienceInherited || at.From == nil ||
				!edit.IsWider(l.Site, p.Audience, at.Audience) {
				return
			}
			tell(site.PageThing(p.ID), p.ID, string(p.Audience)+" "+string(at.Audience),
				"%s admits people who don't reach %s above it.", l.label(p.ID), l.label(at.From.ID))
		},
		FixWords: "Show it to whom the page above is shown",
		Fix: func(l *Look, p Problem) []edit.Op {
			return l.setPage(p, edit.FieldAudience, string(site.AudienceInherited))
		},
	}
}
