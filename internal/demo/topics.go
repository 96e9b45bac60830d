package demo

import (
	"slices"
	"strings"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// topic finds a topic by its label in a list; 0 if there is none.
func topic(s *site.Site, list, label string) site.PageID {
	var found site.PageID
	for _, id := range s.TopicLists() {
		if s.Page(id).Label != list {
			continue
		}
		s.Walk(id, func(p *site.Page) bool {
			if p.IsTopic() && p.Label == label {
				found = p.ID
			}
			return found == 0
		})
	}
	return found
}

// bears gives the field by which a page bears some topics; those that are not there are left out.
func bears(topics ...site.PageID) edit.FieldChange {
	topics = slices.DeleteFunc(topics, func(id site.PageID) bool { return id == 0 })
	slices.Sort(topics)
	return field(edit.FieldTopics, edit.TopicsText(slices.Compact(topics)...))
}

// classify gives the hand-written pages their topics: the places that they name, the season of a timetable, the sort of
// a document, and for whom a notice is.
func classify(s *site.Site) []edit.Op {
	within := func(p *site.Page, label string) bool { return s.IsWithin(p.ID, find(s, label)) }
	var ops []edit.Op
	s.Walk(s.Home(), func(p *site.Page) bool {
		if p.Gathers() || p.Parent == 0 {
			return p.Parent == 0
		}
		var topics []site.PageID
		if within(p, "Harbours") || within(p, "Routes") || within(p, "Notices") || within(p, "Jobs") {
			topics = append(topics, placesIn(s, p)...)
		}
		switch {
		case p.Kind == "timetable":
			topics = append(topics, topic(s, "Season", p.Label))
		case within(p, "Annual reports"):
			topics = append(topics, topic(s, "Document type", "Annual reports"))
		case p.Kind == "notice" && within(p, "Sailing notices"):
			topics = append(topics, topic(s, "Audience of notice", "Passengers"))
		case p.Kind == "notice":
			topics = append(topics, topic(s, "Audience of notice", "Boat owners"))
		}
		if change := bears(topics...); change.New != "" {
			ops = append(ops, edit.OpEdit{Page: p.ID, Fields: []edit.FieldChange{change}})
		}
		return true
	})
	return ops
}

// placesIn gives the places that the label of a page names: a harbour, else its islands.
func placesIn(s *site.Site, p *site.Page) []site.PageID {
	if harbour := topic(s, "Places", p.Label); harbour != 0 {
		return []site.PageID{harbour}
	}
	var places []site.PageID
	for _, island := range islands {
		if strings.Contains(p.Heading(), island) {
			places = append(places, topic(s, "Places", island))
		}
	}
	return places
}
