// Package menu decides which lines a menu has for a lens, which of them lie on the trail to the current page, and what
// a window cuts out of them (rules 5). Lines are made as they are asked for: a menu that follows a tree of a million
// pages costs what its window shows.
package menu

import (
	"slices"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/target"
)

// A View is a menu as one lens of a panel sees it.
type View struct {
	site     *site.Site
	panel    *reach.Panel
	menu     *site.Menu
	grow     *growing
	admitted map[site.EntryID]reach.Mask
	lens     int         // of the panel
	alike    *reach.Mask // lenses for which all was decided as for this one so far; nil: nobody asks
}

// NewView looks at a menu through one lens.
func NewView(s *site.Site, menu *site.Menu, lens reach.Lens) *View {
	return &newViews(s, menu, reach.NewPanel(lens)).view
}

// A Views looks at a menu through all lenses of a panel, one after another, and says which of them see the same.
type Views struct{ view View }

// NewViews looks at a menu through the lenses of a panel.
func NewViews(s *site.Site, menu *site.Menu, panel *reach.Panel) *Views {
	return newViews(s, menu, panel)
}

func newViews(s *site.Site, menu *site.Menu, panel *reach.Panel) *Views {
	return &Views{View{
		site: s, panel: panel, menu: menu, grow: growingOf(s, menu, panel), admitted: Admitted(s, menu, panel),
	}}
}

// Window cuts what a block shows on a page for one lens, and says for which lenses of the panel it is the same: those
// for which every question on the way was answered alike.
func (v *Views) Window(w site.Window, page site.PageID, lens int) ([]Node, reach.Mask) {
	view, alike := v.As(lens)
	return view.Window(w, page), *alike
}

// As looks through one lens of the panel. While it is asked, alike comes down to the lenses for which all was decided
// as for this one.
func (v *Views) As(lens int) (view *View, alike *reach.Mask) {
	made, all := v.view, v.view.panel.All()
	made.lens, made.alike = lens, &all
	return &made, &all
}

// Some says for which lenses a window that does not follow the trail, or begins at its top, shows anything.
func (v *Views) Some(w site.Window) (some reach.Mask) {
	for left := v.view.panel.All(); left != 0; {
		view, alike := v.As(left.First())
		if view.Has(w) {
			some |= *alike & left
		}
		left &^= *alike
	}
	return some
}

// has says whether the view's lens is in a mask.
func (v *View) has(m reach.Mask) bool {
	in := m.Has(v.lens)
	if v.alike != nil && in {
		*v.alike &= m
	} else if v.alike != nil {
		*v.alike &^= m
	}
	return in
}

// A Line is one line that a visitor sees: what an entry shows, or a page of a run. Its identity between two states of a
// site is (Entry, Page) (rules 9.3).
type Line struct {
	Entry site.EntryID
	Page  site.PageID // 0: it leads to no page
	Own   bool        // it is the entry's own line, not one of a run
	Label string
	Level int // 1 for the top lines

	Count   int // of the pages of a topic
	Counted bool
	Lead    site.PageID // where it leads, if that is another page
	Query   string      // what of that page's list it leads to; it stands for no page then, and the trail passes it by

	run   int // levels of the run below this line; 0: it has none
	state reach.State
}

// endless stands for a run without a limit of levels.
const endless = 1 << 30

func depth(to site.ItemBranch) int {
	if to.Depth == 0 {
		return endless
	}
	return to.Depth
}

// Top gives the lines of level 1 that are shown.
func (v *View) Top() []Line { return v.entries(0, 0, 1) }

// entries gives the lines that the entries below a line of one make, in the menu's order; page is 0 for the one line of
// an entry that is not generated.
func (v *View) entries(parent site.EntryID, page site.PageID, level int) []Line {
	var lines []Line
	for _, id := range v.menu.BelowLine(parent, page) {
		e := v.menu.Entry(id)
		if !v.has(v.admitted[id]) {
			continue
		}
		if to, generated := e.Shows.(site.ItemBranch); generated {
			own, run := v.branch(e, to, level)
			if own != nil {
				lines = append(lines, *own)
			}
			lines = append(lines, run...)
		} else if line := v.line(e, level); v.shows(e) {
			lines = append(lines, line)
		}
	}
	return lines
}

// line is the line of an entry that is not generated.
func (v *View) line(e *site.Entry, level int) Line {
	return Line{
		Entry: e.ID, Page: e.Target(), Own: true, Label: v.site.EntryLabel(e), Level: level,
		Query: target.Of(e.Shows).Query(e.Shows),
	}
}

// shows says whether an admitted entry shows: a heading needs one shown child, decided from the bottom up, a run a
// line.
func (v *View) shows(e *site.Entry) bool {
	if !v.has(v.admitted[e.ID]) {
		return false
	}
	switch to := e.Shows.(type) {
	case site.ItemHeading:
		for _, kid := range v.menu.Below(e.ID) {
			if v.shows(v.menu.Entry(kid)) {
				return true
			}
		}
		return false
	case site.ItemBranch:
		return to.Self != site.SelfNot || v.has(v.grow.some(e.ID, to, to.Root, v.panel.At(v.site, to.Root)))
	}
	return true
}

// branch gives the line of a branch entry's root, nil if there is none, and the lines of its run that stand at the
// entry's own level.
func (v *View) branch(e *site.Entry, to site.ItemBranch, level int) (own *Line, run []Line) {
	root := Line{
		Entry: e.ID,
		Page:  to.Root,
		Own:   true,
		Level: level,
		Label: v.site.EntryLabel(e),
		state: v.panel.At(v.site, to.Root),
	}
	switch to.Self {
	case site.SelfAbove:
		root.run = depth(to)
		return &root, nil
	case site.SelfBeside:
		return &root, v.run(root, level, depth(to))
	}
	return nil, v.run(root, level, depth(to))
}

// RunOf gives the lines that a generated entry makes at the top of its run; nil if it is not generated or does not
// show.
func (v *View) RunOf(id site.EntryID) []Line {
	e := v.menu.Entry(id)
	if e == nil || !v.has(v.admitted[id]) {
		return nil
	}
	to, generated := e.Shows.(site.ItemBranch)
	if !generated {
		return nil
	}
	return v.run(Line{Entry: id, Page: to.Root, state: v.panel.At(v.site, to.Root)},
		firstBelow(v.site, v.menu, e), depth(to))
}

// Own gives the line that an entry itself makes; ok is false if it makes none or does not show.
func (v *View) Own(id site.EntryID) (line Line, ok bool) {
	e := v.menu.Entry(id)
	if e == nil || !v.has(v.admitted[id]) {
		return line, false
	}
	level := Level(v.site, v.menu, id)
	if to, generated := e.Shows.(site.ItemBranch); generated {
		own, _ := v.branch(e, to, level)
		if own == nil {
			return line, false
		}
		return *own, true
	}
	return v.line(e, level), v.shows(e)
}

// Children gives the shown lines below one: of its run, and then those of the entries below it.
func (v *View) Children(l Line) (lines []Line) {
	if l.run > 0 {
		lines = v.run(l, l.Level+1, l.run)
	}
	below := site.PageID(0)
	if v.menu.Entry(l.Entry).IsGenerated() {
		below = l.Page
	}
	return append(lines, v.entries(l.Entry, below, l.Level+1)...)
}

// Trail gives the lines from the top down to the one that stands for the current page (rules 5.4): the page itself,
// else its deepest ancestor in the menu, the home page excepted, and from there on to a topic that it bears or a list
// that it is on. It is nil if there is none. Equals go by menu order.
func (v *View) Trail(current site.PageID) []Line {
	t := &trailing{view: v, ways: [][]*site.Page{v.site.Path(current)}}
	t.offer = func(trail []Line) {
		if trail[len(trail)-1].Query == "" {
			t.nearest(trail)
		}
	}
	t.below(0, 0, nil)
	if len(t.best) > 0 && t.best[len(t.best)-1].Page == current {
		return t.best
	}
	return v.beyondTree(current, t.best)
}

// trailing goes down a menu towards some pages, and offers what it finds there.
type trailing struct {
	view  *View
	ways  [][]*site.Page // to the pages, from the top of the tree
	offer func(trail []Line)
	best  []Line // of a single way
	score int
}

func (t *trailing) nearest(trail []Line) {
	if score := t.scoreOf(trail[len(trail)-1].Page); score > t.score {
		t.best, t.score = append([]Line(nil), trail...), score
	}
}

// scoreOf ranks a line: above all the current page, then ancestors by depth, the home page never.
func (t *trailing) scoreOf(page site.PageID) int {
	for level, p := range t.ways[0] {
		if p.ID != page {
			continue
		}
		if level == len(t.ways[0])-1 {
			return endless
		}
		return level // 0 for the home page
	}
	return 0
}

func (t *trailing) below(parent site.EntryID, page site.PageID, above []Line) {
	for _, id := range t.view.menu.BelowLine(parent, page) {
		e := t.view.menu.Entry(id)
		if !t.view.shows(e) {
			continue
		}
		if to, generated := e.Shows.(site.ItemBranch); generated {
			t.branch(e, to, above)
			t.belowLines(e, above)
			continue
		}
		trail := append(above[:len(above):len(above)], t.view.line(e, len(above)+1))
		t.offer(trail)
		t.below(e.ID, 0, trail)
	}
}

// branch offers the root's own line, and the way down the run towards the end of each way.
func (t *trailing) branch(e *site.Entry, to site.ItemBranch, above []Line) {
	if to.Hits > 0 {
		t.hits(e, to, above)
		return
	}
	for _, way := range t.ways {
		if at := slices.IndexFunc(way, func(p *site.Page) bool { return p.ID == to.Root }); at >= 0 {
			t.down(e, to, above, way[at+1:])
		}
	}
}

// hits offers the root's own line, and the lines of the pages that it lists.
func (t *trailing) hits(e *site.Entry, to site.ItemBranch, above []Line) {
	own, run := t.view.branch(e, to, len(above)+1)
	trail := above[:len(above):len(above)]
	if own != nil {
		t.offer(append(trail, *own))
	}
	if to.Self == site.SelfAbove {
		trail = append(trail, *own)
		run = t.view.Children(*own)
	}
	for _, line := range run {
		t.offer(append(trail[:len(trail):len(trail)], line))
	}
}

// down offers the root's own line, and those on the way below it.
func (t *trailing) down(e *site.Entry, to site.ItemBranch, above []Line, way []*site.Page) {
	v := t.view
	root := Line{
		Entry: e.ID,
		Page:  to.Root,
		Own:   true,
		Level: len(above) + 1,
		Label: v.site.EntryLabel(e),
		state: v.panel.At(v.site, to.Root),
	}
	trail := above[:len(above):len(above)]
	switch to.Self {
	case site.SelfAbove:
		root.run = depth(to)
		trail = append(trail, root)
		t.offer(trail)
	case site.SelfBeside:
		t.offer(append(trail, root))
	}
	over, left := root, depth(to)
	for _, page := range way {
		line, shown := v.runLine(to, over, page.ID, len(trail)+1, left)
		if left == 0 || !shown {
			break
		}
		trail = append(trail, line)
		t.offer(trail)
		over, left = line, left-1
	}
}

// belowLines goes down to the entries below lines of a run, whichever pages these are of.
func (t *trailing) belowLines(e *site.Entry, above []Line) {
	for _, page := range linesWithItems(t.view.site, t.view.menu, e.ID) {
		if trail, shown := t.view.lineTrail(e, page, above); shown {
			t.below(e.ID, page, trail)
		}
	}
}

// lineTrail gives the lines that lead to one of a generated entry, itself last.
func (v *View) lineTrail(e *site.Entry, page site.PageID, above []Line) (trail []Line, shown bool) {
	pages, can := way(v.site, e, page)
	if !can {
		return nil, false
	}
	to := e.Shows.(site.ItemBranch)
	own, _ := v.branch(e, to, len(above)+1)
	trail = above[:len(above):len(above)]
	if page == to.Root {
		return append(trail, *own), own != nil
	}
	over, left := Line{Entry: e.ID, Page: to.Root, state: v.panel.At(v.site, to.Root)}, depth(to)
	if to.Self == site.SelfAbove {
		trail, over = append(trail, *own), *own
	}
	for _, p := range pages {
		if to.Hits > 0 {
			return append(trail, v.hitLine(e, p.ID, len(trail)+1)), v.has(v.grow.shown(e, p.ID))
		}
		line, shown := v.runLine(to, over, p.ID, len(trail)+1, left)
		if !shown {
			return nil, false
		}
		trail, over, left = append(trail, line), line, left-1
	}
	return trail, true
}
