package check

import "vineladder/internal/core/site"

func pageBlank() Check {
	return Check{
		Key: "page-blank", Name: "Live pages without text", Weight: Wrong,
		Why: "Visitors come to a page that says nothing.",
		Page: func(l *Look, p *site.Page, at Standing, tell Tell) {
			if !l.ordinary(p) || !l.visited(p, at) || p.Text != "" || p.Listing != "" || p.Values != "" ||
				len(l.Site.Children(p.ID)) > 0 {
				return
			}
			tell(site.PageThing(p.ID), p.ID, "", "%s is online and has no text.", l.label(p.ID))
		},
	}
}
