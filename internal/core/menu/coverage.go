package menu

import (
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// Pages counts the pages that a lens reaches and on which a block renders at least one line (rules 5.7). Whether a window that
// follows the trail has lines depends on the trail's line alone, so each such line is asked once.
func Pages(s *site.Site, block site.MenuBlock, lens reach.Lens) int {
	m := s.Menu(block.Menu)
	if m == nil {
		return 0
	}
	c := &counting{view: NewView(s, m, lens), block: block, known: map[Line]bool{}}
	home := s.Page(s.Home())
	if home == nil {
		return 0
	}
	w := block.Window
	if follows := w.From == site.FromTrail && w.First > 1; !follows {
		c.always, c.renders = true, len(c.view.start(w, nil)) > 0
	}
	c.count(home, c.view.panel.Home(home))
	return c.pages
}

type counting struct {
	view    *View
	block   site.MenuBlock
	always  bool // what the block renders does not depend on the page
	renders bool
	known   map[Line]bool // by the trail's line
	pages   int
}

func (c *counting) count(p *site.Page, state reach.State) {
	if state.Reachable() != 0 && c.block.StandsOn(c.view.site, p.ID) && c.on(p.ID) {
		c.pages++
	}
	for _, kid := range c.view.site.Children(p.ID) {
		below := c.view.site.Page(kid)
		c.count(below, c.view.panel.Below(state, below))
	}
}

func (c *counting) on(page site.PageID) bool {
	if c.always {
		return c.renders
	}
	trail := c.view.Trail(page)
	if len(trail) < c.block.Window.First-1 {
		return false
	}
	line := trail[c.block.Window.First-2]
	renders, known := c.known[line]
	if !known {
		renders = len(c.view.Children(line)) > 0
		c.known[line] = renders
	}
	return renders
}
