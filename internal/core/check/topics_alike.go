package check

import (
	"vineladder/internal/core/ask"
	"vineladder/internal/core/site"
	"vineladder/internal/core/topic"
)

func topicsAlike() Check {
	return Check{
		Key: "topics-alike", Name: "Topics that are called nearly alike", Weight: Doubt,
		Why: "Two topics for one thing share its pages out between them (ANSI/NISO Z39.19).",
		Site: func(l *Look, tell Tell) {
			for _, list := range l.Site.TopicLists() {
				l.Site.Walk(list, func(p *site.Page) bool {
					for _, other := range topic.Alike(l.Site, p.ID, ask.Folded) {
						if other > p.ID {
							tell(
								site.PageThing(p.ID),
								p.ID,
								l.Site.Page(other).Label,
								"The topic %s is called nearly as %s is.",
								l.label(p.ID),
								l.label(other),
							)
						}
					}
					return true
				})
			}
		},
	}
}
