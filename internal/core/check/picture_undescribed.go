package check

import "vineladder/internal/core/site"

func pictureUndescribed() Check {
	return Check{
		Key: "picture-undescribed", Name: "Pictures without a description", Weight: Wrong,
		Why: "Who does not see the picture learns nothing of it (WCAG 2.2, 1.1.1). " +
			"Where it only decorates, say that it is meant so.",
		Page: func(l *Look, p *site.Page, _ Standing, tell Tell) {
			if p.IsFile() && p.BytesOf().IsPicture() && p.Summary == "" && len(l.Site.UsesOf(p.ID)) > 0 {
				tell(
					site.PageThing(p.ID),
					p.ID,
					p.Bytes,
					"The picture %s is in use and has no description.",
					l.label(p.ID),
				)
			}
		},
	}
}
