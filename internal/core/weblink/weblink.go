// Package weblink knows the web addresses to which a site links, and which of them don't answer (rules 10).
package weblink

import (
	"maps"
	"slices"
	"strings"
	"time"

	"vineladder/internal/core/site"
)

// A Dead is an address that did not answer several times, days apart.
type Dead struct {
	Why   string    // as in “it answers 404 Not Found”
	Since time.Time // the first time
}

// Known is what is known of addresses. A nil Known knows nothing. It is not changed once it was made.
type Known struct{ Dead map[string]Dead }

// Same says whether two know the same.
func (k *Known) Same(other *Known) bool { return maps.Equal(k.Dead, other.Dead) }

// Of says what is known of an address; ok is false for one that answers, or that nobody looked at.
func (k *Known) Of(address string) (dead Dead, ok bool) {
	if k == nil {
		return dead, false
	}
	dead, ok = k.Dead[address]
	return dead, ok
}

// IsWeb says whether an address is one of the web.
func IsWeb(address string) bool {
	return strings.HasPrefix(address, "https://") || strings.HasPrefix(address, "http://")
}

// A Use is a thing that links to an address.
type Use struct {
	On   site.Thing
	Page site.PageID // in whose branch it stands; 0: it is no page's
	To   string
}

// Uses visits every link of the site to a web address: those of the texts and details of pages in the tree, of items
// and of the texts of blocks. It looks at every page.
func Uses(s *site.Site, visit func(Use)) {
	var web []string // keys of details
	for _, d := range s.AllDetails() {
		if d.Type == site.DetailWeb {
			web = append(web, d.Key)
		}
	}
	s.Walk(s.Home(), func(p *site.Page) bool {
		for _, to := range s.TextWeb(p.Text) {
			visit(Use{site.PageThing(p.ID), p.ID, to})
		}
		for _, key := range web {
			if to := p.Values.Get(key); site.KindOfDetail(key) == p.Kind && IsWeb(to) {
				visit(Use{site.PageThing(p.ID), p.ID, to})
			}
		}
		return true
	})
	for i := range s.Menus() {
		for _, e := range s.Menus()[i].Entries {
			if to, is := e.Shows.(site.ItemWeb); is && IsWeb(to.Address) {
				visit(Use{site.Thing{Family: site.FamilyEntry, ID: int64(e.ID)}, 0, to.Address})
			}
		}
	}
	for _, b := range s.Blocks() {
		if shows, is := b.Shows.(site.BlockText); is {
			for _, to := range s.TextWeb(shows.Text) {
				visit(Use{site.Thing{Family: site.FamilyBlock, ID: int64(b.ID)}, 0, to})
			}
		}
	}
}

// Addresses gives every web address to which a site links, each once, in order.
func Addresses(s *site.Site) []string {
	found := map[string]bool{}
	var all []string
	Uses(s, func(u Use) {
		if !found[u.To] {
			found[u.To] = true
			all = append(all, u.To)
		}
	})
	slices.Sort(all)
	return all
}

// A Try is what came of asking for an address.
type Try struct {
	Fault string        // why it does not answer; "": it does, or refuses to be asked
	After time.Duration // what the server wants to be waited for; 0: nothing
}

// Times between two looks at an address: one that answers, and one that failed once, twice, and ever after.
const (
	AgainAfter = 7 * 24 * time.Hour
	lastAfter  = 3 * 24 * time.Hour
)

var failedAfter = []time.Duration{time.Hour, 24 * time.Hour}

// DeadAfter is how many times in a row an address fails before it is called dead.
const DeadAfter = 3

// Next says when to look again after a try that was the n-th failure in a row, 0 for none.
func Next(n int, after time.Duration) time.Duration {
	wait := AgainAfter
	if n > 0 {
		wait = lastAfter
		if n <= len(failedAfter) {
			wait = failedAfter[n-1]
		}
	}
	return max(wait, min(after, AgainAfter))
}
