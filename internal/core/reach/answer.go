package reach

import (
	"time"

	"vineladder/internal/core/site"
)

// Answer is what a visitor who asks for a page gets (rules 4.3).
type Answer int

const (
	Sees     Answer = iota // the page
	NotThere               // 404: offline, concealed from the visitor, or no page at all
	SignIn                 // 303 to sign-in and back
	NoAccess               // 403: signed in, but not admitted
)

// Ask gives the answer for one lens.
func Ask(s *site.Site, id site.PageID, lens Lens) Answer {
	state := NewPanel(lens).At(s, id)
	switch {
	case state.Online == 0, state.Folder:
		return NotThere
	case state.Admitted != 0:
		return Sees
	case state.Concealed:
		return NotThere
	case lens.SignedIn:
		return NoAccess
	}
	return SignIn
}

// AdmittedBefore says whether a lens would be admitted to a page that is in the bin, by the audiences on its old path.
func AdmittedBefore(s *site.Site, id site.PageID, lens Lens) bool {
	return NewPanel(lens).AdmittedBefore(s, id) != 0
}

// AdmittedBefore says which lenses would be admitted to a page, by the path on which it stands or stood.
func (p *Panel) AdmittedBefore(s *site.Site, id site.PageID) Mask {
	var on func(page *site.Page) State
	on = func(page *site.Page) State {
		if above := s.Page(page.Parent); above != nil {
			return p.Below(on(above), page)
		}
		return p.Home(page)
	}
	if page := s.Page(id); page != nil {
		return on(page).Admitted
	}
	return p.All()
}

// NearestAbove gives the nearest page above a binned one that a lens reaches, to which its addresses could lead (rules
// 3.5); nil if there is none.
func NearestAbove(s *site.Site, id site.PageID, lens Lens) *site.Page {
	for above := s.Page(s.Page(id).Parent); above != nil; above = s.Page(above.Parent) {
		if s.InTree(above.ID) && Ask(s, above.ID, lens) == Sees {
			return above
		}
	}
	return nil
}

// Why says why a page is not online at a moment: the page that causes it, nearest to the home page, and which of its
// settings. A nil Cause means that it is online.
type Why struct {
	Cause  *site.Page
	Window bool // the cause is live but outside its window
}

// WhyOffline looks down the path for the first page that is not online by itself.
func WhyOffline(s *site.Site, id site.PageID, t time.Time) Why {
	for _, page := range s.Path(id) {
		switch {
		case page.Status != site.StatusLive:
			return Why{page, false}
		case !page.Window().Holds(t):
			return Why{page, true}
		}
	}
	return Why{}
}

// Source gives the page on which the audience of a page is set: itself, the nearest above, or the home page.
func Source(s *site.Site, id site.PageID) *site.Page {
	for page := s.Page(id); page != nil; page = s.Page(page.Parent) {
		if page.Audience != site.AudienceInherited || page.Parent == 0 {
			return page
		}
	}
	return nil
}

// OnlineFrom gives the interval in which a page is online, from included, until excluded; zero times are open ends. A
// page is online in one interval only, the intersection along its path (rules 4.1); ok is false if that is empty.
func OnlineFrom(s *site.Site, id site.PageID) (from, until time.Time, ok bool) {
	path := s.Path(id)
	if !s.InTree(id) {
		return from, until, false
	}
	for _, page := range path {
		if page.Status != site.StatusLive {
			return from, until, false
		}
		if page.LiveFrom.After(from) {
			from = page.LiveFrom
		}
		if !page.LiveUntil.IsZero() && (until.IsZero() || page.LiveUntil.Before(until)) {
			until = page.LiveUntil
		}
	}
	return from, until, until.IsZero() || from.Before(until)
}

// NextEdge is the next moment after t at which the live window of a page, a menu entry or a placement begins or ends,
// and with it what visitors see may change; zero if there is none.
func NextEdge(s *site.Site, t time.Time) time.Time {
	var next time.Time
	consider := func(edges ...time.Time) {
		for _, edge := range edges {
			if edge.After(t) && (next.IsZero() || edge.Before(next)) {
				next = edge
			}
		}
	}
	for _, id := range s.Windowed() {
		if s.InTree(id) {
			p := s.Page(id)
			consider(p.LiveFrom, p.LiveUntil)
		}
	}
	for i := range s.Menus() {
		entries := s.Menus()[i].Entries
		for k := range entries {
			consider(entries[k].LiveFrom, entries[k].LiveUntil)
		}
	}
	for i := range s.Placements() {
		p := &s.Placements()[i]
		consider(p.LiveFrom, p.LiveUntil)
	}
	return next
}
