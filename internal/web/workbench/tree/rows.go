package tree

import (
	"cmp"
	"slices"
	"time"

	"vineladder/internal/core/ask"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/topic"
	"vineladder/internal/store"
	"vineladder/internal/web/workbench/desk"
)

// climb lays out the ladder's rows. Without a filter it counts rows by arithmetic: a branch that is closed is one row
// however much is in it, so a window at any depth of scroll costs the open branches and the rows it shows.
type climb struct {
	grove
	d       *desk.Desk
	roots   []site.PageID // of the branches that the ladder has, in order
	open    map[site.PageID]bool
	changed map[site.PageID]string
	ghosts  map[site.PageID][]ghost
	hits    map[site.PageID]bool // with a filter: the pages that answer it
	panel   *reach.Panel
	tally   *topic.Counts // of topics; nil: they are not shown
	from    int
	count   int
	ladder  ladder
}

// rows lays out the ladder of a grove and renders one window. A negative from puts the selected row into sight.
func (g grove) rows(d *desk.Desk, open map[site.PageID]bool, from, count int) ladder {
	c := &climb{
		grove:  g,
		d:      d,
		roots:  g.tops(d.Site),
		open:   open,
		panel:  reach.NewPanel(d.Lens),
		tally:  g.counts(d),
		from:   from,
		count:  count,
		ladder: ladder{Index: -1, Hits: -1},
	}
	c.changed, c.ghosts = changes(d)
	if !d.Filter.Empty() {
		return c.filtered()
	}
	branches := c.branches()
	for _, top := range c.roots {
		c.ladder.Total += rowsOf(branches, top)
	}
	c.ladder.Index = c.indexOf(branches, d.Selected)
	if from < 0 {
		c.from = max(0, c.ladder.Index-count/2)
	}
	c.ladder.From = c.from
	row := 0
	for i, top := range c.roots {
		c.branch(branches, top, i+1, len(c.roots), row, nil)
		row += rowsOf(branches, top)
	}
	return c.ladder
}

// rowsOf gives the rows of a branch: one where it is closed.
func rowsOf(branches map[site.PageID]*branch, id site.PageID) int {
	if b := branches[id]; b != nil {
		return b.size
	}
	return 1
}

// A branch is an open page: its rows are its own, one for each child, and those of the children that are open.
type branch struct {
	size   int      // rows, its own included
	breaks []breach // where its children are not one plain row after another, in order
}

// A breach is a child that is open, or a ghost, among plain rows.
type breach struct {
	at    int // index of the child, or of the gap before which the ghost stands
	kid   site.PageID
	ghost *ghost
	rows  int // that it adds to the plain ones
}

// branches measures every open branch that can be seen, the deepest first.
func (c *climb) branches() map[site.PageID]*branch {
	s := c.d.Site
	made := map[site.PageID]*branch{}
	inside := map[site.PageID][]site.PageID{} // open pages by parent
	for id, isOpen := range c.open {
		if p := s.Page(id); isOpen && p != nil && p.Parent != 0 && !p.Binned && !slices.Contains(c.roots, id) &&
			len(c.kids(s, id))+len(c.ghosts[id]) > 0 {
			inside[p.Parent] = append(inside[p.Parent], id)
		}
	}
	var measure func(id site.PageID) *branch
	measure = func(id site.PageID) *branch {
		kids := c.kids(s, id)
		b := &branch{size: 1 + len(kids)}
		for _, kid := range inside[id] {
			at, _ := c.index(s, kid)
			b.breaks = append(b.breaks, breach{at: at, kid: kid, rows: measure(kid).size - 1})
		}
		for i, g := range c.ghosts[id] {
			at := 0
			if g.after != 0 {
				at, _ = c.index(s, g.after)
				at++
			}
			b.breaks = append(b.breaks, breach{at: at, ghost: &c.ghosts[id][i], rows: 1})
		}
		slices.SortStableFunc(b.breaks, func(x, y breach) int {
			return cmp.Or(
				cmp.Compare(x.at, y.at),
				cmp.Compare(x.kid, y.kid),
			) // ghosts stand before the row of their gap
		})
		for _, br := range b.breaks {
			b.size += br.rows
		}
		made[id] = b
		return b
	}
	for _, top := range c.roots {
		if c.isOpen(s.Page(top)) {
			measure(top)
		}
	}
	return made
}

// isOpen says whether what is inside a page is in sight. That of the home page always is.
func (c *climb) isOpen(p *site.Page) bool {
	return c.open[p.ID] && len(c.kids(c.d.Site, p.ID))+len(c.ghosts[p.ID]) > 0 || p.Parent == 0
}

// indexOf gives the row of a page; -1 if a page above it is closed, or it is in none of the branches.
func (c *climb) indexOf(branches map[site.PageID]*branch, id site.PageID) int {
	s := c.d.Site
	row := 0
	p := s.Page(id)
	for ; p != nil && !slices.Contains(c.roots, p.ID); p = s.Page(p.Parent) {
		above := branches[p.Parent]
		if above == nil {
			return -1
		}
		at, _ := c.index(s, p.ID)
		row += 1 + at
		for _, br := range above.breaks {
			if br.at < at || br.at == at && br.ghost != nil {
				row += br.rows
			}
		}
	}
	if p == nil {
		return -1
	}
	for _, top := range c.roots[:slices.Index(c.roots, p.ID)] {
		row += rowsOf(branches, top)
	}
	return row
}

// branch renders what of a branch lies in the window; row is the index of its first row.
func (c *climb) branch(branches map[site.PageID]*branch, id site.PageID, pos, size, row int, path []*site.Page) {
	if row >= c.from+c.count || row+rowsOf(branches, id) <= c.from {
		return
	}
	p, b := c.d.Site.Page(id), cmp.Or(branches[id], new(branch))
	if row >= c.from {
		c.ladder.Rows = append(c.ladder.Rows, c.rung(p, pos, size, row, path))
	}
	path = append(path[:len(path):len(path)], p)
	kids := c.kids(c.d.Site, id)
	if branches[id] == nil {
		kids = nil
	}
	row++
	at := 0
	for _, br := range b.breaks {
		row = c.plain(kids, at, br.at, row, path)
		at = br.at
		if br.ghost != nil {
			if row >= c.from && row < c.from+c.count {
				c.ladder.Rows = append(c.ladder.Rows, ghostRow(br.ghost, row, path))
			}
			row++
			continue
		}
		c.branch(branches, br.kid, at+1, len(kids), row, path)
		row += br.rows + 1
		at++
	}
	c.plain(kids, at, len(kids), row, path)
}

// plain renders what lies in the window of a run of closed children, and gives the row after the run.
func (c *climb) plain(kids []site.PageID, from, to, row int, path []*site.Page) int {
	for i := from + max(0, c.from-row); i < to && row+i-from < c.from+c.count; i++ {
		c.ladder.Rows = append(c.ladder.Rows, c.rung(c.d.Site.Page(kids[i]), i+1, len(kids), row+i-from, path))
	}
	return row + to - from
}

func ghostRow(g *ghost, row int, path []*site.Page) rung {
	return rung{
		ID: g.page.ID, Row: row + 1, Level: len(path) + 1, Rails: rails(path), Label: g.page.Label, Ghost: g.words,
		Change: g.kind, Shape: "stub", Words: g.words, Reached: true,
	}
}

// filtered lays out the pages that answer the filter's question, with the pages above them kept in sight.
func (c *climb) filtered() ladder {
	s := c.d.Site
	found := slices.DeleteFunc(ask.Find(s, c.d.Filter, c.d.Lens), func(id site.PageID) bool {
		return c.keeps != nil && !c.keeps(s.Page(id)) ||
			!slices.ContainsFunc(c.roots, func(top site.PageID) bool { return s.IsWithin(id, top) })
	})
	c.hits = make(map[site.PageID]bool, len(found))
	shown := make(map[site.PageID]bool, len(found))
	for _, id := range found {
		c.hits[id] = true
		for at := id; at != 0 && !shown[at]; at = s.Page(at).Parent {
			shown[at] = true
		}
	}
	var rows []site.PageID
	var list func(site.PageID)
	list = func(id site.PageID) {
		if !shown[id] {
			return
		}
		if id == c.d.Selected {
			c.ladder.Index = len(rows)
		}
		rows = append(rows, id)
		for _, kid := range c.kids(s, id) {
			list(kid)
		}
	}
	for _, top := range c.roots {
		list(top)
	}
	c.open = shown
	c.ladder.Total, c.ladder.Hits = len(rows), len(found)
	if c.from < 0 {
		c.from = max(0, c.ladder.Index-c.count/2)
	}
	c.ladder.From = c.from
	for row := c.from; row < min(len(rows), c.from+c.count); row++ {
		path := s.Path(rows[row])
		from := slices.IndexFunc(path, func(p *site.Page) bool { return slices.Contains(c.roots, p.ID) })
		index, size := c.index(s, rows[row])
		if from == len(path)-1 {
			index, size = slices.Index(c.roots, rows[row]), len(c.roots)
		}
		c.ladder.Rows = append(c.ladder.Rows, c.rung(path[len(path)-1], index+1, size, row, path[from:len(path)-1]))
	}
	return c.ladder
}

// OpenLadder gives a function that lays out and renders a window of the ladder of a site with every branch open, and
// gives the number of all rows. It is what the benchmark of long ladders measures.
func OpenLadder(s *site.Site, at time.Time) func(from, count int) int {
	open := map[site.PageID]bool{}
	s.Walk(s.Home(), func(p *site.Page) bool {
		if len(s.Children(p.ID)) > 0 {
			open[p.ID] = true
		}
		return true
	})
	base := &store.Published{Site: s}
	d := &desk.Desk{
		Draft:    &store.Draft{Base: base, Site: s},
		Site:     s,
		State:    "after",
		Lens:     reach.Lens{At: at},
		Selected: s.Home(),
	}
	return func(from, count int) int { return treeGrove.rows(d, open, from, count).Total }
}
