package check

import (
	"vineladder/internal/core/detail"
	"vineladder/internal/core/site"
)

func detailMissing() Check {
	return Check{
		Key: "detail-missing", Name: "Pages without what their type needs", Weight: Wrong,
		Why: "The page was there before its type asked for it (rules 7.12).",
		Page: func(l *Look, p *site.Page, at Standing, tell Tell) {
			if !l.visited(p, at) {
				return
			}
			for _, lack := range detail.Lacking(l.Site, p) {
				words := lack.Words(l.Site)
				tell(site.PageThing(p.ID), p.ID, words, "%s needs %s and has none.", l.label(p.ID), words)
			}
		},
	}
}
