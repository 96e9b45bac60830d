package reach

import (
	"time"

	"vineladder/internal/core/site"
)

// Times gives the stretches of time in which a page was online, and, without an end, is: those that its spells share
// with the times of the parent that it had then (rules 4.1). Stretches may touch. Binned pages have theirs too.
func Times(s *site.Site, id site.PageID) []site.Interval { return Within(s, id, site.Interval{}) }

// Within gives the times in which a page was online inside a window. The window narrows on the way up: two pages may
// have been above each other at different times, never at the same.
func Within(s *site.Site, id site.PageID, window site.Interval) []site.Interval {
	p := s.Page(id)
	if p == nil {
		return nil
	}
	var times []site.Interval
	for _, spell := range p.EverySpell() {
		shared, ok := spell.Interval.Meet(window)
		switch {
		case !ok:
		case spell.Parent == 0:
			times = append(times, shared)
		default:
			times = append(times, Within(s, spell.Parent, shared)...)
		}
	}
	return times
}

// OfflineSince gives the moment at which a page was last online before t; zero if it is online at t or never was
// before.
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
