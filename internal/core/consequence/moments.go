package consequence

import (
	"slices"
	"time"

	"vineladder/internal/core/listing"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// EdgeLimit is the number of moments to come that are looked at.
const EdgeLimit = 200

type momentOf = time.Time

// now is the viewers' own moment.
func (v Viewers) now() []time.Time { return []time.Time{v.Panel.Lenses()[0].At} }

// panelAt looks through the viewers' eyes at a few moments at once, moment by moment.
func (v Viewers) panelAt(moments []time.Time) *reach.Panel {
	var lenses []reach.Lens
	for _, at := range moments {
		for _, lens := range v.Panel.Lenses() {
			lenses = append(lenses, reach.Lens{Visitor: lens.Visitor, At: at})
		}
	}
	return reach.NewPanel(lenses...)
}

// edges gives the moments to come at which something of what was touched, of what stands above or below it, or of
// what a block that was touched shows, comes or goes; the nearest ones, and the first that is left out.
//
// What a block shows can be seen on pages that come later; so every edge counts on a site where that is cheap.
func (r *Report) edges(t *touch) (nearest []time.Time, more time.Time) {
	every := gathering{report: r, touch: t, now: r.now()[0], at: map[int64]time.Time{}, everywhere: true}
	every.pages()
	every.furniture()
	g := every
	if passes := len(every.at)/r.perPass() + 1; passes*r.Is.Count()*len(r.Is.Blocks()) > everyLimit {
		g = gathering{
			report:     r,
			touch:      t,
			now:        r.now()[0],
			at:         map[int64]time.Time{},
			everywhere: t.edited > len(t.changes) || r.feedsLists(t),
		}
		g.pages()
		g.furniture()
	}
	all := make([]time.Time, 0, len(g.at))
	for _, at := range g.at {
		all = append(all, at)
	}
	slices.SortFunc(all, time.Time.Compare)
	if len(all) > EdgeLimit {
		return all[:EdgeLimit], all[EdgeLimit]
	}
	return all, time.Time{}
}

// everyLimit bounds the pages that may have to be looked at, block by block, for edges that nothing touched has.
const everyLimit = 200_000

// gathering collects edges: those of all pages, or of touched ones and those above and below them.
type gathering struct {
	report     *Report
	touch      *touch
	now        time.Time
	at         map[int64]time.Time
	everywhere bool
}

func (g *gathering) add(edges ...time.Time) {
	for _, edge := range edges {
		if edge.After(g.now) {
			g.at[edge.UnixNano()] = edge
		}
	}
}

// pages collects the edges of pages.
func (g *gathering) pages() {
	near := map[site.PageID]bool{}
	for _, change := range g.touch.changes {
		near[subject(change)] = true
		for _, p := range []*site.Page{change.Was, change.Is} {
			if p != nil {
				g.add(p.LiveFrom, p.LiveUntil)
			}
		}
	}
	for _, s := range []*site.Site{g.report.Was, g.report.Is} {
		above := map[site.PageID]bool{}
		g.topics(s, near)
		g.listings(s, near)
		for id := range near {
			for p := s.Page(id); p != nil && !above[p.ID]; p = s.Page(p.Parent) {
				above[p.ID] = true
			}
			g.links(s, id)
		}
		for _, id := range g.touch.detailed {
			g.links(s, id)
			for p := s.Page(id); p != nil; p = s.Page(p.Parent) {
				g.add(p.LiveFrom, p.LiveUntil)
			}
		}
		for _, id := range s.Windowed() {
			p := s.Page(id)
			if g.everywhere || above[id] || g.isWithin(s, p, near) {
				g.add(p.LiveFrom, p.LiveUntil)
			}
		}
	}
}

// links collects the edges of the pages to which a page leads.
func (g *gathering) links(s *site.Site, id site.PageID) {
	p := s.Page(id)
	if p == nil {
		return
	}
	for _, to := range s.LinksOf(p) {
		for q := s.Page(to); q != nil; q = s.Page(q.Parent) {
			g.add(q.LiveFrom, q.LiveUntil)
		}
	}
}

func (g *gathering) isWithin(s *site.Site, p *site.Page, near map[site.PageID]bool) bool {
	for ; p != nil; p = s.Page(p.Parent) {
		if near[p.ID] && p.Parent != 0 {
			return true
		}
	}
	return false
}

// furniture collects the edges of menu items and placements: where only pages were touched they count too, since
// these may show there.
func (g *gathering) furniture() {
	for _, s := range []*site.Site{g.report.Was, g.report.Is} {
		for i := range s.Menus() {
			for k := range s.Menus()[i].Entries {
				e := &s.Menus()[i].Entries[k]
				g.add(e.LiveFrom, e.LiveUntil)
			}
		}
		for i := range s.Placements() {
			p := &s.Placements()[i]
			g.add(p.LiveFrom, p.LiveUntil)
		}
		for i := range s.Blocks() {
			if q, is := listing.OfBlock(s, &s.Blocks()[i]); is {
				g.add(listing.Midnights(s, q)...)
			}
		}
	}
}
