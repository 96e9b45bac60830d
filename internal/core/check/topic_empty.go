package check

import (
	"slices"

	"vineladder/internal/core/site"
)

func topicEmpty() Check {
	return Check{
		Key: "topic-empty", Name: "Topics without pages", Weight: Advice,
		Why: "Nothing is about the topic or a narrower one.",
		Site: func(l *Look, tell Tell) {
			for _, list := range l.Site.TopicLists() {
				l.emptyBelow(list, tell)
			}
		},
	}
}

// emptyBelow tells of the topics inside one without pages, and says whether some page is about one of them.
func (l *Look) emptyBelow(above site.PageID, tell Tell) (some bool) {
	for _, id := range l.Site.Children(above) {
		p := l.Site.Page(id)
		if !p.IsTopic() {
			continue
		}
		bears := func(page site.PageID) bool { return l.Site.InTree(page) }
		full := l.emptyBelow(id, tell) || slices.ContainsFunc(l.Site.Bearing(id), bears)
		for _, merged := range l.Site.MergedInto(id) {
			full = full || slices.ContainsFunc(l.Site.Bearing(merged), bears)
		}
		if !full {
			tell(site.PageThing(id), id, "", "No page is about %s or a narrower topic.", l.label(id))
		}
		some = some || full
	}
	return some
}
