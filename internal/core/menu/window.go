package menu

import (
	"cmp"
	"slices"

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
	start := v.start(w, trail)
	if len(start) == 0 {
		return nil
	}
	cut := cutter{v, w, trail, start[0].Level, 0}
	nodes := cut.nodes(start)
	cut.mark(nodes, current)
	return nodes
}

// Has says whether a window that does not follow the trail, or begins at its top, shows anything.
func (v *View) Has(w site.Window) bool { return len(v.start(w, nil)) > 0 }

// start gives the lines of the first level that the window shows.
func (v *View) start(w site.Window, trail []Line) []Line {
	if w.From == site.FromEntry {
		e := v.menu.Entry(w.Entry)
		if e == nil || !v.shows(e) {
			return nil
		}
		line := Line{Entry: e.ID, Own: true, Level: firstBelow(v.site, v.menu, e) - 1}
		if to, generated := e.Shows.(site.ItemBranch); generated {
			if to.Self == site.SelfBeside { // the root is the first of its run
				own, run := v.branch(e, to, Level(v.site, v.menu, e.ID))
				return append([]Line{*own}, run...)
			}
			line.Page, line.run, line.state = to.Root, depth(to), v.panel.At(v.site, to.Root)
		}
		return v.Children(line)
	}
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

// IsWide says whether a window shows the same lines on all pages: only what the trail lights of them differs.
func IsWide(w site.Window) bool {
	return w.Unfold == site.UnfoldAll && (w.From != site.FromTrail || w.First == 1)
}

// Deepest is the deepest level of the menu at which a line in a window can stand.
func Deepest(s *site.Site, m *site.Menu, w site.Window) int {
	first := w.First
	if w.From == site.FromEntry {
		e := m.Entry(w.Entry)
		if e == nil {
			return 0
		}
		first = firstBelow(s, m, e)
	}
	if w.Levels == 0 {
		return endless
	}
	return first + w.Levels - 1
}

// CanShow says whether a line of an entry, at a level of the menu, can stand in a window on some page.
func CanShow(s *site.Site, m *site.Menu, w site.Window, entry site.EntryID, level int) bool {
	if w.From != site.FromEntry {
		return w.Holds(level)
	}
	named := m.Entry(w.Entry)
	if named == nil {
		return false
	}
	first := firstBelow(s, m, named)
	if level < first || w.Levels > 0 && level >= first+w.Levels {
		return false
	}
	for e := m.Entry(entry); e != nil; e = m.Entry(e.Parent) {
		if e.ID == w.Entry {
			return true
		}
	}
	return false
}

// WhyUnlisted gives the page that keeps a page out of the runs that follow the tree: itself or the nearest one above
// that is not listed (rules 4.4); nil if none does.
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
	first   int // level of the first lines shown
	deepest int // level of the deepest trail line shown
}

func (c *cutter) nodes(lines []Line) []Node {
	var nodes []Node
	for _, line := range lines {
		node := Node{Line: line, Trail: slices.ContainsFunc(c.trail, line.same)}
		if node.Trail {
			c.deepest = max(c.deepest, line.Level)
		}
		if c.unfolds(node) {
			node.Children = c.nodes(c.view.Children(line))
		}
		nodes = append(nodes, node)
	}
	return nodes
}

func (c *cutter) unfolds(node Node) bool {
	inside := c.window.Levels == 0 || node.Level-c.first+1 < c.window.Levels
	return inside && (c.window.Unfold == site.UnfoldAll || node.Trail)
}

// mark gives the deepest trail line shown its aria-current.
func (c *cutter) mark(nodes []Node, current site.PageID) {
	for i := range nodes {
		if nodes[i].Trail && nodes[i].Level == c.deepest {
			nodes[i].Current = "true"
			if nodes[i].Page == current && current != 0 {
				nodes[i].Current = "page"
			}
		}
		c.mark(nodes[i].Children, current)
	}
}

// Lit gives nodes as they are lit on what a page lists, narrowed by a query: the first line that leads to just that is
// the current one, whichever the trail's is. Without one, false, they are lit as on the page.
func Lit(nodes []Node, page site.PageID, query string) (lit []Node, other bool) {
	found := false
	var light func(nodes []Node) []Node
	light = func(nodes []Node) []Node {
		lit := slices.Clone(nodes)
		for i := range lit {
			lit[i].Current = ""
			if n := &lit[i]; !found && cmp.Or(n.Lead, n.Page) == page && n.Query == query {
				found, n.Trail, n.Current = true, true, "page"
			}
			lit[i].Children = light(lit[i].Children)
		}
		return lit
	}
	if lit = light(nodes); found {
		return lit, true
	}
	return nodes, false
}

func (l Line) same(other Line) bool {
	return l.Entry == other.Entry && l.Page == other.Page && l.Level == other.Level
}
