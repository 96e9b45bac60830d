package menu

import "vineladder/internal/core/site"

// Level is the level at which an entry of a menu stands, from 1. One below a line of a run stands a level below that
// line, wherever it would be.
func Level(s *site.Site, m *site.Menu, id site.EntryID) int {
	level := 0
	for e, left := m.Entry(id), len(m.Entries); e != nil && left >= 0; e, left = m.Entry(e.Parent), left-1 {
		level++
		if above := m.Entry(e.Parent); e.Under != 0 && above != nil {
			level += lineDepth(s, above, e.Under)
		}
	}
	return level
}

// lineDepth is how many levels below its entry a line stands: 0 for the own one, and for those of a run beside it.
func lineDepth(s *site.Site, e *site.Entry, page site.PageID) int {
	to, generated := e.Shows.(site.ItemBranch)
	if !generated || page == to.Root {
		return 0
	}
	depth := 0
	if to.Self == site.SelfAbove {
		depth = 1
	}
	if to.Hits == 0 && s.Page(page) != nil && s.IsWithin(page, to.Root) {
		depth += s.Level(page) - s.Level(to.Root) - 1
	}
	return depth
}

// firstBelow is the level of the lines that an entry has below it: the lines of a run stand at the entry's own level
// unless the root is above them.
func firstBelow(s *site.Site, m *site.Menu, e *site.Entry) int {
	if to, generated := e.Shows.(site.ItemBranch); generated && to.Self != site.SelfAbove {
		return Level(s, m, e.ID)
	}
	return Level(s, m, e.ID) + 1
}

// way gives the pages of the lines that lead to a line of an entry's run, from the top of the run, itself last; false
// if it can't be in the run.
func way(s *site.Site, e *site.Entry, page site.PageID) (pages []*site.Page, can bool) {
	to, generated := e.Shows.(site.ItemBranch)
	p := s.Page(page)
	switch {
	case !generated || p == nil || !s.InTree(page):
		return nil, false
	case page == to.Root:
		return nil, to.Self != site.SelfNot
	case to.Hits > 0:
		return []*site.Page{p}, true
	case !s.InTree(to.Root) || !s.IsWithin(page, to.Root):
		return nil, false
	}
	path := s.Path(page)
	pages = path[s.Level(to.Root)+1:]
	return pages, len(pages) <= depth(to)
}
