package address

import (
	"slices"
	"strings"
	"time"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// Old finds the page that was online at a path before now, the one that was there last if there were several; 0 if
// nothing ever was (rules 3.4). It walks the spells of pages, present and past: a path was real at the times that all
// of its steps share. The page may be in the bin, or purged.
func Old(s *site.Site, path string, now time.Time) site.PageID {
	var found site.Claim
	for _, claim := range claims(s, path) {
		if !claim.From.After(now) && (found.Page == 0 || found.EndsBefore(claim.Interval)) {
			found = claim
		}
	}
	return found.Page
}

// claims gives every page that was ever online at a path, by segments from the home page or from an own address, with
// the times.
func claims(s *site.Site, path string) []site.Claim {
	ends := descend(s, site.Claim{Page: s.Home()}, path)
	for at := len(path); at > 0; at = strings.LastIndexByte(path[:at], '/') {
		for _, start := range ownClaims(s, path[:at]) {
			ends = append(ends, descend(s, start, path[at:])...)
		}
	}
	return ends
}

// ownClaims gives the pages that had an own address while they were online.
func ownClaims(s *site.Site, path string) []site.Claim {
	starts := s.OwnClaims(path)
	for _, f := range fixedWithin(s, path, path) {
		if spell, ok := s.Page(f.Page).Spell(); ok && !f.Short {
			starts = append(starts, site.Claim{Page: f.Page, Interval: spell.Interval})
		}
	}
	var online []site.Claim
	for _, start := range starts {
		for _, times := range reach.Within(s, start.Page, start.Interval) {
			online = append(online, site.Claim{Page: start.Page, Interval: times})
		}
	}
	return online
}

// descend follows the segments of a path from a page, as far as the times along it still meet.
func descend(s *site.Site, from site.Claim, path string) []site.Claim {
	standing := []site.Claim{from}
	for path != "" && path != "/" && len(standing) > 0 {
		segment := path[1:]
		if end := strings.IndexByte(segment, '/'); end >= 0 {
			segment = segment[:end]
		}
		path = path[1+len(segment):]
		var next []site.Claim
		for _, above := range standing {
			for _, claim := range s.Claims(above.Page, segment) {
				if shared, ok := above.Meet(claim.Interval); ok {
					next = append(next, site.Claim{Page: claim.Page, Interval: shared})
				}
			}
		}
		standing = next
	}
	return standing
}

// Untouched says whether no page stands or ever stood at a path or below it, so that nothing there can be taken over.
func Untouched(s *site.Site, path string) bool {
	return len(fixedWithin(s, path, path+"/\xff")) == 0 && !s.HadOwnWithin(path) && len(claims(s, path)) == 0
}

// Unclaimed says whether no own or short address stands below a path.
func Unclaimed(s *site.Site, path string) bool {
	return len(fixedWithin(s, path+"/", path+"/\xff")) == 0
}

// A Lead is an address that leads to a page.
type Lead struct {
	Address string
	By      By
	Last    time.Time // an old address: until when the page was online there
}

// By says why an address leads to a page.
type By string

const (
	ByAddress By = "address" // the page is served there
	ByShort   By = "short"
	ByOld     By = "old"
)

// Leads gives every address that leads to a page: today's, the short ones, and the old ones, newest first, that no
// other page has taken since. A binned page has old ones only.
func Leads(s *site.Site, id site.PageID, now time.Time) []Lead {
	var leads []Lead
	if s.InTree(id) {
		leads = append(leads, Lead{Address: Of(s, id), By: ByAddress})
		for _, short := range s.Page(id).ShortAddresses {
			leads = append(leads, Lead{Address: short, By: ByShort})
		}
	}
	stands := len(leads)
	for _, was := range everAt(s, id, site.Interval{}) {
		known := func(l Lead) bool { return l.Address == was.path }
		if was.From.After(now) || slices.ContainsFunc(leads, known) {
			continue
		}
		if found := Resolve(s, was.path, now); found.Page == id && (found.Old || found.Gone) {
			leads = append(leads, Lead{was.path, ByOld, was.Until})
		}
	}
	slices.SortStableFunc(leads[stands:], func(a, b Lead) int { return b.Last.Compare(a.Last) })
	return leads
}

// wasAt is a path at which a page was online for a time.
type wasAt struct {
	path string
	site.Interval
}

// everAt gives the paths at which a page was online inside a window, which narrows on the way up.
func everAt(s *site.Site, id site.PageID, window site.Interval) []wasAt {
	p := s.Page(id)
	if p == nil {
		return nil
	}
	if p.Parent == 0 && p.OwnAddress == "" {
		return []wasAt{{"/", window}}
	}
	var ever []wasAt
	for _, spell := range p.EverySpell() {
		shared, ok := spell.Interval.Meet(window)
		switch {
		case !ok:
		case spell.Own != "" && spell.Parent == 0:
			ever = append(ever, wasAt{spell.Own, shared})
		case spell.Own != "":
			for _, times := range reach.Within(s, spell.Parent, shared) {
				ever = append(ever, wasAt{spell.Own, times})
			}
		default:
			for _, above := range everAt(s, spell.Parent, shared) {
				ever = append(ever, wasAt{Under(above.path, spell.Segment), above.Interval})
			}
		}
	}
	return ever
}

// Ever gives every path at which a page was online or stands, each once; other pages may have some of them by now.
func Ever(s *site.Site, id site.PageID) []string {
	var paths []string
	for _, was := range everAt(s, id, site.Interval{}) {
		if !slices.Contains(paths, was.path) {
			paths = append(paths, was.path)
		}
	}
	return paths
}
