package measure

import (
	"fmt"
	"slices"
	"time"

	"vineladder/internal/core/care"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A Group is some pages that have something in common.
type Group struct {
	Key   string // in addresses
	Name  string
	Pages []site.PageID // in the tree's order
}

// Numbers are what can be said of a site at a glance, as a visitor gets it (rules 11). Topics, files and what holds
// them are left out.
type Numbers struct {
	Whole   []Group // pages, online, reachable, listed
	Levels  []Group // of what the visitor reaches, by its distance from the home page
	Widths  []Group // pages with many right inside them, the most first
	Ages    []Group // by when their own words last changed
	Owners  []Group // by who looks after them
	Reviews []Group // overdue, and due within a month
}

// agesOf are the bounds of ages, in months.
var agesOf = []struct {
	months int
	name   string
}{
	{1, "within a month"},
	{6, "within six months"},
	{12, "within a year"},
	{24, "within two years"},
	{1 << 20, "longer ago"},
}

// widthsShown are the widest runs that are told.
const widthsShown = 8

// Count makes the numbers in one walk over the site.
func Count(s *site.Site, lens reach.Lens, known *care.Known) Numbers {
	n := Numbers{
		Whole: []Group{
			{
				Key:  "pages",
				Name: "Pages",
			},
			{Key: "online", Name: "Online"},
			{Key: "reached", Name: "Reached by this visitor"},
			{Key: "listed", Name: "Listed, of those"},
		},
		Reviews: []Group{{Key: "overdue", Name: "Review overdue"}, {Key: "due", Name: "Due within a month"}},
	}
	for _, age := range agesOf {
		n.Ages = append(n.Ages, Group{Key: fmt.Sprint("age-", age.months), Name: age.name})
	}
	panel, owners := reach.NewPanel(lens), map[site.Owner]int{}
	var walk func(p *site.Page, state reach.State, above care.Of, level int)
	walk = func(p *site.Page, state reach.State, above care.Of, level int) {
		at := known.Below(above, p)
		if !site.IsOwnKind(p.Kind) {
			n.take(p, state, level)
			n.care(s, p, at, known, lens.At, owners)
		}
		for _, id := range s.Children(p.ID) {
			kid := s.Page(id)
			walk(kid, panel.Below(state, kid), at, level+1)
		}
	}
	if home := s.Page(s.Home()); home != nil {
		walk(home, panel.Home(home), care.Of{}, 0)
	}
	n.widest(s)
	slices.SortStableFunc(n.Owners, func(a, b Group) int { return len(b.Pages) - len(a.Pages) })
	return n
}

func (n *Numbers) take(p *site.Page, state reach.State, level int) {
	put := func(g *Group) { g.Pages = append(g.Pages, p.ID) }
	put(&n.Whole[0])
	if state.Online != 0 {
		put(&n.Whole[1])
	}
	if state.Reachable() == 0 {
		return
	}
	put(&n.Whole[2])
	if p.Listed {
		put(&n.Whole[3])
	}
	for len(n.Levels) <= level {
		n.Levels = append(n.Levels, Group{
			Key: fmt.Sprint("level-", len(n.Levels)), Name: fmt.Sprint("Level ", len(n.Levels)),
		})
	}
	put(&n.Levels[level])
}

func (n *Numbers) care(
	s *site.Site, p *site.Page, at care.Of, known *care.Known, now time.Time, owners map[site.Owner]int,
) {
	for i, age := range agesOf {
		if p.Worded.After(now.AddDate(0, -age.months, 0)) || i == len(agesOf)-1 {
			n.Ages[i].Pages = append(n.Ages[i].Pages, p.ID)
			break
		}
	}
	k, met := owners[at.Owner]
	if !met {
		k = len(n.Owners)
		owners[at.Owner] = k
		n.Owners = append(n.Owners, Group{Key: "owner-" + string(at.Owner), Name: string(at.Owner)})
	}
	n.Owners[k].Pages = append(n.Owners[k].Pages, p.ID)
	if due, ok := known.Due(at, p, now); ok && due.Before(now) {
		n.Reviews[0].Pages = append(n.Reviews[0].Pages, p.ID)
	} else if ok && !due.After(care.Soon(now)) {
		n.Reviews[1].Pages = append(n.Reviews[1].Pages, p.ID)
	}
}

// widest finds the pages with the most right inside them.
func (n *Numbers) widest(s *site.Site) {
	wide := slices.Clone(n.Whole[0].Pages)
	slices.SortStableFunc(wide, func(a, b site.PageID) int { return len(s.Children(b)) - len(s.Children(a)) })
	for _, id := range wide[:min(len(wide), widthsShown)] {
		if kids := s.Children(id); len(kids) > 0 {
			n.Widths = append(n.Widths, Group{Key: fmt.Sprint("inside-", id), Name: s.Page(id).Label, Pages: kids})
		}
	}
}

// A Walked is how far pages are from the home page by clicking.
type Walked struct {
	Far       []Group // by clicks, from none on
	Beyond    Group   // that can't be come to by clicking, of those that the visitor reaches
	Median    int
	Most      int // that 95 of 100 pages need at most
	Worst     int
	WorstPage site.PageID
}

// Walk counts clicks; it takes as long as looking at every link, and is meant for the background.
func Walk(s *site.Site, lens reach.Lens) Walked {
	far := Clicks(s, lens)
	w := Walked{Beyond: Group{Key: "beyond", Name: "Not by clicking"}}
	panel := reach.NewPanel(lens)
	var all []int
	reach.Walk(s, panel, func(p *site.Page, state reach.State) bool {
		if site.IsOwnKind(p.Kind) || state.Reachable() == 0 {
			return true
		}
		clicks, come := far[p.ID]
		if !come {
			w.Beyond.Pages = append(w.Beyond.Pages, p.ID)
			return true
		}
		for len(w.Far) <= clicks {
			w.Far = append(
				w.Far,
				Group{Key: fmt.Sprint("clicks-", len(w.Far)), Name: fmt.Sprint(len(w.Far), " clicks")},
			)
		}
		w.Far[clicks].Pages = append(w.Far[clicks].Pages, p.ID)
		if all = append(all, clicks); clicks > w.Worst || w.WorstPage == 0 {
			w.Worst, w.WorstPage = clicks, p.ID
		}
		return true
	})
	if slices.Sort(all); len(all) > 0 {
		w.Median, w.Most = all[len(all)/2], all[len(all)*95/100]
	}
	return w
}
