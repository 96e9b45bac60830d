package menu

import (
	"slices"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/target"
)

// Trails says page by page, on the way down the tree, where the trail of a menu ends for each lens (rules 5.4). A
// page has the trail of its nearest ancestor with a line, the home page excepted, unless it has a line itself. It
// agrees with View.Trail, and costs a page the lines that begin or go on there.
type Trails struct {
	site     *site.Site
	menu     *site.Menu
	panel    *reach.Panel
	grow     *growing
	admitted map[site.EntryID]reach.Mask
	shown    map[site.EntryID]reach.Mask
	runs     []*track                 // the generated entries, in menu order
	targets  map[site.PageID][]*track // the entries that begin at a page, in menu order
	deepest  int                      // the level below which lines are not told apart
	ends     []End                    // of the page that is being decided
	topical  bool                     // lines can lead to topics
	mixed    bool                     // entries stand below lines of runs
	leads    map[site.PageID]*led
	listed   map[site.PageID][]leading
	above    map[site.PageID]bool // topic lists and pages that list others, and all above them
}

// A track is an entry of the menu.
type track struct {
	at    int // in menu order
	entry *site.Entry
	to    site.ItemBranch
	run   bool
	shown reach.Mask // for which lenses the entry is admitted, or shows if it is not generated
	level int        // at which the entry stands
	own   *Step      // its own line
	slot  int        // of a run: its place in a Footing
}

// A Step is a line of a trail, with the one above it. Steps are made once: two pages have the same trail if it ends
// at the same Step.
type Step struct {
	Entry site.EntryID
	Page  site.PageID // 0: it leads to no page
	Level int
	Above *Step

	run   bool       // only lines of its run can stand below it
	left  int        // levels of the run below this line
	fixed reach.Mask // of a line that is not of a run: for which lenses it has lines below
	below reach.Mask // of a line of a run: the same, once somebody has asked
	asked bool
}

// At gives the step of a trail at a level; nil if the trail does not reach so far.
func (s *Step) At(level int) *Step {
	for ; s != nil && s.Level > level; s = s.Above {
	}
	if s == nil || s.Level < level {
		return nil
	}
	return s
}

// Upto gives the deepest step of a trail that stands at a level or above it; nil if there is none.
func (s *Step) Upto(level int) *Step {
	for ; s != nil && s.Level > level; s = s.Above {
	}
	return s
}

// An End is where a trail ends, and for which lenses.
type End struct {
	Lenses reach.Mask
	Step   *Step
}

// A Footing is where a page stands on the trails. The zero Footing stands on none.
type Footing struct {
	Ends []End // lenses in none of them have no trail
	tree []End // what is handed down: the same without what topics say of the page itself
	runs []runState
}

// runState is how far a run reaches down to a page.
type runState struct {
	open  reach.Mask // for which lenses the page's children may be lines
	above *Step      // the line above those
	next  int        // their level
	left  int        // levels that the run still has
}

// NewTrails looks at a menu.
func NewTrails(s *site.Site, m *site.Menu, panel *reach.Panel) *Trails {
	t := &Trails{site: s, menu: m, panel: panel, targets: map[site.PageID][]*track{}, deepest: endless}
	t.grow, t.admitted, t.shown = newGrowing(s, m, panel), Admitted(s, m, panel), Shown(s, m, panel)
	entries := 0
	var add func(parent site.EntryID, page site.PageID, level int, above *Step)
	add = func(parent site.EntryID, page site.PageID, level int, above *Step) {
		for _, id := range m.BelowLine(parent, page) {
			e := m.Entry(id)
			made := &track{at: entries, entry: e, shown: t.shown[id], level: level}
			entries++
			made.own = &Step{Entry: id, Page: e.Target(), Level: level, Above: above, fixed: t.belowEntry(e)}
			generated := false
			if made.to, generated = e.Shows.(site.ItemBranch); generated {
				made.shown = t.admitted[id]
			}
			if made.run = generated && made.to.Hits == 0; made.run {
				made.own.run, made.slot = true, len(t.runs)
				t.runs = append(t.runs, made)
			}
			narrowed := target.Of(e.Shows).Query(e.Shows) != ""
			if page := e.Target(); page != 0 && !narrowed && (!generated || made.run || made.to.Self != site.SelfNot) {
				t.targets[page] = append(t.targets[page], made)
			}
			t.hits(made)
			if !generated {
				add(id, 0, level+1, made.own)
				continue
			}
			for _, page := range linesWithItems(s, m, id) {
				if line := t.stepOf(made, page); line != nil {
					t.mixed = true
					add(id, page, line.Level+1, line)
				}
			}
		}
	}
	add(0, 0, 1, nil)
	t.topical, t.leads, t.above = t.hasTopics(), map[site.PageID]*led{}, map[site.PageID]bool{}
	t.listed = map[site.PageID][]leading{}
	leading := slices.Clone(s.TopicLists())
	for _, l := range t.grow.lists() {
		leading = append(leading, l.page)
	}
	for _, id := range leading {
		for _, p := range s.Path(id) {
			t.above[p.ID] = true
		}
	}
	return t
}

// linesWithItems gives the pages of the lines of an entry below which entries stand, in the order of the tree.
func linesWithItems(s *site.Site, m *site.Menu, id site.EntryID) (pages []site.PageID) {
	for _, below := range m.Below(id) {
		if page := m.Entry(below).Under; !slices.Contains(pages, page) {
			pages = append(pages, page)
		}
	}
	s.SortByTree(pages)
	return pages
}

// stepOf gives the step of a line of a generated entry, with those above it; nil where there can be none.
func (t *Trails) stepOf(tr *track, page site.PageID) *Step {
	pages, can := way(t.site, tr.entry, page)
	switch {
	case !can:
		return nil
	case page == tr.to.Root:
		return tr.own
	}
	above, level, left := tr.own.Above, tr.level, depth(tr.to)
	if tr.to.Self == site.SelfAbove {
		above, level = tr.own, tr.level+1
	}
	for _, p := range pages {
		left--
		above = &Step{Entry: tr.entry.ID, Page: p.ID, Level: level, Above: above, left: left, run: tr.run}
		if level++; !tr.run {
			above.fixed = t.belowLine(tr.entry.ID, p.ID)
		}
	}
	return above
}

// hits has the pages that an entry lists begin lines of their own.
func (t *Trails) hits(tr *track) {
	above, level := tr.own.Above, tr.level
	if tr.to.Self == site.SelfAbove {
		above, level = tr.own, tr.level+1
	}
	for _, h := range t.grow.hits[tr.entry.ID] {
		step := &Step{Entry: tr.entry.ID, Page: h.page, Level: level, Above: above, fixed: t.belowLine(tr.entry.ID, h.page)}
		made := &track{
			at: tr.at, entry: tr.entry, shown: t.admitted[tr.entry.ID] & t.grow.hit(tr.entry.ID, h), level: level, own: step,
		}
		t.targets[h.page] = append(t.targets[h.page], made)
	}
}

// Upto tells lines below a level not apart: a trail that goes deeper ends at its line there. So a page below costs
// no memory, and shares the Ends of the page above it.
func (t *Trails) Upto(deepest int) *Trails {
	t.deepest = deepest
	return t
}

// belowEntry says for which lenses an entry's own line has lines below it.
func (t *Trails) belowEntry(e *site.Entry) (some reach.Mask) {
	if e.IsGenerated() {
		some = t.belowLine(e.ID, e.Target())
	}
	if to, generated := e.Shows.(site.ItemBranch); generated {
		if to.Self == site.SelfAbove {
			some |= t.grow.some(e.ID, to, to.Root, t.panel.At(t.site, to.Root))
		}
		return some
	}
	for _, kid := range t.menu.Below(e.ID) {
		some |= t.shown[kid]
	}
	return some
}

// belowLine says for which lenses entries show that stand below a line of a run, where the line shows.
func (t *Trails) belowLine(id site.EntryID, page site.PageID) (some reach.Mask) {
	for _, kid := range t.menu.BelowLine(id, page) {
		some |= t.shown[kid]
	}
	return some
}

// ListedBelow says for which lenses a page has a listed child that they reach.
func ListedBelow(s *site.Site, panel *reach.Panel, id site.PageID, state reach.State) (some reach.Mask) {
	for _, kid := range s.Children(id) {
		if p := s.Page(kid); p.Listed {
			if some |= panel.Below(state, p).Reachable(); some == panel.All() {
				break
			}
		}
	}
	return some
}

// Home stands on the home page, whose own lines count only for itself.
func (t *Trails) Home(p *site.Page, state reach.State) Footing { return t.on(Footing{}, p, state) }

// Below goes down to a child. A footing of the home page hands nothing down but its runs.
func (t *Trails) Below(parent Footing, p *site.Page, state reach.State) Footing {
	if p.Parent == t.site.Home() {
		parent.tree = nil
	}
	return t.on(parent, p, state)
}

// Walk goes down to a page from the home page.
func (t *Trails) Walk(id site.PageID) Footing {
	path := t.site.Path(id)
	if !t.site.InTree(id) {
		return Footing{}
	}
	state := t.panel.Home(path[0])
	at := t.Home(path[0], state)
	for _, p := range path[1:] {
		state = t.panel.Below(state, p)
		at = t.Below(at, p, state)
	}
	return at
}

// Renders says for which lenses the trail's line at a level has lines below it.
func (t *Trails) Renders(at Footing, level int) (some reach.Mask) {
	for _, end := range at.Ends {
		if step := end.Step.At(level); step != nil {
			some |= end.Lenses & t.below(step)
		}
	}
	return some
}

func (t *Trails) below(step *Step) reach.Mask {
	if !step.run || step.Page == t.menu.Entry(step.Entry).Target() {
		return step.fixed
	}
	if !step.asked && step.left == 0 {
		step.below, step.asked = t.belowLine(step.Entry, step.Page), true
	}
	if !step.asked {
		to := t.menu.Entry(step.Entry).Shows.(site.ItemBranch)
		step.below, step.asked = t.grow.some(step.Entry, to, step.Page, t.panel.At(t.site, step.Page)), true
		step.below |= t.belowLine(step.Entry, step.Page)
	}
	return step.below
}

// on finds the lines that a page has, in menu order, and decides for each lens by the first one; lenses without any
// keep what the page above has. What topics and lists say comes on top.
func (t *Trails) on(parent Footing, p *site.Page, state reach.State) Footing {
	at := t.onTree(parent, p, state)
	at.Ends = at.tree
	if (t.topical && len(p.Topics) > 0 || len(t.grow.lists()) > 0) && t.mayGoOn(p, at.tree) {
		at.Ends = t.beyondTree(p, at.tree)
	}
	return at
}

func (t *Trails) onTree(parent Footing, p *site.Page, state reach.State) Footing {
	if len(t.targets[p.ID]) == 0 && parent.runs == nil {
		return Footing{tree: parent.tree}
	}
	d := deciding{ends: t.ends[:0]}
	runs := t.lines(parent, p, state, func(_ *track, lenses reach.Mask, step *Step) { d.decide(lenses, step) })
	d.over(parent.tree)
	t.ends = d.ends
	if slices.Equal(d.ends, parent.tree) {
		return Footing{tree: parent.tree, runs: runs}
	}
	return Footing{tree: slices.Clone(d.ends), runs: runs}
}

// lines visits the lines that a page has, in menu order, with the lenses for which each shows, and gives how far runs
// reach down to it.
func (t *Trails) lines(
	parent Footing, p *site.Page, state reach.State, visit func(tr *track, lenses reach.Mask, step *Step),
) []runState {
	begins := t.targets[p.ID]
	runs := running{had: parent.runs}
	next := 0
	begin := func(before int) {
		for ; next < len(begins) && begins[next].at < before; next++ {
			if tr := begins[next]; !tr.run {
				visit(tr, tr.shown, tr.own)
			}
		}
	}
	for _, tr := range t.runs {
		begin(tr.at)
		run, step := tr.on(t, parent, p, state)
		if step != nil && tr.to.Of == 0 { // what leads to a list that is narrowed stands for no page
			visit(tr, run.open, step)
		}
		runs.set(tr.slot, run, len(t.runs))
	}
	begin(endless)
	return runs.all()
}

// running gathers the runs of a page. They are those of the page above until one differs.
type running struct {
	had, own []runState
	some     bool
}

func (r *running) set(slot int, run runState, all int) {
	r.some = r.some || run.open != 0
	if r.own == nil {
		same := r.had == nil && run.open == 0 || r.had != nil && r.had[slot] == run
		if same {
			return
		}
		r.own = make([]runState, all)
		copy(r.own, r.had)
	}
	r.own[slot] = run
}

func (r *running) all() []runState {
	switch {
	case !r.some:
		return nil
	case r.own != nil:
		return r.own
	}
	return r.had
}

// deciding gives lenses to the first line that takes them.
type deciding struct {
	ends    []End
	decided reach.Mask
}

func (d *deciding) decide(lenses reach.Mask, step *Step) {
	if lenses &^= d.decided; lenses == 0 {
		return
	}
	d.decided |= lenses
	if n := len(d.ends); n > 0 && d.ends[n-1].Step == step {
		d.ends[n-1].Lenses |= lenses
		return
	}
	d.ends = append(d.ends, End{lenses, step})
}

// over lets the undecided lenses keep what they had.
func (d *deciding) over(had []End) {
	for _, end := range had {
		d.decide(end.Lenses, end.Step)
	}
}

// on gives the state of a run on a page, and the line that the page has in it; nil if it has none.
func (tr *track) on(t *Trails, parent Footing, p *site.Page, state reach.State) (runState, *Step) {
	if tr.to.Root == p.ID {
		run := runState{open: tr.shown & state.Reachable(), above: tr.own.Above, next: tr.level, left: depth(tr.to)}
		switch {
		case run.open == 0 || tr.to.Self == site.SelfNot:
			return run, nil
		case tr.to.Self == site.SelfAbove:
			run.above, run.next = tr.own, tr.level+1
		}
		return run, tr.own
	}
	if parent.runs == nil || !p.Listed {
		return runState{}, nil
	}
	over := &parent.runs[tr.slot]
	if over.open&state.Reachable() == 0 || over.left == 0 {
		return runState{}, nil
	}
	open := over.open & t.grow.line(tr.entry.ID, tr.to, p, state)
	if open == 0 {
		return runState{}, nil
	}
	run := runState{open: open, above: over.above, next: over.next, left: over.left}
	if over.left != endless {
		run.left--
	}
	if over.next > t.deepest && over.above != nil {
		return run, over.above
	}
	run.above = &Step{Entry: tr.entry.ID, Page: p.ID, Level: over.next, Above: over.above, left: run.left, run: true}
	run.next++
	return run, run.above
}
