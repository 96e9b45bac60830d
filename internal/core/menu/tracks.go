package menu

import (
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// Tracks says page by page, on the way down the tree, for which lenses the trail's line at one level has lines below it: whether a
// window that begins there shows anything (rules 5.4 and 5.5). A page has the trail of its nearest ancestor with a line, the home
// page excepted, unless it has a line itself.
type Tracks struct {
	site    *site.Site
	panel   *reach.Panel
	level   int
	runs    []*track                 // the generated entries, in menu order
	targets map[site.PageID][]*track // the entries that begin at a page, in menu order
}

// A track is an entry of the menu with what of its lines depends on no page.
type track struct {
	at    int // in menu order
	entry *site.Entry
	to    site.ToBranch
	run   bool
	shown reach.Mask // for which lenses the entry is admitted, or shows if it is not generated
	level int        // at which the entry stands
	fixed reach.Mask // for which lenses the line at the level has lines below it, where that line is the entry or above it
	slot  int        // of a run: its place in a Footing
}

// A Footing is where a page stands on the tracks. The zero Footing stands on none.
type Footing struct {
	renders reach.Mask
	runs    []runState // by slot; nil where no run is open
}

// runState is how far a run reaches down to a page.
type runState struct {
	open  reach.Mask // for which lenses the page's children may be lines
	next  int        // level of those
	left  int        // levels that the run still has
	below reach.Mask // of the run's line at the level, once it is passed: for which lenses it has lines below

	passed bool // the next lines stand below the tracks' level
}

// Renders says for which lenses there is something to show.
func (f Footing) Renders() reach.Mask { return f.renders }

// Alike says that two footings hand the same down: the same runs are open for the same lenses, and either have passed the tracks' level
// with as much below it, or stand before it at the same level with as many levels to go.
func (f Footing) Alike(other Footing) bool {
	if f.renders != other.renders || len(f.runs) != len(other.runs) {
		return false
	}
	for i, a := range f.runs {
		b := other.runs[i]
		unbounded := a.left > endless/2 && b.left > endless/2
		if a.open != b.open || a.below != b.below || a.passed != b.passed || !unbounded && a.left != b.left || !a.passed && a.next != b.next {
			return false
		}
	}
	return true
}

// NewTracks looks at a menu for the line at a level, from 1.
func NewTracks(s *site.Site, m *site.Menu, panel *reach.Panel, level int) *Tracks {
	t := &Tracks{site: s, panel: panel, level: level, targets: map[site.PageID][]*track{}}
	admitted, shown := Admitted(s, m, panel), Shown(s, m, panel)
	entries := 0
	var add func(parent site.EntryID, depth int, above reach.Mask)
	add = func(parent site.EntryID, depth int, above reach.Mask) {
		for _, id := range m.Below(parent) {
			e := m.Entry(id)
			made := &track{at: entries, entry: e, shown: shown[id], level: depth, fixed: above}
			entries++
			if depth == level {
				made.fixed = t.belowEntry(m, e, shown)
			}
			if made.to, made.run = e.Shows.(site.ToBranch); made.run {
				made.shown, made.slot = admitted[id], len(t.runs)
				t.runs = append(t.runs, made)
			}
			if page := e.Target(); page != 0 {
				t.targets[page] = append(t.targets[page], made)
			}
			add(id, depth+1, made.fixed)
		}
	}
	add(0, 1, 0)
	return t
}

// belowEntry says for which lenses an entry has lines below its own.
func (t *Tracks) belowEntry(m *site.Menu, e *site.Entry, shown map[site.EntryID]reach.Mask) (some reach.Mask) {
	if to, generated := e.Shows.(site.ToBranch); generated {
		if to.Self == site.SelfAbove {
			some = ListedBelow(t.site, t.panel, to.Root, t.panel.At(t.site, to.Root))
		}
		return some
	}
	for _, kid := range m.Below(e.ID) {
		some |= shown[kid]
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
func (t *Tracks) Home(p *site.Page, state reach.State) Footing { return t.on(Footing{}, p, state) }

// Below goes down to a child. A footing of the home page hands nothing down but its runs.
func (t *Tracks) Below(parent Footing, p *site.Page, state reach.State) Footing {
	if p.Parent == t.site.Home() {
		parent.renders = 0
	}
	return t.on(parent, p, state)
}

// on finds the lines that a page has, in menu order, and decides for each lens by the first one; lenses without any keep what the
// page above has.
func (t *Tracks) on(parent Footing, p *site.Page, state reach.State) Footing {
	begins := t.targets[p.ID]
	if len(begins) == 0 && parent.runs == nil {
		return Footing{renders: parent.renders}
	}
	made := Footing{renders: parent.renders}
	var decided reach.Mask
	decide := func(lenses, renders reach.Mask) {
		lenses &^= decided
		made.renders = made.renders&^lenses | renders&lenses
		decided |= lenses
	}
	follow := func(tr *track) {
		run, line := t.runOn(tr, parent, p, state, tr.to.Root == p.ID)
		if line.shown != 0 {
			decide(line.shown, line.renders)
		}
		if run.open != 0 {
			if made.runs == nil {
				made.runs = make([]runState, len(t.runs))
			}
			made.runs[tr.slot] = run
		}
	}
	next := 0
	for _, tr := range t.runs {
		for ; next < len(begins) && begins[next].at < tr.at; next++ {
			t.begin(begins[next], decide)
		}
		follow(tr)
	}
	for ; next < len(begins); next++ {
		t.begin(begins[next], decide)
	}
	return made
}

// begin decides by the own line of an entry that is not generated.
func (t *Tracks) begin(tr *track, decide func(lenses, renders reach.Mask)) {
	if !tr.run && tr.shown != 0 {
		decide(tr.shown, t.above(tr.level, tr.fixed))
	}
}

// above is what a line at a level renders: nothing where the trail ends before the tracks' level.
func (t *Tracks) above(level int, fixed reach.Mask) reach.Mask {
	if level < t.level {
		return 0
	}
	return fixed
}

// A runLine is a page's line in a run: for which lenses it shows, and for which of them there is something to render.
type runLine struct{ shown, renders reach.Mask }

// runOn gives the state of a run on a page, and the line that the page has in it.
func (t *Tracks) runOn(tr *track, parent Footing, p *site.Page, state reach.State, begun bool) (runState, runLine) {
	if begun {
		run := runState{open: tr.shown & state.Reachable(), next: tr.level, left: depth(tr.to), below: tr.fixed}
		switch tr.to.Self {
		case site.SelfAbove:
			run.next++
		case site.SelfNot:
			run.passed = run.next > t.level
			return run, runLine{}
		}
		run.passed = run.next > t.level
		return run, runLine{run.open, t.above(tr.level, tr.fixed)}
	}
	if parent.runs == nil || parent.runs[tr.slot].open == 0 {
		return runState{}, runLine{}
	}
	over := parent.runs[tr.slot]
	if over.left == 0 || !p.Listed {
		return runState{}, runLine{}
	}
	run := runState{open: over.open & state.Reachable(), next: over.next + 1, left: over.left - 1, below: over.below, passed: over.next >= t.level}
	if over.next == t.level {
		run.below = 0
		if run.left > 0 {
			run.below = ListedBelow(t.site, t.panel, p.ID, state)
		}
	}
	return run, runLine{run.open, t.above(over.next, run.below)}
}
