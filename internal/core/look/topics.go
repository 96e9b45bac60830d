package look

import (
	"vineladder/internal/core/address"
	"vineladder/internal/core/site"
	"vineladder/internal/core/topic"
)

// Topics is what a page shows of topics, as a visitor gets it.
type Topics struct {
	Bears    []TopicGroup
	Narrower []Link
	Pages    []Hit
	Gathers  bool // the page is a topic, which says so where nothing bears it
}

// A TopicGroup is the topics of one list.
type TopicGroup struct {
	List   string
	Topics []Link
}

// A Hit is a page that a topic gathers.
type Hit struct {
	Link
	Summary string
}

// TopicsOf gives what a page shows of topics to who reaches some pages.
func TopicsOf(s *site.Site, id site.PageID, g topic.Gathering) Topics {
	p := s.Page(id)
	made := Topics{Gathers: p != nil && p.IsTopic()}
	link := func(id site.PageID) Link { return Link{s.Page(id).Label, address.Of(s, id)} }
	links := func(pages []site.PageID) []Link {
		var all []Link
		for _, id := range pages {
			all = append(all, link(id))
		}
		return all
	}
	for _, group := range g.Bears {
		made.Bears = append(made.Bears, TopicGroup{s.Page(group.List).Heading(), links(group.Topics)})
	}
	made.Narrower = links(g.Narrower)
	for _, id := range g.Pages {
		made.Pages = append(made.Pages, Hit{Link{s.Page(id).Heading(), address.Of(s, id)}, s.Page(id).Summary})
	}
	return made
}

// Rebase puts a base before every address, as a preview has it.
func (t *Topics) Rebase(base string) {
	for i := range t.Bears {
		rebase(t.Bears[i].Topics, base)
	}
	rebase(t.Narrower, base)
	for i := range t.Pages {
		t.Pages[i].Href = base + t.Pages[i].Href
	}
}

func rebase(links []Link, base string) {
	for i := range links {
		links[i].Href = base + links[i].Href
	}
}

// Words says all that a page shows of topics, a line each.
func (t Topics) Words() []string {
	var words []string
	for _, group := range t.Bears {
		for _, to := range group.Topics {
			words = append(words, "topic "+to.words()+" of “"+group.List+"”")
		}
	}
	for _, to := range t.Narrower {
		words = append(words, "narrower topic "+to.words())
	}
	for _, hit := range t.Pages {
		line := "lists " + hit.words()
		if hit.Summary != "" {
			line += ": " + hit.Summary
		}
		words = append(words, line)
	}
	return words
}
