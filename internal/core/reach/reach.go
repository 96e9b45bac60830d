// Package reach decides what a visitor can reach at a moment (rules 4). It answers for many lenses at once: a Panel
// holds up to 64, and every answer is a Mask with a bit for each, so that a walk over a branch costs the same for all
// audiences of a site as for one.
package reach

import (
	"math/bits"
	"slices"
	"strings"
	"sync"
	"time"

	"vineladder/internal/core/site"
)

// A Visitor is signed in or not, with the roles held.
type Visitor struct {
	SignedIn bool
	Roles    []string // with all that they include; none for who is not signed in
	// Edits is where the visitor may edit pages: the site, branches, page types. It admits to pages that are for those
	// who may edit them.
	Edits []site.Thing
}

// As gives somebody who is signed in and holds roles on a Site.
func As(s *site.Site, roles []string) Visitor {
	v := Visitor{SignedIn: true, Roles: s.Holds(roles)}
	for _, key := range v.Roles {
		role := s.Role(key)
		if role == nil {
			continue
		}
		for _, g := range role.Grants {
			if g.Action == site.ActionEdit && !slices.Contains(v.Edits, g.On) {
				v.Edits = append(v.Edits, g.On)
			}
		}
	}
	return v
}

// A Lens is "as seen by this visitor at this moment" (rules 1).
type Lens struct {
	Visitor
	At time.Time
}

// PanelLimit is the number of lenses that a Panel holds at most.
const PanelLimit = 64

// A Panel is a row of lenses, asked together. It is immutable, but for what it keeps.
type Panel struct {
	lenses []Lens
	moment bool                // all lenses share one moment
	edits  map[site.Thing]Mask // who may edit pages where, beside the whole site
	all    Mask                // who may edit all pages
	kept   sync.Map            // what was found out for the panel
}

// Keep gives what was found out for the panel under a key, or has it made. Two who ask at once may both make it.
func Keep[Found any](p *Panel, key any, make func() Found) Found {
	found, known := p.kept.Load(key)
	if !known {
		found, _ = p.kept.LoadOrStore(key, make())
	}
	return found.(Found)
}

// Mask has a bit for each lens of a Panel, the first lowest.
type Mask uint64

// Has says whether the mask holds lens i.
func (m Mask) Has(i int) bool { return m>>i&1 == 1 }

// Count is the number of lenses in the mask.
func (m Mask) Count() int { return bits.OnesCount64(uint64(m)) }

// First is the lowest lens in the mask; 64 if it is empty.
func (m Mask) First() int { return bits.TrailingZeros64(uint64(m)) }

// NewPanel makes a panel; lenses beyond PanelLimit are left out.
func NewPanel(lenses ...Lens) *Panel {
	lenses = lenses[:min(len(lenses), PanelLimit)]
	same := true
	for _, lens := range lenses {
		same = same && lens.At.Equal(lenses[0].At)
	}
	made := &Panel{lenses: lenses, moment: same}
	for i, lens := range lenses {
		for _, on := range lens.Edits {
			made.mayEdit(on, 1<<i)
		}
	}
	return made
}

func (p *Panel) mayEdit(on site.Thing, lens Mask) {
	switch {
	case on == site.SiteThing:
		p.all |= lens
	case p.edits == nil:
		p.edits = map[site.Thing]Mask{on: lens}
	default:
		p.edits[on] |= lens
	}
}

// Lenses gives the panel's lenses in order.
func (p *Panel) Lenses() []Lens { return p.lenses }

// All is the mask of every lens.
func (p *Panel) All() Mask {
	if len(p.lenses) == PanelLimit {
		return ^Mask(0)
	}
	return 1<<len(p.lenses) - 1
}

// State is how a page stands for the lenses of a panel.
type State struct {
	Online    Mask // online(page, t) (rules 4.1)
	Admitted  Mask // by the page's audience, or the nearest one above (rules 4.2)
	Concealed bool // set on the page or above it (rules 4.3)
	Edits     Mask // who may edit the page by a right on it, above it, or on the site
	forUs     bool // the audience that holds for it is those who may edit it
	Folder    bool // it holds files, and nobody opens it
}

// Reachable is online and admitted (rules 4.3). Folders are there for what stands in them.
func (s State) Reachable() Mask {
	if s.Folder {
		return 0
	}
	return s.Online & s.Admitted
}

// At gives a page's state; the zero State for a page that is not in the tree.
func (p *Panel) At(s *site.Site, id site.PageID) State {
	page := s.Page(id)
	if page == nil || page.Binned {
		return State{}
	}
	if page.Parent == 0 {
		return p.Home(page)
	}
	return p.Below(p.At(s, page.Parent), page)
}

// Home is the state of the home page: always live, open to everyone unless set otherwise (rules 2.1 and 4.2).
func (p *Panel) Home(page *site.Page) State {
	return p.Below(State{Online: p.All(), Admitted: p.All(), Edits: p.all}, page)
}

// Below gives the state of a page from its parent's.
func (p *Panel) Below(parent State, page *site.Page) State {
	state := State{
		Admitted: parent.Admitted, Concealed: parent.Concealed || page.Conceal, Edits: parent.Edits, forUs: parent.forUs,
		Folder: page.IsFolder(),
	}
	if page.Status == site.StatusLive {
		state.Online = parent.Online & p.inWindow(page)
	}
	if len(p.edits) > 0 {
		state.Edits |= p.edits[site.PageThing(page.ID)]
	}
	switch page.Audience {
	case site.AudienceInherited:
	case site.AudienceEditors:
		state.forUs = true
	default:
		state.forUs, state.Admitted = false, p.Admits(page.Audience)
	}
	if state.forUs {
		state.Admitted = state.Edits
		if len(p.edits) > 0 {
			state.Admitted |= p.edits[site.KindThing(page.Kind)]
		}
	}
	return state
}

func (p *Panel) inWindow(page *site.Page) Mask {
	if page.LiveFrom.IsZero() && page.LiveUntil.IsZero() {
		return p.All()
	}
	if p.moment && len(p.lenses) > 0 {
		if page.Window().Holds(p.lenses[0].At) {
			return p.All()
		}
		return 0
	}
	var in Mask
	for i, lens := range p.lenses {
		if page.Window().Holds(lens.At) {
			in |= 1 << i
		}
	}
	return in
}

// Admits says which lenses an audience admits; the inherited one, asked by itself, admits everyone. Whom “editors”
// admits is for the page to say: see Below.
func (p *Panel) Admits(audience site.Audience) Mask {
	if audience == site.AudienceEveryone || audience == site.AudienceInherited {
		return p.All()
	}
	var in Mask
	for i := range p.lenses {
		if p.lenses[i].among(audience) {
			in |= 1 << i
		}
	}
	return in
}

// among says whether a visitor is one of those for whom an audience is that is not everyone.
func (v *Visitor) among(audience site.Audience) bool {
	if !v.SignedIn || audience == site.AudienceSignedIn {
		return v.SignedIn
	}
	if audience == site.AudienceEditors {
		return false
	}
	for role := range strings.SplitSeq(string(audience), "|") {
		if slices.Contains(v.Roles, role) {
			return true
		}
	}
	return false
}

// Walk visits the pages of the tree from the top down with how each stands, the branch below a page as long as visit
// says so.
func Walk(s *site.Site, panel *Panel, visit func(*site.Page, State) bool) {
	reader := site.NewReader(s)
	var down func(p *site.Page, state State)
	down = func(p *site.Page, state State) {
		if !visit(p, state) {
			return
		}
		for _, id := range reader.Children(p.ID) {
			kid := reader.Page(id)
			down(kid, panel.Below(state, kid))
		}
	}
	if home := s.Page(s.Home()); home != nil {
		down(home, panel.Home(home))
	}
}
