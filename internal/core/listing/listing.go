// Package listing finds the pages that answer a question which is put on a page for visitors (rules 7.6): of some
// types, about a topic, in a branch, in an order, the first few of them.
package listing

import (
	"cmp"
	"slices"
	"strings"

	"vineladder/internal/core/detail"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/topic"
)

// A Miss is why a page is none of those that a question asks for.
type Miss string

// MissNot is of a page that answers the question. The others are in the order in which they are looked for.
const (
	MissNot    Miss = ""
	MissSort   Miss = "sort"   // it gathers pages itself, is the home page or stands in for others
	MissKind   Miss = "kind"   // it is of another type
	MissTopic  Miss = "topic"  // it is not about the topic
	MissBranch Miss = "branch" // it stands elsewhere
	MissWants  Miss = "wants"  // it lacks a value that is asked for
	MissSelf   Miss = "self"   // it is the page that lists
	MissReach  Miss = "reach"  // the visitor does not reach it
	MissDay    Miss = "day"    // it has what is asked for on other days
	MissFull   Miss = "full"   // as many as are shown come before it
)

// Missing says why a page is none that a question asks for, whoever asks and on whatever day. The pages that stand in
// for others, and what gathers pages itself, are none of any.
func Missing(s *site.Site, p *site.Page, q site.BlockListing) Miss { return missing(s, p, q, Wants(q)) }

func missing(s *site.Site, p *site.Page, q site.BlockListing, wants []Want) Miss {
	switch settings := s.Settings(); {
	case p.Gathers(), p.Parent == 0,
		p.ID == settings.NotFound, p.ID == settings.NoAccess, p.ID == settings.SignIn, p.ID == settings.Shut:
		return MissSort
	case q.Kinds != "" && !slices.Contains(strings.Split(q.Kinds, "|"), p.Kind):
		return MissKind
	case q.Topic != 0 && !topic.IsAbout(s, p.ID, q.Topic):
		return MissTopic
	case q.Within != 0 && (p.ID == q.Within || !s.IsWithin(p.ID, q.Within)):
		return MissBranch
	case !holdsOn(s, p, wants, ""):
		return MissWants
	}
	return MissNot
}

// WhyNot says why somebody of a panel does not find a page in what is listed on another one; on is 0 for a block, of
// which only the first few show.
func WhyNot(s *site.Site, id, on site.PageID, q site.BlockListing, panel *reach.Panel) Miss {
	if miss := Missing(s, s.Page(id), q); miss != MissNot {
		return miss
	}
	of := Reached(s, q, panel)
	reached := func(hit site.PageID) bool { return of(hit) != 0 }
	switch {
	case on == id:
		return MissSelf
	case panel.At(s, id).Reachable() == 0:
		return MissReach
	case !reached(id):
		return MissDay
	case on == 0 && !slices.Contains(First(Candidates(s, q), q.Most, 0, reached), id):
		return MissFull
	}
	return MissNot
}

// Answering says of pages whether a question asks for them, whoever asks and on whatever day. It is read once.
func Answering(s *site.Site, q site.BlockListing) func(*site.Page) bool {
	wants := Wants(q)
	return func(p *site.Page) bool { return missing(s, p, q, wants) == MissNot }
}

// Candidates gives the pages that a question asks for, whoever asks and on whatever day, in its order. A topic or a
// branch that is gone is about nothing.
func Candidates(s *site.Site, q site.BlockListing) []site.PageID {
	var found []site.PageID
	wants := Wants(q)
	take := func(p *site.Page) bool {
		if missing(s, p, q, wants) == MissNot && s.InTree(p.ID) {
			found = append(found, p.ID)
		}
		return true
	}
	switch {
	case q.Topic != 0 && !s.InTree(q.Topic), q.Within != 0 && !s.InTree(q.Within):
		return nil
	case q.Topic != 0:
		for _, id := range topic.Bearers(s, q.Topic) {
			take(s.Page(id))
		}
	default:
		s.Walk(cmp.Or(q.Within, s.Home()), take)
	}
	if q.Sort == site.ListTree {
		if q.Topic != 0 {
			s.SortByTree(found)
		}
		return found
	}
	s.SortByHeading(found)
	if key, down := q.Sort.Detail(); key != "" {
		sortByDetail(s, found, key, down)
		return found
	}
	slices.SortStableFunc(found, func(a, b site.PageID) int { return compare(s.Page(a), s.Page(b), q.Sort) })
	return found
}

// sortByDetail puts pages in order by the values of a detail, ranges by their first day. Those without one stand last
// both ways.
func sortByDetail(s *site.Site, pages []site.PageID, key string, down bool) {
	d := s.Detail(key)
	if d == nil || !Asks(*d) || detail.Of(*d).Order == nil {
		return
	}
	by := make(map[site.PageID]string, len(pages))
	for _, id := range pages {
		p := s.Page(id)
		if value := p.Values.Get(key); value != "" && p.Kind == d.Kind() && detail.Reads(s, *d, value) {
			by[id] = detail.Of(*d).Order(value)
		}
	}
	slices.SortStableFunc(pages, func(a, b site.PageID) int {
		x, y := by[a], by[b]
		if (x == "") != (y == "") {
			return cmp.Compare(y, x) // the one without stands last
		}
		if down {
			return cmp.Compare(y, x)
		}
		return cmp.Compare(x, y)
	})
}

// Reached says of candidates which lenses get them: those that reach one, at moments at which it has what is wanted.
func Reached(s *site.Site, q site.BlockListing, panel *reach.Panel) func(id site.PageID) reach.Mask {
	if !Moves(q) {
		return func(id site.PageID) reach.Mask { return panel.At(s, id).Reachable() }
	}
	wants, days := Wants(q), daysOf(s, panel)
	return func(id site.PageID) reach.Mask {
		mask := panel.At(s, id).Reachable()
		for _, d := range days {
			if mask&d.lenses != 0 && !holdsOn(s, s.Page(id), wants, d.today) {
				mask &^= d.lenses
			}
		}
		return mask
	}
}

// A day is one of the site's zone, with the lenses that look on it.
type day struct {
	today  string
	lenses reach.Mask
}

func daysOf(s *site.Site, panel *reach.Panel) (days []day) {
	for lens, l := range panel.Lenses() {
		today := Today(s, l.At)
		at := slices.IndexFunc(days, func(d day) bool { return d.today == today })
		if at < 0 {
			at, days = len(days), append(days, day{today: today})
		}
		days[at].lenses |= 1 << lens
	}
	return days
}

// compare puts pages in order beyond their long names. Those without what they are ordered by stand last.
func compare(a, b *site.Page, by site.ListSort) int {
	last := func(a, b bool) int {
		switch {
		case a == b:
			return 0
		case a:
			return 1
		}
		return -1
	}
	switch by {
	case site.ListNewest:
		return cmp.Or(last(a.FirstOnline.IsZero(), b.FirstOnline.IsZero()), b.FirstOnline.Compare(a.FirstOnline))
	case site.ListDate:
		return cmp.Or(last(a.Date == "", b.Date == ""), cmp.Compare(a.Date, b.Date))
	case site.ListDateDown:
		return cmp.Or(last(a.Date == "", b.Date == ""), cmp.Compare(b.Date, a.Date))
	}
	return 0
}

// First gives the first of some candidates that somebody reaches, as many as a listing shows; a listing never lists the
// page on which it stands.
func First(candidates []site.PageID, most int, on site.PageID, reached func(site.PageID) bool) []site.PageID {
	var hits []site.PageID
	for _, id := range candidates {
		if len(hits) == most {
			break
		}
		if id != on && reached(id) {
			hits = append(hits, id)
		}
	}
	return hits
}
