package reach

import (
	"time"

	"vineladder/internal/core/site"
)

// Times gives the stretches of time in which a page was online, and, without an end, is: those that its spells share with
// the times of the parent that it had then (rules 4.1). Stretches may touch. Binned pages have theirs too.
func Times(s *site.Site, id site.PageID) []site.Interval {
	p := s.Page(id)
	if p == nil {
		return nil
	}
	var times []site.Interval
	for _, spell := range p.EverySpell() {
		times = append(times, Within(s, spell)...)
	}
	return times
}

// Within gives the times of a spell in which the parent was online as well.
func Within(s *site.Site, spell site.Spell) []site.Interval {
	if spell.Parent == 0 {
		return []site.Interval{spell.Interval}
	}
	var times []site.Interval
	for _, above := range Times(s, spell.Parent) {
		if shared, ok := spell.Interval.Meet(above); ok {
			times = append(times, shared)
		}
	}
	return times
}

// OfflineSince gives the moment at which a page was last online before t; zero if it is online at t or never was before.
func OfflineSince(s *site.Site, id site.PageID, t time.Time) time.Time {
	var last time.Time
	for _, online := range Times(s, id) {
		switch {
		case online.From.After(t):
		case online.Until.IsZero() || online.Until.After(t):
			return time.Time{}
		case online.Until.After(last):
			last = online.Until
		}
	}
	return last
}
