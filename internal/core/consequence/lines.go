package consequence

import (
	"cmp"
	"slices"

	menus "vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/rise"
	"vineladder/internal/core/site"
)

// A run is a branch entry of a menu: the lines that follow a part of the tree.
type run struct {
	menu    *site.Menu
	entry   *site.Entry
	to      site.ToBranch
	level   int        // at which the entry stands
	was, is reach.Mask // for which lenses the entry is admitted, in each Site
}

// runsOf gives the branch entries of both Sites' menus. One that makes the same run in both is one; any other is two, of which each
// makes its lines in one Site only.
func runsOf(was, is *site.Site, panel *reach.Panel) []run {
	var runs []run
	before, after := branchEntries(was, panel), branchEntries(is, panel)
	for _, r := range after {
		for i, old := range before {
			if old.entry.ID == r.entry.ID && old.menu.ID == r.menu.ID && old.to == r.to && old.level == r.level {
				r.was = old.is
				before = slices.Delete(before, i, i+1)
				break
			}
		}
		runs = append(runs, r)
	}
	for _, old := range before {
		old.was, old.is = old.is, 0
		runs = append(runs, old)
	}
	return runs
}

// branchEntries gives the branch entries of a Site's menus, with the lenses for which each is admitted.
func branchEntries(s *site.Site, panel *reach.Panel) []run {
	var runs []run
	for i := range s.Menus() {
		menu := &s.Menus()[i]
		admitted := menus.Admitted(s, menu, panel)
		for k := range menu.Entries {
			e := &menu.Entries[k]
			if to, ok := e.Shows.(site.ToBranch); ok {
				runs = append(runs, run{menu: menu, entry: e, to: to, level: menu.Level(e.ID), is: admitted[e.ID]})
			}
		}
	}
	return runs
}

// gate says for which lenses a run's entry is admitted in one of the two Sites.
func (c *comparison) gate(r *run, s *site.Site) reach.Mask {
	if s == c.Was {
		return r.was
	}
	return r.is
}

// lineState is how a page stands in a run: for which lenses it is a line, for which its children may be, and at which level.
type lineState struct {
	shown, open reach.Mask
	level       int // of the line
	next        int // level of the lines below
}

// at gives the line state of a page that is not below another one: only a root can have one.
func (r *run) at(id site.PageID, state reach.State, gate reach.Mask) lineState {
	if id != r.to.Root {
		return lineState{}
	}
	l := lineState{open: state.Reachable() & gate, next: r.level}
	switch r.to.Self {
	case site.SelfBeside:
		l.shown, l.level = l.open, r.level
	case site.SelfAbove:
		l.shown, l.level, l.next = l.open, r.level, r.level+1
	}
	return l
}

// below gives the line state of a page from its parent's.
func (r *run) below(parent lineState, page *site.Page, state reach.State, gate reach.Mask) lineState {
	if page.ID == r.to.Root {
		return r.at(page.ID, state, gate)
	}
	l := lineState{level: parent.next, next: parent.next + 1}
	first := r.level
	if r.to.Self == site.SelfAbove {
		first++
	}
	if page.Listed && (r.to.Depth == 0 || l.level < first+r.to.Depth) {
		l.shown = parent.open & state.Reachable()
		l.open = l.shown
	}
	if l.shown == 0 {
		return lineState{}
	}
	return l
}

// line is a menu line in both Sites.
type line struct {
	run     *run
	page    site.PageID
	was, is lineState
	renamed bool
	moved   reach.Mask
}

func (c *comparison) line(r *run, id site.PageID, was, is lineState) line {
	l := line{run: r, page: id, was: was, is: is}
	a, b := c.Was.Page(id), c.Is.Page(id)
	if a != nil && b != nil {
		l.renamed = a.Label != b.Label
		if a.Parent != b.Parent {
			l.moved = was.shown & is.shown
		}
	}
	return l
}

// moveLines finds the lines that stand in another place among those that stay: outside the longest run that keeps its
// order, for each group of lenses that see the same lines stay (rules 9.3).
func (c *comparison) moveLines() {
	slices.Sort(c.reordered)
	for _, parent := range slices.Compact(c.reordered) {
		was, is := c.stand(c.Was, parent), c.stand(c.Is, parent)
		if !was.there || !is.there {
			continue
		}
		for i := range c.runs {
			c.moveAmong(&c.runs[i], i, parent, was, is)
		}
	}
}

func (c *comparison) moveAmong(r *run, i int, parent site.PageID, was, is standing) {
	if was.lines[i].open&is.lines[i].open == 0 {
		return
	}
	place := map[site.PageID]int{}
	for at, kid := range c.Was.Children(parent) {
		place[kid] = at
	}
	type stays struct {
		page    site.PageID
		was, is lineState
	}
	var kids []stays
	for _, kid := range c.Is.Children(parent) {
		if _, stood := place[kid]; !stood {
			continue
		}
		a := r.below(was.lines[i], c.Was.Page(kid), c.Panel.Below(was.state, c.Was.Page(kid)), r.was)
		b := r.below(is.lines[i], c.Is.Page(kid), c.Panel.Below(is.state, c.Is.Page(kid)), r.is)
		if a.shown&b.shown != 0 {
			kids = append(kids, stays{kid, a, b})
		}
	}
	for _, group := range lensGroups(c.Panel.All(), len(kids), func(k int) reach.Mask { return kids[k].was.shown & kids[k].is.shown }) {
		var order []int
		var seen []stays
		for _, kid := range kids {
			if kid.was.shown&kid.is.shown&group != 0 {
				order, seen = append(order, place[kid.page]), append(seen, kid)
			}
		}
		for _, at := range rise.Outside(order) {
			c.addMoved(r, seen[at].page, seen[at].was, seen[at].is, group)
		}
	}
}

func (c *comparison) addMoved(r *run, id site.PageID, was, is lineState, group reach.Mask) {
	for i := range c.lines {
		if l := &c.lines[i]; l.run == r && l.page == id {
			l.moved |= group
			return
		}
	}
	l := c.line(r, id, was, is)
	l.moved = group
	c.lines = append(c.lines, l)
}

// lensGroups splits lenses so that those of one group agree on every one of n masks.
func lensGroups(all reach.Mask, n int, mask func(int) reach.Mask) []reach.Mask {
	groups := []reach.Mask{all}
	for i := range n {
		m := mask(i)
		for _, g := range groups {
			if in := g & m; in != 0 && in != g {
				groups = slices.DeleteFunc(groups, func(x reach.Mask) bool { return x == g })
				groups = append(groups, in, g&^m)
			}
		}
	}
	return groups
}

// fillBlocks says of each menu block that shows the same menu in both Sites which lines it can show in one and not, or elsewhere, in the
// other.
func (c *comparison) fillBlocks() {
	for i := range c.Is.Blocks() {
		block := &c.Is.Blocks()[i]
		m, is, isMenu := block.Menu()
		before := c.Was.Block(block.ID)
		if !isMenu || before == nil {
			continue
		}
		wasMenu, was, _ := before.Menu()
		if wasMenu != m {
			continue
		}
		change := BlockChange{Block: block}
		for _, made := range merged(append(c.runLines(m, was, is), c.entryLines(m, was, is)...)) {
			if made.Gained|made.Lost|made.Moved|made.Renamed != 0 {
				change.Lines = append(change.Lines, made)
			}
		}
		if len(change.Lines) > 0 {
			slices.SortStableFunc(change.Lines, func(a, b LineChange) int { return cmp.Compare(a.Entry, b.Entry) })
			c.Blocks = append(c.Blocks, change)
		}
	}
}

// runLines gives the lines of runs that differ for a block, which shows a menu through a window, maybe another one than before.
func (c *comparison) runLines(m site.MenuID, was, is site.Window) []LineChange {
	var changes []LineChange
	for _, l := range c.lines {
		if l.run.menu.ID == m {
			changes = append(changes, c.in(l, was, is))
		}
	}
	return changes
}

// merged has each line once. Where an entry makes another run now, or a run instead of a line, what both make stays, in another
// place.
func merged(changes []LineChange) []LineChange {
	type key struct {
		entry site.EntryID
		page  site.PageID
	}
	at := make(map[key]int, len(changes))
	var lines []LineChange
	for _, made := range changes {
		k := key{made.Entry, made.Page}
		i, known := at[k]
		if !known {
			at[k], lines = len(lines), append(lines, made)
			continue
		}
		other := &lines[i]
		stays := (other.Gained & made.Lost) | (other.Lost & made.Gained)
		other.Gained, other.Lost = (other.Gained|made.Gained)&^stays, (other.Lost|made.Lost)&^stays
		other.Moved |= made.Moved | stays
		other.Renamed |= made.Renamed
	}
	return lines
}

// entryLines compares the lines of entries that are not generated. They change as the pages that they lead to do; a heading
// as the entries below it; and all of them when their menu is edited.
func (c *comparison) entryLines(m site.MenuID, before, after site.Window) []LineChange {
	was, is := c.standingEntries(c.Was, m, before), c.standingEntries(c.Is, m, after)
	moved := movedEntries(c.Was.Menu(m), c.Is.Menu(m))
	var changes []LineChange
	for id, after := range is {
		before, stood := was[id]
		if stood && before.page == after.page {
			made := LineChange{Entry: id, Page: after.page, Label: after.own, Gained: after.shown &^ before.shown, Lost: before.shown &^ after.shown}
			if before.label != after.label {
				made.Renamed = before.shown & after.shown
			}
			if moved[id] {
				made.Moved = before.shown & after.shown
			}
			changes = append(changes, made)
			continue
		}
		changes = append(changes, LineChange{Entry: id, Page: after.page, Label: after.own, Gained: after.shown})
	}
	for id, before := range was {
		if after, stands := is[id]; !stands || after.page != before.page {
			changes = append(changes, LineChange{Entry: id, Page: before.page, Label: before.own, Lost: before.shown})
		}
	}
	return changes
}

// A standingEntry is how an entry that is not generated stands in one of the two Sites.
type standingEntry struct {
	page       site.PageID
	label, own string
	shown      reach.Mask
}

// standingEntries gives the entries of a block's menu that can stand in it.
func (c *comparison) standingEntries(s *site.Site, id site.MenuID, w site.Window) map[site.EntryID]standingEntry {
	m := s.Menu(id)
	if m == nil {
		return nil
	}
	standing := map[site.EntryID]standingEntry{}
	for id, shown := range menus.Shown(s, m, c.Panel) {
		e := m.Entry(id)
		if _, generated := e.Shows.(site.ToBranch); generated || !menus.CanShow(m, w, id, m.Level(id)) {
			continue
		}
		standing[id] = standingEntry{page: e.Target(), label: s.EntryLabel(e), own: e.Label, shown: shown}
	}
	return standing
}

// movedEntries gives the entries that stand below another one, or outside the longest run that keeps its order.
func movedEntries(was, is *site.Menu) map[site.EntryID]bool {
	moved := map[site.EntryID]bool{}
	if was == nil || is == nil {
		return moved
	}
	place := map[site.EntryID]int{}
	for i := range was.Entries {
		place[was.Entries[i].ID] = i
	}
	type run struct {
		ids   []site.EntryID
		order []int
	}
	runs := map[site.EntryID]*run{}
	for i := range is.Entries {
		e := &is.Entries[i]
		at, stood := place[e.ID]
		switch {
		case !stood:
		case was.Entries[at].Parent != e.Parent:
			moved[e.ID] = true
		default:
			if runs[e.Parent] == nil {
				runs[e.Parent] = &run{}
			}
			runs[e.Parent].ids, runs[e.Parent].order = append(runs[e.Parent].ids, e.ID), append(runs[e.Parent].order, at)
		}
	}
	for _, r := range runs {
		for _, i := range rise.Outside(r.order) {
			moved[r.ids[i]] = true
		}
	}
	return moved
}

// in cuts a line to the levels that a window can show, and could before.
func (c *comparison) in(l line, before, after site.Window) LineChange {
	within := func(in *site.Site, w site.Window, s lineState) reach.Mask {
		if m := in.Menu(l.run.menu.ID); m == nil || !menus.CanShow(m, w, l.run.entry.ID, s.level) {
			return 0
		}
		return s.shown
	}
	was, is := within(c.Was, before, l.was), within(c.Is, after, l.is)
	made := LineChange{Entry: l.run.entry.ID, Page: l.page, Gained: is &^ was, Lost: was &^ is, Moved: l.moved & was & is}
	if l.renamed {
		made.Renamed = was & is
	}
	return made
}
