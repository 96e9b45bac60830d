package check

import (
	"fmt"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

func linkOutOfReach() Check {
	return Check{
		Key: "link-out-of-reach", Name: "Links to what the page's readers can't reach", Weight: Wrong,
		Why: "A link to what a visitor does not reach is plain words to them (rules 3.7).",
		Page: func(l *Look, p *site.Page, at Standing, tell Tell) {
			links := l.Site.Links(p.Text)
			if len(links) == 0 || !l.visited(p, at) {
				return
			}
			audience := p.Audience
			if audience == site.AudienceInherited {
				audience = at.Audience
			}
			told := map[site.PageID]bool{}
			for _, to := range links {
				if why := l.unreached(to, audience); why != "" && !told[to] {
					told[to] = true
					tell(
						site.PageThing(p.ID),
						p.ID,
						fmt.Sprint(to, " ", why),
						"The text of %s links to %s, which %s.",
						l.label(p.ID),
						l.label(to),
						why,
					)
				}
			}
		},
	}
}

// unreached says why some readers of a page that is for an audience don't reach another page; "" if all do.
func (l *Look) unreached(to site.PageID, audience site.Audience) string {
	if audience == site.AudienceInherited {
		audience = site.AudienceEveryone
	}
	p := l.Site.Page(to)
	switch {
	case p == nil || p.Purged:
		return "is gone for good"
	case !l.Site.InTree(to):
		return "is in the bin"
	case reach.WhyOffline(l.Site, to, l.At).Cause != nil:
		return "is offline"
	}
	its := reach.Source(l.Site, to).Audience
	if its == site.AudienceInherited {
		its = site.AudienceEveryone
	}
	if edit.IsWider(l.Site, audience, its) {
		return "is for fewer people"
	}
	return ""
}
