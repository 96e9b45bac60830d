package check

import (
	"strings"

	"vineladder/internal/core/count"
	"vineladder/internal/core/site"
)

func sameLabel() Check {
	return Check{
		Key: "same-label", Name: "Pages of one label beside each other", Weight: Doubt,
		Why: "Who reads the menu can't tell them apart (WCAG 2.2, 2.4.4; common practice).",
		Children: func(l *Look, parent *site.Page, tell Tell) {
			if site.IsOwnKind(parent.Kind) {
				return
			}
			seen := map[string][]site.PageID{}
			for _, id := range l.Site.Children(parent.ID) {
				if p := l.Site.Page(id); p.Listed && p.Status == site.StatusLive && !site.IsOwnKind(p.Kind) {
					label := strings.ToLower(p.Label)
					seen[label] = append(seen[label], id)
				}
			}
			for _, same := range seen {
				for _, id := range same[1:] {
					tell(site.PageThing(id), id, l.Site.Page(id).Label, "%s stand inside %s with the label %s.",
						count.Of(len(same), "page", "pages"), l.label(parent.ID), l.label(id))
				}
			}
		},
	}
}
