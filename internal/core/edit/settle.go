package edit

import (
	"slices"
	"time"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// Settle derives what publishing at a moment fixes, for previews and publications alike (rules 9.1): the spell that
// ends where a page leaves its place or goes offline, so that its addresses are kept (rules 3.4), and when each page
// that the edits touched first is online. A page that begins later has a first moment in the future, which moves with
// its window until it has come (rules 3.2).
func Settle(was, is *site.Site, at time.Time) *site.Site {
	b := is.Builder()
	changes := site.Changes(was, is)
	for _, change := range changes {
		if change.Is != nil && (change.Was == nil || !sameSpell(change.Was, change.Is)) {
			b.Put(endSpell(change, at))
		}
	}
	for _, change := range changes {
		if change.Is != nil && (change.Was == nil || !sameOnline(change.Was, change.Is)) {
			settleBranch(b, is, change.Is.ID, at)
		}
	}
	return b.Site()
}

func sameSpell(a, b *site.Page) bool {
	return sameOnline(a, b) && a.Segment == b.Segment && a.OwnAddress == b.OwnAddress
}

// endSpell closes the spell in which a page stood until now and begins the next one.
func endSpell(change site.Change, at time.Time) *site.Page {
	p := *change.Is
	p.Since = at
	if p.BinnedAt = (time.Time{}); p.Binned {
		p.BinnedAt = at
	}
	if change.Was == nil {
		return &p
	}
	if spell, ok := change.Was.Spell(); ok {
		if over, ok := spell.Interval.Meet(site.Interval{Until: at}); ok {
			spell.Interval = over
			p.Spells = append(slices.Clip(p.Spells), spell)
		}
	}
	return &p
}

func sameOnline(a, b *site.Page) bool {
	return a.Parent == b.Parent && a.Status == b.Status && a.Binned == b.Binned &&
		a.LiveFrom.Equal(b.LiveFrom) && a.LiveUntil.Equal(b.LiveUntil)
}

// settleBranch sets the first moment online on a page and all below it.
func settleBranch(b *site.Builder, s *site.Site, top site.PageID, at time.Time) {
	s.Walk(top, func(p *site.Page) bool {
		first := firstOnline(s, p, at)
		if !first.Equal(p.FirstOnline) {
			settled := *b.Peek().Page(p.ID)
			settled.FirstOnline = first
			b.Put(&settled)
		}
		return true
	})
}

// firstOnline keeps a moment that has come; any other is when the page will be online as things stand, zero for never.
func firstOnline(s *site.Site, p *site.Page, at time.Time) time.Time {
	if p.WasOnline(at) {
		return p.FirstOnline
	}
	from, until, ok := reach.OnlineFrom(s, p.ID)
	if !ok || !until.IsZero() && !at.Before(until) {
		return time.Time{}
	}
	if from.After(at) {
		return from
	}
	return at
}
