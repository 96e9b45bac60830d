package check

import (
	"strings"

	"vineladder/internal/core/count"
	"vineladder/internal/core/site"
)

func sameTitle() Check {
	return Check{
		Key: "same-title", Name: "Pages with the same title", Weight: Doubt,
		Why: "Bookmarks, tabs and hits of a search show the title alone (WCAG 2.2, 2.4.2).",
		Site: func(l *Look, tell Tell) {
			pages := map[string][]site.PageID{}
			l.Walk(func(p *site.Page, at Standing) {
				if l.ordinary(p) && l.visited(p, at) {
					title := strings.ToLower(p.Heading())
					pages[title] = append(pages[title], p.ID)
				}
			})
			for _, same := range pages {
				for _, id := range same[min(1, len(same)):] {
					tell(
						site.PageThing(id),
						id,
						l.Site.Page(id).Heading(),
						"%s have the title “%s”; this one is inside %s.",
						count.Of(
							len(same),
							"page",
							"pages",
						),
						l.Site.Page(id).Heading(),
						l.label(l.Site.Page(id).Parent),
					)
				}
			}
		},
	}
}
