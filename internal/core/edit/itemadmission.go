package edit

import (
	"slices"

	"vineladder/internal/core/site"
)

// AudiencesOf gives the audiences that must all admit somebody for an item to show, its own first, then those above
// it; nil for an item that is in no menu.
func AudiencesOf(s *site.Site, id site.EntryID) []site.Audience {
	m, err := holder(s, id)
	if err != nil {
		return nil
	}
	return audiencesIn(s, m, id)
}

// audiencesIn counts the audience of the page of a line too, if the item stands below one of a run.
func audiencesIn(s *site.Site, m *site.Menu, id site.EntryID) []site.Audience {
	var all []site.Audience
	for e, left := m.Entry(id), len(m.Entries); e != nil && left >= 0; e, left = m.Entry(e.Parent), left-1 {
		all = append(all, e.Audience)
		if e.Under != 0 {
			all = append(all, guard(s, e.Under))
		}
	}
	return all
}

// guard is the audience that admits to a page: its own, or the nearest above.
func guard(s *site.Site, id site.PageID) site.Audience {
	for p := s.Page(id); p != nil; p = s.Page(p.Parent) {
		if p.Audience != site.AudienceInherited {
			return p.Audience
		}
	}
	return site.AudienceInherited
}

// Lost gives the audiences of one row that another does not hold people to, the narrowest of them only: whom none of
// them keeps away is kept away by none of the first row.
func Lost(s *site.Site, was, is []site.Audience) []site.Audience {
	// holds says whether an audience keeps away all whom another one keeps away.
	holds := func(audience, other site.Audience) bool { return !IsWider(s, open(audience), open(other)) }
	held := func(by []site.Audience, a site.Audience) bool {
		return slices.ContainsFunc(by, func(b site.Audience) bool { return holds(b, a) })
	}
	var lost []site.Audience
	for _, a := range was {
		if open(a) == site.AudienceEveryone || held(is, a) || held(lost, a) {
			continue
		}
		lost = slices.DeleteFunc(lost, func(b site.Audience) bool { return holds(a, b) })
		lost = append(lost, a)
	}
	return lost
}

// open is the audience of an item that sets none.
func open(a site.Audience) site.Audience {
	if a == site.AudienceInherited {
		return site.AudienceEveryone
	}
	return a
}

// LeadsToPages says whether an item and all below it lead to pages, which guard themselves.
func LeadsToPages(s *site.Site, id site.EntryID) bool {
	m, err := holder(s, id)
	return err == nil && leadToPages(branchOf(m, id))
}

func leadToPages(branch []site.Entry) bool {
	return !slices.ContainsFunc(branch, func(e site.Entry) bool { return e.Target() == 0 })
}

// keepItemClosed gives a moved item the audience that it had from above, where its new place would open it and one
// audience says the same (rules 2.6); where none does, the move stands, and needs the right to admit. A move that goes
// back gives it what it had, if no audience on either way was changed since.
func (st *state) keepItemClosed(m *site.Menu, o OpMoveEntry, was []site.Audience, settled *OpMoveEntry) {
	e := m.Entry(o.Entry)
	old := e.Audience
	for _, c := range o.Keeps {
		if c.Field == FieldAudience && c.Old == string(e.Audience) {
			e.Audience = site.Audience(c.New)
		}
	}
	is := audiencesIn(st.Peek(), m, o.Entry)
	goesBack := o.Back && slices.Equal(o.Was, was) && slices.Equal(o.Is, is)
	if !goesBack && !leadToPages(branchOf(m, o.Entry)) {
		lost := Lost(st.Peek(), was, is)
		if len(lost) == 1 && !IsWider(st.Peek(), lost[0], open(e.Audience)) {
			e.Audience = lost[0]
		}
	}
	if e.Audience != old {
		settled.Keeps = []FieldChange{{Field: FieldAudience, Old: string(old), New: string(e.Audience)}}
	}
	settled.Was, settled.Is = was, audiencesIn(st.Peek(), m, o.Entry)
}
