// Package measure counts what can be said of a site in numbers (rules 11).
package measure

import (
	"vineladder/internal/core/detail"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/core/topic"
)

// Clicks gives for each page that a visitor can come to by clicking the least number of clicks from the home page,
// over the links that really render: menu blocks, breadcrumbs and page text (rules 11). Pages that are missing can't
// be reached so.
//
// It is a breadth-first search. The lines of one run of a menu render together wherever they do, so a run is followed
// once, from the first page that shows it, and the search costs the lines that exist and not the lines of every page.
func Clicks(s *site.Site, lens reach.Lens) map[site.PageID]int {
	c := newClicks(s, lens)
	home := s.Home()
	if c.panel.At(s, home).Reachable() == 0 {
		return c.far
	}
	c.far[home], c.queue = 0, []site.PageID{home}
	for len(c.queue) > 0 {
		page := c.queue[0]
		c.queue = c.queue[1:]
		c.follow(page)
	}
	return c.far
}

// Links gives a function that says to which pages one page leads a visitor, each once: the links that Clicks follows,
// page by page.
func Links(s *site.Site, lens reach.Lens) func(site.PageID) []site.PageID {
	c := newClicks(s, lens)
	return func(page site.PageID) []site.PageID {
		c.far, c.seen, c.queue = map[site.PageID]int{page: 0}, map[run]bool{}, nil
		c.follow(page)
		return c.queue
	}
}

func newClicks(s *site.Site, lens reach.Lens) *clicks {
	return &clicks{
		site: s, panel: reach.NewPanel(lens), lens: lens, frame: region.NewFrame(s, lens),
		views: region.NewViews(s, lens), far: map[site.PageID]int{}, seen: map[run]bool{},
		placed: region.Placing(s, lens), trails: map[*menu.View][]menu.Line{},
	}
}

// A run is a piece of a block that renders as a whole: the lines below a line, or, with line zero, the top ones.
type run struct {
	block site.BlockID
	entry site.EntryID
	line  site.PageID
	level int
}

type clicks struct {
	site  *site.Site
	panel *reach.Panel
	lens  reach.Lens
	frame *region.Frame
	views *region.Views
	far   map[site.PageID]int
	seen  map[run]bool
	queue []site.PageID

	placed func(site.PageID) []*site.Block
	trails map[*menu.View][]menu.Line // of the page that is followed
}

func (c *clicks) reach(id site.PageID, far int) {
	if _, known := c.far[id]; known || c.panel.At(c.site, id).Reachable() == 0 {
		return
	}
	c.far[id] = far
	c.queue = append(c.queue, id)
}

// follow takes every link of a page: those of its text, and of the blocks that stand on it.
func (c *clicks) follow(page site.PageID) {
	far := c.far[page] + 1
	c.links(c.site.Page(page).Text, far)
	for _, to := range detail.Points(c.site, c.site.Page(page)) {
		c.reach(to, far)
	}
	for _, to := range topic.Of(c.site, page).Named() { // whom the lens does not reach is reached by nobody
		c.reach(to, far)
	}
	clear(c.trails)
	for _, block := range c.placed(page) {
		switch piece := block.Shows.(type) {
		case site.BlockMenu:
			if view := c.views.View(piece.Menu); view != nil {
				c.block(block.ID, view, piece.Window, page, far)
			}
		case site.BlockBreadcrumb:
			for _, above := range c.site.Path(page) {
				c.reach(above.ID, far)
			}
		case site.BlockChildren:
			for _, kid := range c.frame.Children(page) {
				c.reach(kid, far)
			}
		case site.BlockListing:
			for _, hit := range c.frame.Listed(block, page) {
				c.reach(hit, far)
			}
		case site.BlockText:
			c.links(piece.Text, far)
		case site.BlockSearch:
			c.reach(c.site.Settings().Search, far)
		case site.BlockName:
			c.reach(c.site.Home(), far)
		}
	}
}

func (c *clicks) links(text string, far int) {
	for _, to := range c.site.Links(text) {
		c.reach(to, far)
	}
}

// block takes the links of one menu block as it renders on a page.
func (c *clicks) block(of site.BlockID, view *menu.View, w site.Window, page site.PageID, far int) {
	follows := w.From == site.FromTrail || w.From == site.FromWhole && w.First == 1
	switch {
	case !follows && w.Unfold == site.UnfoldAll:
		if whole := (run{block: of}); !c.seen[whole] {
			c.seen[whole] = true
			c.nodes(view.Window(w, 0), far)
		}
	case !follows:
		c.nodes(view.Window(w, page), far) // where it opens depends on the page
	default:
		trail, known := c.trails[view]
		if !known {
			trail = view.Trail(page)
			c.trails[view] = trail
		}
		if len(trail) < w.First-1 {
			return
		}
		top := run{block: of, level: w.First}
		lines := view.Top
		if w.First > 1 {
			above := trail[w.First-2]
			top.entry, top.line = above.Entry, above.Page
			lines = func() []menu.Line { return view.Children(above) }
		}
		c.run(view, w, top, lines, far)
		for at := w.First - 1; at < len(trail) && w.Unfold == site.UnfoldTrail && w.Holds(trail[at].Level+1); at++ {
			line := trail[at]
			c.run(
				view,
				w,
				run{of, line.Entry, line.Page, line.Level + 1},
				func() []menu.Line { return view.Children(line) },
				far,
			)
		}
	}
}

// run follows a run the first time it is met, and all that is open below it.
func (c *clicks) run(view *menu.View, w site.Window, key run, lines func() []menu.Line, far int) {
	if c.seen[key] {
		return
	}
	c.seen[key] = true
	for _, line := range lines() {
		c.line(view, w, line, far)
	}
}

func (c *clicks) line(view *menu.View, w site.Window, line menu.Line, far int) {
	c.reach(line.Page, far)
	if w.Unfold == site.UnfoldAll && w.Holds(line.Level+1) {
		for _, below := range view.Children(line) {
			c.line(view, w, below, far)
		}
	}
}

func (c *clicks) nodes(nodes []menu.Node, far int) {
	for _, node := range nodes {
		c.reach(node.Page, far)
		c.nodes(node.Children, far)
	}
}
