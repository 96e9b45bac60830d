package check

import (
	"vineladder/internal/core/care"
	"vineladder/internal/core/site"
)

// A Standing is what a page has from above.
type Standing struct {
	Level    int
	Offline  *site.Page    // the nearest above that is not online; nil: none
	Audience site.Audience // that holds above it
	From     *site.Page    // where that is set; nil: nowhere
	Care     care.Of       // as it holds above
	run      int           // levels of a menu's run that are left for it; 0: none
}

// endless are the levels of a run that takes all below it.
const endless = 1 << 20

// online says whether a page itself is, whatever stands above it.
func (l *Look) online(p *site.Page) bool {
	return p.Status == site.StatusLive && (p.LiveFrom.IsZero() || !p.LiveFrom.After(l.At)) &&
		(p.LiveUntil.IsZero() || p.LiveUntil.After(l.At))
}

// below gives the standing of a page's children.
func (l *Look) below(at Standing, p *site.Page) Standing {
	made := Standing{Level: at.Level + 1, Offline: at.Offline, Audience: at.Audience, From: at.From}
	made.Care = l.Care.Below(at.Care, p)
	if !l.online(p) {
		made.Offline = p
	}
	if p.Audience != site.AudienceInherited {
		made.Audience, made.From = p.Audience, p
	}
	if p.Listed || p.Parent == 0 {
		made.run = at.run - 1
	}
	made.run = max(made.run, l.menus.runs[p.ID], 0)
	return made
}

// standing gives that of one page of the tree.
func (l *Look) standing(id site.PageID) (at Standing) {
	path := l.Site.Path(id)
	for _, p := range path[:max(len(path)-1, 0)] {
		at = l.below(at, p)
	}
	return at
}

// ordinary says whether a page is one that visitors read: neither a file nor a part of topic lists, nor one that
// stands in for others.
func (l *Look) ordinary(p *site.Page) bool {
	return !site.IsOwnKind(p.Kind) && !l.menus.special[p.ID]
}

// visited says whether somebody can be on a page now.
func (l *Look) visited(p *site.Page, at Standing) bool { return at.Offline == nil && l.online(p) }
