package menu

import (
	"slices"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A Node is a line as a block shows it.
type Node struct {
	Line
	Trail    bool
	Current  string // the value of aria-current: "page", "true" or none (rules 5.4)
	Children []Node
}

// Window cuts what a block shows on the current page (rules 5.5). Nothing is nil: the block and its title are left out.
func (v *View) Window(w site.Window, current site.PageID) []Node {
	trail := v.Trail(current)
	cut := cutter{v, w, trail, 0}
	nodes := cut.nodes(v.start(w, trail), w.First)
	cut.mark(nodes, current)
	return nodes
}

// start gives the lines of the first level that the window shows.
func (v *View) start(w site.Window, trail []Line) []Line {
	if w.First == 1 {
		return v.Top()
	}
	if w.From == site.FromTrail {
		if len(trail) < w.First-1 {
			return nil
		}
		return v.Children(trail[w.First-2])
	}
	lines := v.Top()
	for level := 1; level < w.First; level++ {
		var below []Line
		for _, line := range lines {
			below = append(below, v.Children(line)...)
		}
		lines = below
	}
	return lines
}

// A Standing is a block that can show a page, and the level of its line there.
type Standing struct {
	Block site.MenuBlock
	Level int
}

// Where gives the blocks that can show a page to a lens (rules 5.7); none is "in no menu".
func Where(s *site.Site, id site.PageID, lens reach.Lens) []Standing {
	var standings []Standing
	for _, block := range s.Blocks() {
		trail := NewView(s, s.Menu(block.Menu), lens).Trail(id)
		if len(trail) == 0 || trail[len(trail)-1].Page != id {
			continue
		}
		if level := trail[len(trail)-1].Level; block.Window.Holds(level) {
			standings = append(standings, Standing{block, level})
		}
	}
	return standings
}

// WhyUnlisted gives the page that keeps a page out of the runs that follow the tree: itself or the nearest one above that
// is not listed (rules 4.4); nil if none does.
func WhyUnlisted(s *site.Site, id site.PageID) *site.Page {
	for p := s.Page(id); p != nil; p = s.Page(p.Parent) {
		if !p.Listed {
			return p
		}
	}
	return nil
}

type cutter struct {
	view    *View
	window  site.Window
	trail   []Line
	deepest int // level of the deepest trail line shown
}

func (c *cutter) nodes(lines []Line, level int) []Node {
	var nodes []Node
	for _, line := range lines {
		node := Node{Line: line, Trail: slices.ContainsFunc(c.trail, line.same)}
		if node.Trail {
			c.deepest = max(c.deepest, line.Level)
		}
		if c.unfolds(node, level) {
			node.Children = c.nodes(c.view.Children(line), level+1)
		}
		nodes = append(nodes, node)
	}
	return nodes
}

func (c *cutter) unfolds(node Node, level int) bool {
	inside := c.window.Levels == 0 || level-c.window.First+1 < c.window.Levels
	return inside && (c.window.Unfold == site.UnfoldAll || node.Trail)
}

// mark gives the deepest trail line shown its aria-current.
func (c *cutter) mark(nodes []Node, current site.PageID) {
	for i := range nodes {
		if nodes[i].Trail && nodes[i].Level == c.deepest {
			nodes[i].Current = "true"
			if nodes[i].Page == current {
				nodes[i].Current = "page"
			}
		}
		c.mark(nodes[i].Children, current)
	}
}

func (l Line) same(other Line) bool {
	return l.Entry == other.Entry && l.Page == other.Page && l.Level == other.Level
}
