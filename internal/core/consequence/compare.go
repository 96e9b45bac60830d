package consequence

import (
	"reflect"
	"slices"

	"vineladder/internal/core/address"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// Compare computes the difference. Both Sites are seen by the same viewers.
func Compare(was, is *site.Site, viewers Viewers) *Report {
	c := &comparison{Report: Report{Was: was, Is: is, Viewers: viewers}, runs: runsOf(was, is, viewers.Panel), tops: map[site.PageID]bool{}, worded: map[site.PageID]bool{}, shownOther: map[site.MenuID]bool{}, alike: map[site.PageID]bool{}}
	changes := site.Changes(was, is)
	c.changes = changes
	c.Edited = len(changes)
	for _, same := range []bool{reflect.DeepEqual(was.Menus(), is.Menus()), reflect.DeepEqual(was.Blocks(), is.Blocks()),
		reflect.DeepEqual(was.Placements(), is.Placements()), was.Settings() == is.Settings()} {
		if !same {
			c.Edited++
		}
	}
	for _, change := range changes {
		if id, differs := branchDiffers(change); differs {
			c.tops[id] = true
		} else if contentDiffers(change.Was, change.Is) {
			c.worded[id] = true
		}
	}
	var roots []site.PageID // of runs whose entry is admitted to others now, on account of what stands above it
	for _, run := range c.runs {
		if root := run.to.Root; run.was != run.is && !c.tops[root] {
			c.tops[root], roots = true, append(roots, root)
		}
	}
	for _, change := range changes {
		if id := subject(change); c.tops[id] && !slices.Contains(roots, id) {
			c.branch(id)
		}
	}
	for _, root := range roots {
		c.branch(root)
	}
	for _, change := range changes {
		id := subject(change)
		if c.worded[id] {
			c.words(change)
		}
		if change.Was != nil && change.Is != nil && orderDiffers(change.Was, change.Is) {
			c.reordered = append(c.reordered, change.Is.Parent)
		}
		if change.Was != nil && change.Is != nil && change.Was.Sort != change.Is.Sort {
			c.reordered = append(c.reordered, id)
		}
	}
	c.fates()
	c.takeovers()
	c.moveLines()
	c.fillBlocks()
	c.covers()
	c.places()
	c.layouts()
	return &c.Report
}

func subject(c site.Change) site.PageID {
	if c.Is != nil {
		return c.Is.ID
	}
	return c.Was.ID
}

// branchDiffers says whether a change of a page can change anything below it.
func branchDiffers(c site.Change) (site.PageID, bool) {
	a, b := c.Was, c.Is
	if a == nil || b == nil {
		return subject(c), true
	}
	return a.ID, a.Parent != b.Parent || a.Binned != b.Binned || a.Segment != b.Segment || a.OwnAddress != b.OwnAddress ||
		a.Status != b.Status || !a.LiveFrom.Equal(b.LiveFrom) || !a.LiveUntil.Equal(b.LiveUntil) ||
		a.Listed != b.Listed || a.Audience != b.Audience || a.Conceal != b.Conceal
}

func contentDiffers(a, b *site.Page) bool {
	return a != nil && b != nil && (a.Label != b.Label || a.Title != b.Title || a.Summary != b.Summary || a.Text != b.Text ||
		a.Kind != b.Kind)
}

func orderDiffers(a, b *site.Page) bool {
	return a.Parent == b.Parent && (a.Rank != b.Rank || a.Pin != b.Pin || a.Label != b.Label || a.Date != b.Date || !a.FirstOnline.Equal(b.FirstOnline))
}

type comparison struct {
	Report
	alike     map[site.PageID]bool // tops of branches that get the same from the pages above as before
	changes   []site.Change
	runs      []run
	tops      map[site.PageID]bool
	worded    map[site.PageID]bool // pages of which only the words differ, as long as no branch above them was compared
	reordered []site.PageID        // parents whose children may stand in another order
	arrivals  []arrival
	lines     []line

	shownOther map[site.MenuID]bool // menus that are known to have the same entries for the same lenses, or not
}

// standing is how a page stands in one of the two Sites.
type standing struct {
	there   bool
	state   reach.State
	address string
	lines   []lineState   // by run
	online  site.Interval // when it is online, whoever asks
	ever    bool          // that interval is not empty
}

// branch compares a page and all below it that has the same place in both Sites; pages that have not are tops themselves.
func (c *comparison) branch(id site.PageID) {
	c.compare(id, c.stand(c.Was, id), c.stand(c.Is, id))
}

// stand computes a page's standing from the top of the tree.
func (c *comparison) stand(s *site.Site, id site.PageID) standing {
	if !s.InTree(id) {
		return standing{lines: make([]lineState, len(c.runs))}
	}
	path := s.Path(id)
	st := standing{there: true, state: c.Panel.Home(path[0]), address: "/", lines: make([]lineState, len(c.runs)), ever: true}
	if path[0].OwnAddress != "" {
		st.address = path[0].OwnAddress
	}
	for i := range c.runs {
		st.lines[i] = c.runs[i].at(path[0].ID, st.state, c.gate(&c.runs[i], s))
	}
	for _, page := range path[1:] {
		st = c.below(s, st, page, make([]lineState, len(c.runs)))
	}
	return st
}

func (c *comparison) below(s *site.Site, parent standing, page *site.Page, lines []lineState) standing {
	st := standing{there: true, state: c.Panel.Below(parent.state, page), address: page.OwnAddress, lines: lines}
	if parent.ever && page.Status == site.Live {
		st.online, st.ever = parent.online.Meet(site.Interval{From: page.LiveFrom, Until: page.LiveUntil})
	}
	if st.address == "" {
		st.address = address.Under(parent.address, page.Segment)
	}
	for i := range c.runs {
		lines[i] = c.runs[i].below(parent.lines[i], page, st.state, c.gate(&c.runs[i], s))
	}
	return st
}

func (c *comparison) compare(id site.PageID, was, is standing) {
	delete(c.worded, id)
	before, after := was.state.Reachable(), is.state.Reachable()
	if was.address != is.address && is.there {
		c.arrivals = append(c.arrivals, arrival{id, is.address})
	}
	if was.address != is.address && before|after != 0 {
		c.Addresses = append(c.Addresses, AddressChange{Page: id, Was: was.address, Is: is.address, served: before != 0})
	}
	if before != after {
		c.Pages = append(c.Pages, PageChange{id, after &^ before, before &^ after})
	}
	denied := was.state.Online &^ was.state.Admitted & is.state.Online &^ is.state.Admitted
	if was.state.Concealed != is.state.Concealed && denied != 0 {
		c.Refused = append(c.Refused, id)
	}
	c.later(id, was, is)
	for i := range c.runs {
		if a, b := was.lines[i], is.lines[i]; a.shown|b.shown != 0 {
			c.lines = append(c.lines, c.line(&c.runs[i], id, a, b))
		}
	}
	if was.there && is.there && contentDiffers(c.Was.Page(id), c.Is.Page(id)) && before&after != 0 {
		c.Content = append(c.Content, id)
	}
	if same(was, is) {
		return
	}
	c.children(id, was, is)
}

// same says that nothing below can differ on account of what is above.
func same(a, b standing) bool {
	return a.there == b.there && a.state == b.state && a.address == b.address && a.ever == b.ever && a.online == b.online && slices.Equal(a.lines, b.lines)
}

func (c *comparison) children(id site.PageID, was, is standing) {
	kids := c.Is.Children(id)
	if !is.there {
		kids = c.Was.Children(id)
	}
	scratch := make([]lineState, 2*len(c.runs))
	for _, kid := range kids {
		if c.tops[kid] {
			continue // compared on its own account
		}
		below, above := standing{lines: none(scratch[:len(c.runs)])}, standing{lines: none(scratch[len(c.runs):])}
		if was.there {
			below = c.below(c.Was, was, c.Was.Page(kid), scratch[:len(c.runs)])
		}
		if is.there {
			above = c.below(c.Is, is, c.Is.Page(kid), scratch[len(c.runs):])
		}
		c.compare(kid, below, above)
	}
}

func none(lines []lineState) []lineState {
	clear(lines)
	return lines
}

// words compares a page of which only the words differ.
func (c *comparison) words(change site.Change) {
	st := c.stand(c.Is, change.Is.ID)
	if !st.there || st.state.Reachable() == 0 {
		return
	}
	c.Content = append(c.Content, change.Is.ID)
	if change.Was.Label == change.Is.Label {
		return
	}
	for i, l := range st.lines {
		if l.shown != 0 {
			c.lines = append(c.lines, c.line(&c.runs[i], change.Is.ID, l, l))
		}
	}
}
