package testkit

import (
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// RandomTopics adds up to two topic lists with up to n topics to a site whose pages are numbered from 1 without gaps,
// somewhere among its pages, and lets pages bear some and list pages. New pages are numbered on.
func RandomTopics(t *rapid.T, s *site.Site, n int) *site.Site {
	apply := func(op edit.Op) {
		next, _, err := edit.Apply(s, op, Now)
		if err != nil {
			t.Fatalf("topics: %v", err)
		}
		s = next
	}
	make := func(kind string, parent site.PageID) site.PageID {
		id := site.PageID(s.Count() + 1)
		apply(edit.OpMake{Page: id, Place: edit.Place{Parent: parent}, Fields: append(fields(t),
			edit.FieldChange{Field: edit.FieldLabel, New: label(t)}, edit.FieldChange{Field: edit.FieldKind, New: kind})})
		return id
	}
	pages := ids(s)
	var topics []site.PageID
	for range rapid.IntRange(1, 2).Draw(t, "lists") {
		places := []site.PageID{make(site.KindTopicList, rapid.SampledFrom(pages).Draw(t, "list in"))}
		for range rapid.IntRange(1, n).Draw(t, "topics") {
			id := make(site.KindTopic, rapid.SampledFrom(places).Draw(t, "broader"))
			places, topics = append(places, id), append(topics, id)
		}
	}
	for _, page := range pages {
		some := rapid.SliceOfNDistinct(rapid.SampledFrom(topics), 0, min(3, len(topics)), rapid.ID[site.PageID])
		apply(edit.OpEdit{Page: page, Fields: []edit.FieldChange{
			{Field: edit.FieldTopics, New: edit.TopicsText(some.Draw(t, "bears")...)},
			{Field: edit.FieldListing, New: rapid.SampledFrom([]string{"", "", ";;;label;2", ";;;newest;5"}).Draw(t, "lists")},
		}})
	}
	return s
}

// HomeAlone is a site with a home page alone.
func HomeAlone() *site.Site {
	s, _, err := edit.Apply(Empty(), edit.OpMake{Page: 1, Fields: []edit.FieldChange{
		{Field: edit.FieldLabel, New: "Home"},
	}}, Now)
	if err != nil {
		panic(err)
	}
	return s
}
