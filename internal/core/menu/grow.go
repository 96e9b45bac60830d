package menu

import (
	"cmp"
	"fmt"
	"slices"
	"sync"

	"vineladder/internal/core/listing"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/topic"
)

// A growing decides for the lenses of a panel which lines the runs of a menu have (rules 5.3): the listed pages in one,
// of topics those with enough pages, or the first pages of a list; but none that was hidden. Many may ask at once.
type growing struct {
	site  *site.Site
	panel *reach.Panel
	set   map[site.EntryID]map[site.PageID]site.GrownLine
	hits  map[site.EntryID][]hit
	tally *topic.Tally
	lists func() []list // found when they are asked for first
	over  map[site.EntryID]narrowing
}

// A narrowing has, for the topics to which a list can be narrowed, how many of its pages there are for each lens.
type narrowing map[site.PageID][]int32

// A list is a page that lists others and can have a line in the menu: on what it lists, that is lit.
type list struct {
	page    site.PageID
	answers func(*site.Page) bool
	reached func(site.PageID) reach.Mask
}

// listsOf finds the lists to which lines of a menu can lead, in the order of the tree.
func listsOf(s *site.Site, m *site.Menu, panel *reach.Panel) (lists []list) {
	listers := slices.Clone(s.Listers())
	s.SortByTree(listers)
	for _, id := range listers {
		leads := func(e site.Entry) bool {
			to, grown := e.Shows.(site.ItemBranch)
			return e.Target() == id || grown && (to.Hits > 0 || s.IsWithin(id, to.Root))
		}
		if q, is := listing.Of(s, id); is && slices.ContainsFunc(m.Entries, leads) {
			lists = append(lists, list{id, listing.Answering(s, q), listing.Reached(s, q, panel)})
		}
	}
	return lists
}

// of says for which lenses a page is on the list.
func (l list) of(p *site.Page) reach.Mask {
	if p.ID == l.page || !l.answers(p) {
		return 0
	}
	return l.reached(p.ID)
}

// A hit is one of the first pages of a list, for some lenses.
type hit struct {
	page   site.PageID
	lenses reach.Mask
}

// growingOf is what the menu of a Site grows for a panel, which keeps it.
func growingOf(s *site.Site, m *site.Menu, panel *reach.Panel) *growing {
	type growingOf struct {
		*site.Site
		*site.Menu
	}
	return reach.Keep(panel, growingOf{s, m}, func() *growing { return newGrowing(s, m, panel) })
}

func newGrowing(s *site.Site, m *site.Menu, panel *reach.Panel) *growing {
	g := &growing{
		site: s, panel: panel, tally: topic.TallyOf(s, panel),
		set: map[site.EntryID]map[site.PageID]site.GrownLine{}, hits: map[site.EntryID][]hit{},
		over: map[site.EntryID]narrowing{},
	}
	g.lists = sync.OnceValue(func() []list { return listsOf(s, m, panel) })
	for i := range m.Entries {
		e := &m.Entries[i]
		if to, generated := e.Shows.(site.ItemBranch); generated {
			if e.Grown != "" {
				g.set[e.ID] = e.Lines()
			}
			if to.Hits > 0 {
				g.hits[e.ID] = g.hitsOf(to)
			}
			if to.Of != 0 {
				g.over[e.ID] = g.narrowingOf(to)
			}
		}
	}
	return g
}

// hitsOf finds the first pages of a list for each lens, in the order of the list. Hidden ones count among them: what is
// hidden makes no room for others.
func (g *growing) hitsOf(to site.ItemBranch) []hit {
	q, lists := listing.Of(g.site, to.Root)
	if !lists {
		return nil
	}
	var found []hit
	reachedOf := listing.Reached(g.site, q, g.panel)
	left, had := g.panel.All(), make([]int, len(g.panel.Lenses()))
	for _, id := range listing.Candidates(g.site, q) {
		if left == 0 {
			break
		}
		reached := reachedOf(id) & left
		if id == to.Root || reached == 0 {
			continue
		}
		found = append(found, hit{id, reached})
		for more := reached; more != 0; more &^= 1 << more.First() {
			lens := more.First()
			if had[lens]++; had[lens] == to.Hits {
				left &^= 1 << lens
			}
		}
	}
	return found
}

// narrowingOf counts what a page lists, topic by topic, for the lenses that reach the page.
func (g *growing) narrowingOf(to site.ItemBranch) narrowing {
	made := narrowing{}
	q, lists := listing.Of(g.site, to.Of)
	list := g.site.TopicList(to.Root)
	if !lists || list == nil || !slices.Contains(listing.NarrowingLists(q), list.ID) {
		return made
	}
	reached, all := listing.Reached(g.site, q, g.panel), g.panel.At(g.site, to.Of).Reachable()
	for _, id := range listing.Candidates(g.site, q) {
		mask := reached(id) & all
		if id == to.Of || mask == 0 {
			continue
		}
		about := map[site.PageID]bool{}
		for _, borne := range g.site.TopicsOf(g.site.Page(id)) {
			for _, topic := range topic.Broader(g.site, borne) {
				about[topic] = true
			}
		}
		for topic := range about {
			if made[topic] == nil {
				made[topic] = make([]int32, len(g.panel.Lenses()))
			}
			for left := mask; left != 0; left &^= 1 << left.First() {
				made[topic][left.First()]++
			}
		}
	}
	return made
}

// counts gives the numbers of pages of a topic as a run counts them, lens by lens; nil for what is no topic.
func (g *growing) counts(e site.EntryID, to site.ItemBranch, id site.PageID) []int32 {
	if to.Of == 0 {
		return g.tally.Of(id)
	}
	if counts := g.over[e][id]; counts != nil {
		return counts
	}
	return make([]int32, len(g.panel.Lenses()))
}

// enough says for which lenses a topic has as many pages as a run asks for.
func (g *growing) enough(e site.EntryID, to site.ItemBranch, id site.PageID) (some reach.Mask) {
	if to.Of == 0 {
		return g.tally.AtLeast(id, to.Least)
	}
	for lens, n := range g.counts(e, to, id) {
		if int(n) >= max(1, to.Least) {
			some |= 1 << lens
		}
	}
	return some
}

// Leads says where a line of a run leads: to its page, or to what another page lists, narrowed by a query.
func Leads(s *site.Site, e *site.Entry, page site.PageID) (to site.PageID, query string) {
	grown, generated := e.Shows.(site.ItemBranch)
	if p := s.Page(page); generated && grown.Of != 0 && p != nil && p.IsTopic() && s.TopicList(page) != nil {
		return grown.Of, fmt.Sprintf("t%d=%d", s.TopicList(page).ID, page)
	}
	return page, ""
}

// line says for which lenses a page, whose state is known, is a line right below another one of a run of its branch.
func (g *growing) line(e site.EntryID, to site.ItemBranch, p *site.Page, state reach.State) reach.Mask {
	if !p.Listed || g.set[e][p.ID].Hidden {
		return 0
	}
	reached := state.Reachable()
	if (to.Least > 0 || to.Of != 0) && reached != 0 && p.IsTopic() {
		reached &= g.enough(e, to, p.ID)
	}
	return reached
}

// hit says for which lenses a page is a line of a run of what is listed.
func (g *growing) hit(e site.EntryID, h hit) reach.Mask {
	if g.set[e][h.page].Hidden {
		return 0
	}
	return h.lenses
}

// shown says for which lenses a line of a generated entry shows, as far as the entry does not decide it.
func (g *growing) shown(e *site.Entry, page site.PageID) (mask reach.Mask) {
	pages, can := way(g.site, e, page)
	if !can {
		return 0
	}
	to := e.Shows.(site.ItemBranch)
	if to.Hits > 0 && page != to.Root {
		for _, h := range g.hits[e.ID] {
			if h.page == page {
				return g.hit(e.ID, h)
			}
		}
		return 0
	}
	state := g.panel.At(g.site, to.Root)
	mask = state.Reachable()
	for _, p := range pages {
		state = g.panel.Below(state, p)
		mask &= g.line(e.ID, to, p, state)
	}
	return mask
}

// label is what visitors read of a line of a run.
func (g *growing) label(e site.EntryID, p *site.Page) string {
	return cmp.Or(g.set[e][p.ID].Label, p.Label)
}

// some says for which lenses a run has a line right below a page.
func (g *growing) some(e site.EntryID, to site.ItemBranch, id site.PageID, state reach.State) (some reach.Mask) {
	if to.Hits > 0 {
		for _, h := range g.hits[e] {
			some |= g.hit(e, h)
		}
		return some
	}
	for _, kid := range g.site.Children(id) {
		p := g.site.Page(kid)
		if some |= g.line(e, to, p, g.panel.Below(state, p)); some == g.panel.All() {
			break
		}
	}
	return some
}

// LabelOf is what visitors read of a line of an entry: of its own one, or that of a page in its run.
func LabelOf(s *site.Site, e *site.Entry, page site.PageID) string {
	p := s.Page(page)
	if _, generated := e.Shows.(site.ItemBranch); generated && p != nil && page != e.Target() {
		return cmp.Or(e.Line(page).Label, p.Label)
	}
	return s.EntryLabel(e)
}

// run gives the lines of a run that stand right below a page.
func (v *View) run(above Line, level, left int) []Line {
	e := v.menu.Entry(above.Entry)
	to := e.Shows.(site.ItemBranch)
	var lines []Line
	if to.Hits > 0 {
		lines = v.hits(e, level)
	} else {
		for _, id := range v.site.Children(above.Page) {
			if line, shown := v.runLine(to, above, id, level, left); shown {
				lines = append(lines, line)
			}
		}
	}
	v.order(e, to, lines)
	return lines
}

// hits gives the lines of a run of what a page lists.
func (v *View) hits(e *site.Entry, level int) (lines []Line) {
	for _, h := range v.grow.hits[e.ID] {
		if v.has(v.grow.hit(e.ID, h)) {
			lines = append(lines, v.hitLine(e, h.page, level))
		}
	}
	return lines
}

func (v *View) hitLine(e *site.Entry, page site.PageID, level int) Line {
	p := v.site.Page(page)
	return Line{Entry: e.ID, Page: page, Label: v.grow.label(e.ID, p), Level: level, state: v.panel.At(v.site, page)}
}

func (v *View) runLine(to site.ItemBranch, above Line, id site.PageID, level, left int) (Line, bool) {
	p := v.site.Page(id)
	state := v.panel.Below(above.state, p)
	line := Line{Entry: above.Entry, Page: id, Level: level, run: left - 1, state: state}
	if !v.has(v.grow.line(above.Entry, to, p, state)) {
		return line, false
	}
	line.Label = v.grow.label(above.Entry, p)
	line.Lead, line.Query = Leads(v.site, v.menu.Entry(above.Entry), id)
	if to.Count {
		line.Count, line.Counted = v.count(above.Entry, to, id)
	}
	return line, true
}

// count gives the number of pages of a topic.
func (v *View) count(e site.EntryID, to site.ItemBranch, id site.PageID) (n int, counted bool) {
	counts := v.grow.counts(e, to, id)
	if counts == nil || !v.site.Page(id).IsTopic() {
		return 0, false
	}
	var same reach.Mask
	for lens, count := range counts {
		if count == counts[v.lens] {
			same |= 1 << lens
		}
	}
	v.has(same)
	return int(counts[v.lens]), true
}

// order puts the lines of a run that stand beside each other in order: those that are pinned first, those by the order
// of the run, and those that are pinned last.
func (v *View) order(e *site.Entry, to site.ItemBranch, lines []Line) {
	if to.By != site.GrownByPlace {
		counts := map[site.PageID]int{}
		if to.By == site.GrownByCount {
			for _, line := range lines {
				counts[line.Page], _ = v.count(e.ID, to, line.Page)
			}
		}
		slices.SortStableFunc(lines, func(a, b Line) int {
			return cmp.Or(
				cmp.Compare(counts[b.Page], counts[a.Page]),
				v.site.Collate(a.Label, b.Label), cmp.Compare(a.Label, b.Label),
			)
		})
	}
	if set := v.grow.set[e.ID]; set != nil {
		rank := map[site.GrownPin]int{site.GrownFirst: -1, site.GrownLast: 1}
		slices.SortStableFunc(lines, func(a, b Line) int { return rank[set[a.Page].Pin] - rank[set[b.Page].Pin] })
	}
}

// NoLine is why a generated entry makes no line of a page for somebody.
type NoLine string

const (
	NoLineAway     NoLine = "away"     // the page stands elsewhere or too deep, or is none of the first hits
	NoLineUnlisted NoLine = "unlisted" // it, or a page above it in the run, is not listed
	NoLineHidden   NoLine = "hidden"   // it, or a line above it, was hidden
	NoLineReach    NoLine = "reach"    // the visitor does not reach it
	NoLineNarrowed NoLine = "narrowed" // nothing of the list to which its line would lead is about it
	NoLineFew      NoLine = "few"      // the topic, or a broader one in the run, has too few pages
)

// WhyNoLine says why a generated entry, as far as it does not decide that itself, makes no line of a page for the one
// lens of a panel; "" if it does.
func WhyNoLine(s *site.Site, m *site.Menu, e *site.Entry, page site.PageID, panel *reach.Panel) NoLine {
	g := growingOf(s, m, panel)
	pages, can := way(s, e, page)
	if !can {
		return NoLineAway
	}
	to := e.Shows.(site.ItemBranch)
	for _, p := range pages {
		switch {
		case g.set[e.ID][p.ID].Hidden:
			return NoLineHidden
		case to.Hits == 0 && !p.Listed:
			return NoLineUnlisted
		case panel.At(s, p.ID).Reachable() == 0:
			return NoLineReach
		case to.Hits > 0 && g.shown(e, page) == 0:
			return NoLineAway
		case to.Of != 0 && g.enough(e.ID, to, p.ID) == 0 && to.Least < 2:
			return NoLineNarrowed
		case to.Hits == 0 && g.line(e.ID, to, p, panel.At(s, p.ID)) == 0:
			return NoLineFew
		}
	}
	return ""
}
