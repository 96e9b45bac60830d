package menu

import (
	"slices"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/target"
)

// Admitted says for which lenses each entry of a menu is admitted (rules 5.2): it is on, inside its window, its
// audience admits the visitor, the lens reaches its target if it has one, and every entry above it is admitted, or the
// line of a run that it stands below shows. It is decided from the top down.
func Admitted(s *site.Site, m *site.Menu, panel *reach.Panel) map[site.EntryID]reach.Mask {
	grow := growingOf(s, m, panel)
	admitted := make(map[site.EntryID]reach.Mask, len(m.Entries))
	var decide func(e *site.Entry) reach.Mask
	decide = func(e *site.Entry) reach.Mask {
		if mask, known := admitted[e.ID]; known {
			return mask
		}
		admitted[e.ID] = 0 // an entry inside itself is admitted to nobody
		mask := panel.All()
		if above := m.Entry(e.Parent); above != nil {
			mask = decide(above)
			if above.IsGenerated() {
				mask &= grow.shown(above, e.Under)
			}
		}
		mask &= itself(s, e, panel)
		admitted[e.ID] = mask
		return mask
	}
	for i := range m.Entries {
		decide(&m.Entries[i])
	}
	return admitted
}

// itself says for which lenses an entry is admitted, whatever stands above it.
func itself(s *site.Site, e *site.Entry, panel *reach.Panel) reach.Mask {
	mask := inWindow(e, panel) & panel.Admits(e.Audience)
	if e.Off {
		return 0
	}
	if mask == 0 {
		return 0
	}
	return mask & target.Of(e.Shows).Reached(s, panel, e.Shows)
}

func inWindow(e *site.Entry, panel *reach.Panel) reach.Mask {
	var in reach.Mask
	for i, lens := range panel.Lenses() {
		if e.Window().Holds(lens.At) {
			in |= 1 << i
		}
	}
	return in
}

// Shown says for which lenses each entry shows (rules 5.2): a heading where one of its children does, a run where it
// has a line. It is decided from the bottom up.
func Shown(s *site.Site, m *site.Menu, panel *reach.Panel) map[site.EntryID]reach.Mask {
	admitted, grow := Admitted(s, m, panel), growingOf(s, m, panel)
	shown := make(map[site.EntryID]reach.Mask, len(m.Entries))
	var decide func(e *site.Entry) reach.Mask
	decide = func(e *site.Entry) reach.Mask {
		mask := admitted[e.ID]
		switch to := e.Shows.(type) {
		case site.ItemHeading:
			var kids reach.Mask
			for _, kid := range m.Below(e.ID) {
				kids |= decide(m.Entry(kid))
			}
			mask &= kids
		case site.ItemBranch:
			if to.Self == site.SelfNot {
				mask &= grow.some(e.ID, to, to.Root, panel.At(s, to.Root))
			}
		}
		shown[e.ID] = mask
		return mask
	}
	for i := range m.Entries {
		decide(&m.Entries[i])
	}
	return shown
}

// A Run is the lines at the top of an entry's run, in the order of the tree or of the list.
type Run struct {
	Pages []site.PageID
	Shown map[site.PageID]reach.Mask // for which lenses each shows, as far as the entry does not decide it
}

// Lines gives the run of an entry; the zero Run where there is none.
func Lines(s *site.Site, m *site.Menu, id site.EntryID, panel *reach.Panel) (r Run) {
	if m == nil || m.Entry(id) == nil {
		return r
	}
	to, generated := m.Entry(id).Shows.(site.ItemBranch)
	if !generated {
		return r
	}
	grow := growingOf(s, m, panel)
	r.Shown = map[site.PageID]reach.Mask{}
	add := func(page site.PageID, mask reach.Mask) {
		if mask != 0 {
			r.Pages, r.Shown[page] = append(r.Pages, page), mask
		}
	}
	for _, h := range grow.hits[id] {
		add(h.page, grow.hit(id, h))
	}
	if to.Hits > 0 || !s.InTree(to.Root) {
		return r
	}
	state := panel.At(s, to.Root)
	for _, kid := range s.Children(to.Root) {
		p := s.Page(kid)
		add(kid, grow.line(id, to, p, panel.Below(state, p)))
	}
	return r
}

// Or gives the pages of the lines of two runs, those of the first before, up to a number.
func (r Run) Or(other Run, most int) []site.PageID {
	pages := slices.Clone(r.Pages)
	for _, id := range other.Pages {
		if r.Shown[id] == 0 {
			pages = append(pages, id)
		}
	}
	return pages[:min(len(pages), most)]
}

// Reason says why an entry does not show.
type Reason string

const (
	ReasonOff      Reason = "off"       // it is switched off
	ReasonWindow   Reason = "window"    // it is outside its live window
	ReasonAudience Reason = "audience"  // its audience does not admit the visitor
	ReasonTarget   Reason = "target"    // the visitor does not reach what it leads to
	ReasonAccount  Reason = "account"   // it is for who is signed in, or out
	ReasonLine     Reason = "line"      // the line of a run below which it stands is not there
	ReasonChildren Reason = "childless" // a heading without a shown entry below, or a run without a line
)

// A Why names the highest entry that keeps an entry away, and its reason; the zero Why is an entry that shows.
type Why struct {
	Entry  site.EntryID
	Reason Reason
}

// Reasons says of each entry of a menu why it does not show to a lens. It costs the menu once, and an entry those above
// it.
type Reasons struct {
	site  *site.Site
	menu  *site.Menu
	panel *reach.Panel
	shown map[site.EntryID]reach.Mask
}

// NewReasons looks at a menu through a lens.
func NewReasons(s *site.Site, m *site.Menu, lens reach.Lens) *Reasons {
	panel := reach.NewPanel(lens)
	return &Reasons{s, m, panel, Shown(s, m, panel)}
}

// WhyNot says why an entry does not show (rules 5.2): the highest one above it that fails, or itself.
func (r *Reasons) WhyNot(id site.EntryID) Why {
	if r.shown[id] != 0 {
		return Why{}
	}
	var chain []*site.Entry
	for e := r.menu.Entry(id); e != nil && len(chain) <= len(r.menu.Entries); e = r.menu.Entry(e.Parent) {
		chain = append(chain, e)
	}
	grow := growingOf(r.site, r.menu, r.panel)
	for _, e := range slices.Backward(chain) {
		if above := r.menu.Entry(e.Parent); above != nil && above.IsGenerated() && grow.shown(above, e.Under) == 0 {
			return Why{e.ID, ReasonLine}
		}
		if itself(r.site, e, r.panel) == 0 {
			return Why{e.ID, reasonOf(e, r.panel)}
		}
	}
	for _, e := range slices.Backward(chain) {
		if r.shown[e.ID] == 0 {
			return Why{e.ID, ReasonChildren}
		}
	}
	return Why{}
}

// WhyNot says it of one entry.
func WhyNot(s *site.Site, m *site.Menu, id site.EntryID, lens reach.Lens) Why {
	return NewReasons(s, m, lens).WhyNot(id)
}

func reasonOf(e *site.Entry, panel *reach.Panel) Reason {
	switch _, isAccount := e.Shows.(site.ItemAccount); {
	case e.Off:
		return ReasonOff
	case inWindow(e, panel) == 0:
		return ReasonWindow
	case panel.Admits(e.Audience) == 0:
		return ReasonAudience
	case isAccount:
		return ReasonAccount
	}
	return ReasonTarget
}
