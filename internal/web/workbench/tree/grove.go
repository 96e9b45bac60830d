package tree

import (
	"slices"

	"vineladder/internal/core/count"
	"vineladder/internal/core/site"
	"vineladder/internal/core/topic"
	"vineladder/internal/web/workbench/desk"
)

// A grove is the part of the tree that an area has the ladder of.
type grove struct {
	area string
	tops func(*site.Site) []site.PageID
	has  func(*site.Site, site.PageID) bool
	// keeps says which of the pages inside others it has; nil: all.
	keeps func(*site.Page) bool
}

// treeGrove is the whole tree, topicGrove the topic lists in it.
var (
	treeGrove = grove{
		area: "tree",
		tops: func(s *site.Site) []site.PageID { return []site.PageID{s.Home()} },
		has:  func(s *site.Site, id site.PageID) bool { return s.InTree(id) },
	}
	topicGrove = grove{
		area: "topics",
		tops: (*site.Site).TopicLists,
		has:  func(s *site.Site, id site.PageID) bool { return s.InTree(id) && s.Page(id).Gathers() },
	}
)

// kids gives the pages inside one that the grove has. The slice may be the Site's.
func (g grove) kids(s *site.Site, id site.PageID) []site.PageID {
	all := s.Children(id)
	if g.keeps == nil {
		return all
	}
	return slices.DeleteFunc(slices.Clone(all), func(kid site.PageID) bool { return !g.keeps(s.Page(kid)) })
}

// index gives where a page stands among those, and how many there are.
func (g grove) index(s *site.Site, id site.PageID) (at, size int) {
	if g.keeps == nil {
		return s.Index(id)
	}
	kids := g.kids(s, s.Page(id).Parent)
	return slices.Index(kids, id), len(kids)
}

// counts gives how many pages there are to each topic, where the area shows that.
func (g grove) counts(d *desk.Desk) *topic.Counts {
	if g.area != topicGrove.area {
		return nil
	}
	return topic.CountsOf(d.Site, d.Lens)
}

// countWords says how many pages there are to a topic, and how many of them bear it themselves.
func countWords(c topic.Count) string {
	if c.Own == c.All {
		return count.Number(c.All)
	}
	return count.Number(c.All) + ", own " + count.Number(c.Own)
}
