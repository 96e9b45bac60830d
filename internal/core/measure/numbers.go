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
var agesOf = [...]struct {
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
	c := &counting{Numbers: &n, known: known, now: lens.At, soon: care.Soon(lens.At), owners: map[site.Owner]int{}}
	for i, age := range agesOf {
		c.since[i] = lens.At.AddDate(0, -age.months, 0)
	}
	panel, reader := reach.NewPanel(lens), site.NewReader(s)
	var walk func(p *site.Page, state reach.State, above care.Of, level int)
	walk = func(p *site.Page, state reach.State, above care.Of, level int) {
		at, kids := known.Below(above, p), reader.Children(p.ID)
		if !site.IsOwnKind(p.Kind) {
			n.take(p, state, level)
			c.care(p, at)
			c.width(p, kids)
		}
		for _, id := range kids {
			kid := reader.Page(id)
			walk(kid, panel.Below(state, kid), at, level+1)
		}
	}
	if home := s.Page(s.Home()); home != nil {
		walk(home, panel.Home(home), care.Of{}, 0)
	}
	slices.SortStableFunc(n.Owners, func(a, b Group) int { return len(b.Pages) - len(a.Pages) })
	return n
}

// counting is what one walk carries along.
type counting struct {
	*Numbers
	known     *care.Known
	now, soon time.Time
	since     [len(agesOf)]time.Time // the bounds of ages
	owners    map[site.Owner]int     // by which the groups of owners are found
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

func (c *counting) care(p *site.Page, at care.Of) {
	for i := range c.since {
		if p.Worded.After(c.since[i]) || i == len(c.since)-1 {
			c.Ages[i].Pages = append(c.Ages[i].Pages, p.ID)
			break
		}
	}
	k, met := c.owners[at.Owner]
	if !met {
		k = len(c.Owners)
		c.owners[at.Owner] = k
		c.Owners = append(c.Owners, Group{Key: "owner-" + string(at.Owner), Name: string(at.Owner)})
	}
	c.Owners[k].Pages = append(c.Owners[k].Pages, p.ID)
	if due, ok := c.known.Due(at, p, c.now); ok && due.Before(c.now) {
		c.Reviews[0].Pages = append(c.Reviews[0].Pages, p.ID)
	} else if ok && !due.After(c.soon) {
		c.Reviews[1].Pages = append(c.Reviews[1].Pages, p.ID)
	}
}

// width keeps the pages with the most right inside them, the most first; among equals the first in the tree.
func (c *counting) width(p *site.Page, kids []site.PageID) {
	if len(kids) == 0 || len(c.Widths) == widthsShown && len(kids) <= len(c.Widths[widthsShown-1].Pages) {
		return
	}
	at := len(c.Widths)
	for at > 0 && len(c.Widths[at-1].Pages) < len(kids) {
		at--
	}
	c.Widths = slices.Insert(c.Widths, at, Group{Key: fmt.Sprint("inside-", p.ID), Name: p.Label, Pages: kids})
	c.Widths = c.Widths[:min(len(c.Widths), widthsShown)]
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

// lengthsOf are the bounds of lengths, in words.
var lengthsOf = [...]struct {
	words int
	name  string
}{{0, "No text"}, {50, "Up to 50 words"}, {300, "Up to 300 words"}, {1000, "Up to 1,000 words"}, {1 << 30, "Longer"}}

// Lengths groups the pages that a visitor reaches by how many words their text has; words has those of each text, by
// its hash.
func Lengths(s *site.Site, lens reach.Lens, words map[string]int) []Group {
	groups := make([]Group, len(lengthsOf))
	for i, length := range lengthsOf {
		groups[i] = Group{Key: fmt.Sprint("words-", length.words), Name: length.name}
	}
	reach.Walk(s, reach.NewPanel(lens), func(p *site.Page, state reach.State) bool {
		if site.IsOwnKind(p.Kind) || state.Reachable() == 0 {
			return true
		}
		for i, length := range lengthsOf {
			if words[p.Text] <= length.words {
				groups[i].Pages = append(groups[i].Pages, p.ID)
				break
			}
		}
		return true
	})
	return groups
}
