package check

import (
	"cmp"

	"vineladder/internal/core/site"
)

func tooDeep() Check {
	return Check{
		Key: "too-deep", Name: "Pages at too deep a level", Weight: Advice,
		Why: "The deeper a page, the fewer find it (common practice, no source).",
		Page: func(l *Look, p *site.Page, at Standing, tell Tell) {
			most := cmp.Or(l.Site.Settings().MostLevels, UsualLevels)
			if at.Level == most+1 && !site.IsOwnKind(p.Kind) {
				tell(site.PageThing(p.ID), p.ID, "", "%s stands at level %d.", l.label(p.ID), at.Level)
			}
		},
	}
}
