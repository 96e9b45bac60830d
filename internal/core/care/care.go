// Package care says who looks after a page, and when somebody looks next whether it is still right (rules 13).
package care

import (
	"slices"
	"strings"
	"time"

	"vineladder/internal/core/count"
	"vineladder/internal/core/site"
)

// Known is what is known of care besides the site: who said of what that it is still right, and who of the people is
// gone. A nil Known knows nothing. It is not changed once it was made.
type Known struct {
	Pages    map[site.PageID]time.Time // said of the page alone
	Branches map[site.PageID]time.Time // said of the page and all below it
	Gone     map[string]bool           // sign-in names of people who can't sign in any more
}

// Of is what holds for one page.
type Of struct {
	Owner     site.Owner
	From      *site.Page // on which the owner is set; nil: nobody looks after it
	GoneOwner site.Owner // the nearest one that is set, where that person is gone: the next above has the page
	Months    int        // until the next review; 0: none
	Every     *site.Page // on which that is set
	reviewed  time.Time  // of a branch in which it stands
}

// Below carries what holds for a page on to one right below it, or, from the zero Of, to the home page.
func (k *Known) Below(above Of, p *site.Page) Of {
	at := above
	if p.Owner != "" {
		if login, is := p.Owner.Person(); is && k != nil && k.Gone[login] {
			at.GoneOwner = p.Owner
		} else {
			at.Owner, at.From, at.GoneOwner = p.Owner, p, ""
		}
	}
	if p.Review != "" {
		at.Months, at.Every = p.Review.Months(), p
	}
	if k != nil {
		if said := k.Branches[p.ID]; said.After(at.reviewed) {
			at.reviewed = said
		}
	}
	return at
}

// At gives what holds for a page of the tree.
func (k *Known) At(s *site.Site, id site.PageID) (at Of) {
	for _, p := range s.Path(id) {
		at = k.Below(at, p)
	}
	return at
}

// Reviewed gives when somebody last said that a page is still right, of it or of a branch in which it stands; zero:
// nobody did.
func (k *Known) Reviewed(at Of, p *site.Page) time.Time {
	if k != nil {
		if said := k.Pages[p.ID]; said.After(at.reviewed) {
			return said
		}
	}
	return at.reviewed
}

// Due gives when a page is due: the later of its own words' last change and of the last review, and the time between
// reviews on top. ok is false for a page that falls never due: without reviews, never online, a file or folder.
func (k *Known) Due(at Of, p *site.Page, now time.Time) (due time.Time, ok bool) {
	if at.Months == 0 || !p.WasOnline(now) || p.Purged || p.IsFile() || p.IsFolder() {
		return due, false
	}
	from := p.Worded
	if said := k.Reviewed(at, p); said.After(from) {
		from = said
	}
	return from.AddDate(0, at.Months, 0), true
}

// Soon is the moment until which what will be due is told already.
func Soon(now time.Time) time.Time { return now.AddDate(0, 1, 0) }

// A DuePage is one that is due, or soon will be.
type DuePage struct {
	Page *site.Page
	At   Of
	Due  time.Time
}

// Overdue says whether it is late already.
func (d DuePage) Overdue(now time.Time) bool { return d.Due.Before(now) }

// DuePages gives the pages of a site that are due, or soon will be, the longest due first.
func (k *Known) DuePages(s *site.Site, now time.Time) (all []DuePage) {
	k.Walk(s, s.Home(), func(p *site.Page, at Of) {
		if due, ok := k.Due(at, p, now); ok && !due.After(Soon(now)) {
			all = append(all, DuePage{p, at, due})
		}
	})
	slices.SortStableFunc(all, func(a, b DuePage) int { return a.Due.Compare(b.Due) })
	return all
}

// Walk visits every page of a branch with what holds for it.
func (k *Known) Walk(s *site.Site, top site.PageID, visit func(*site.Page, Of)) {
	var below func(id site.PageID, above Of)
	below = func(id site.PageID, above Of) {
		p := s.Page(id)
		at := k.Below(above, p)
		visit(p, at)
		for _, kid := range s.Children(id) {
			below(kid, at)
		}
	}
	p := s.Page(top)
	if p == nil {
		return
	}
	above := Of{}
	if p.Parent != 0 {
		above = k.At(s, p.Parent)
	}
	below(top, above)
}

// EveryWords says after how long somebody looks at a page again.
func EveryWords(every site.ReviewEvery) string {
	switch months := every.Months(); {
	case every == site.ReviewNever:
		return "never"
	case months == 0:
		return "as above"
	case months%12 == 0:
		return strings.Replace("every "+count.Of(months/12, "year", "years"), "every 1 year", "every year", 1)
	default:
		return strings.Replace("every "+count.Of(months, "month", "months"), "every 1 month", "every month", 1)
	}
}
