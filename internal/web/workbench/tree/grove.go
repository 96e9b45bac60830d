package tree

import (
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
}

// treeGrove is the whole tree, topicGrove the topic lists in it.
var (
	treeGrove = grove{
		"tree",
		func(s *site.Site) []site.PageID { return []site.PageID{s.Home()} },
		func(s *site.Site, id site.PageID) bool { return s.InTree(id) },
	}
	topicGrove = grove{
		"topics",
		(*site.Site).TopicLists,
		func(s *site.Site, id site.PageID) bool { return s.InTree(id) && s.Page(id).Gathers() },
	}
)

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
