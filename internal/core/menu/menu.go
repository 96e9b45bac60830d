// Package menu decides which lines a menu has for a lens, which of them lie on the trail to the current page, and what a
// window cuts out of them (rules 5). Lines are made as they are asked for: a menu that follows a tree of a million
// pages costs what its window shows.
package menu

import (
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A View is a menu as one lens sees it.
type View struct {
	site  *site.Site
	panel *reach.Panel
	menu  *site.Menu
}

// NewView looks at a menu through one lens.
func NewView(s *site.Site, menu *site.Menu, lens reach.Lens) *View {
	return &View{s, reach.NewPanel(lens), menu}
}

// A Line is what an entry shows: one link. Its identity between two states of a site is (Entry, Page) (rules 9.3).
type Line struct {
	Entry site.EntryID
	Page  site.PageID
	Label string
	Level int // 1 for the top lines

	run   int // levels of the run below this line; 0: it has none
	state reach.State
}

// endless stands for a run without a limit of levels.
const endless = 1 << 30

func depth(e site.BranchEntry) int {
	if e.Depth == 0 {
		return endless
	}
	return e.Depth
}

// Top gives the lines of level 1 that are shown.
func (v *View) Top() []Line {
	var lines []Line
	for _, entry := range v.menu.Entries {
		switch e := entry.(type) {
		case site.BranchEntry:
			own, run := v.branch(e)
			if own != nil {
				lines = append(lines, *own)
			}
			lines = append(lines, run...)
		}
	}
	return lines
}

// branch gives the line of a branch entry's root, nil if there is none, and the lines of its run that stand at the
// entry's own level. An entry whose root the lens does not reach is not admitted (rules 5.2).
func (v *View) branch(e site.BranchEntry) (own *Line, run []Line) {
	state := v.panel.At(v.site, e.Root)
	if state.Reachable() == 0 {
		return nil, nil
	}
	root := Line{Entry: e.ID, Page: e.Root, Level: 1, Label: v.site.Page(e.Root).Label, state: state}
	switch e.Self {
	case site.SelfAbove:
		root.run = depth(e)
		return &root, nil
	case site.SelfBeside:
		return &root, v.run(root, 1, depth(e))
	}
	return nil, v.run(root, 1, depth(e))
}

// Children gives the shown lines below one.
func (v *View) Children(l Line) []Line {
	if l.run == 0 {
		return nil
	}
	return v.run(l, l.Level+1, l.run)
}

// run gives the lines that a page's children make: the listed ones that the lens reaches (rules 4.4).
func (v *View) run(above Line, level, left int) []Line {
	var lines []Line
	for _, id := range v.site.Children(above.Page) {
		if line, shown := v.runLine(above, id, level, left); shown {
			lines = append(lines, line)
		}
	}
	return lines
}

func (v *View) runLine(above Line, id site.PageID, level, left int) (Line, bool) {
	page := v.site.Page(id)
	state := v.panel.Below(above.state, page)
	return Line{above.Entry, id, page.Label, level, left - 1, state}, page.Listed && state.Reachable() != 0
}

// Trail gives the lines from the top down to the one that stands for the current page (rules 5.4): the page itself, else
// its deepest ancestor in the menu, the home page excepted. It is nil if there is none.
func (v *View) Trail(current site.PageID) []Line {
	path := v.site.Path(current)
	var best []Line
	score := 0
	for _, entry := range v.menu.Entries {
		switch e := entry.(type) {
		case site.BranchEntry:
			for _, trail := range v.branchTrails(e, path) {
				if s := v.score(trail, path); s > score {
					best, score = trail, s
				}
			}
		}
	}
	return best
}

// branchTrails gives the candidates of one branch entry: its own line, and the way down its run towards the end of path.
func (v *View) branchTrails(e site.BranchEntry, path []*site.Page) [][]Line {
	at := -1
	for i, page := range path {
		if page.ID == e.Root {
			at = i
		}
	}
	state := v.panel.At(v.site, e.Root)
	if at < 0 || state.Reachable() == 0 {
		return nil
	}
	root := Line{Entry: e.ID, Page: e.Root, Level: 1, Label: path[at].Label, state: state}
	var own, down []Line
	level := 1
	switch e.Self {
	case site.SelfAbove:
		root.run = depth(e)
		own, down, level = []Line{root}, []Line{root}, 2
	case site.SelfBeside:
		own = []Line{root}
	}
	above, left := root, depth(e)
	for _, page := range path[at+1:] {
		line, shown := v.runLine(above, page.ID, level, left)
		if left == 0 || !shown {
			break
		}
		down = append(down, line)
		above, left, level = line, left-1, level+1
	}
	return [][]Line{own, down}
}

// score ranks a trail by its last line: above all the current page, then ancestors by depth, the home page never.
func (v *View) score(trail []Line, path []*site.Page) int {
	if len(trail) == 0 {
		return 0
	}
	last := trail[len(trail)-1].Page
	for level, page := range path {
		if page.ID != last {
			continue
		}
		if level == len(path)-1 {
			return endless
		}
		return level // 0 for the home page
	}
	return 0
}
