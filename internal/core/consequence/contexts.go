package consequence

import (
	"reflect"
	"regexp"
	"slices"

	"vineladder/internal/core/listing"
	"vineladder/internal/core/look"
	menus "vineladder/internal/core/menu"
	"vineladder/internal/core/picture"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
)

// A pair is a block as it was and as it is; nil where there is none.
type pair struct{ was, is *site.Block }

func (p pair) id() site.BlockID {
	if p.is != nil {
		return p.is.ID
	}
	return p.was.ID
}

// blockPairs gives every block of both Sites.
func (c *comparison) blockPairs() []pair {
	var pairs []pair
	for i := range c.Is.Blocks() {
		b := &c.Is.Blocks()[i]
		pairs = append(pairs, pair{c.Was.Block(b.ID), b})
	}
	for i := range c.Was.Blocks() {
		if b := &c.Was.Blocks()[i]; c.Is.Block(b.ID) == nil {
			pairs = append(pairs, pair{b, nil})
		}
	}
	return pairs
}

// contexts gives for each block the pages on which it can look otherwise than before, or show and not have shown.
func (c *comparison) contexts(pairs []pair) []region.Contexts {
	on := make([]region.Contexts, len(pairs))
	tops := c.blockTops()
	regions := c.reorderedRegions()
	for i, p := range pairs {
		on[i] = c.contextsOf(p, tops)
		for _, b := range []*site.Block{p.was, p.is} {
			on[i].Everywhere = on[i].Everywhere || b != nil && c.standsInOneOf(b, regions)
		}
	}
	for i := range on {
		on[i] = c.bounded(on[i])
	}
	c.shareNames(pairs, on)
	return on
}

// topLimit bounds the branches and pages that are looked at one by one, and so does a part of the site's pages; where
// there are more, the whole tree is.
const (
	topLimit = 1000
	topShare = 5
)

// bounded has each branch and page once.
func (c *comparison) bounded(on region.Contexts) region.Contexts {
	if on.Everywhere {
		return region.Contexts{Everywhere: true}
	}
	slices.Sort(on.Tops)
	slices.Sort(on.Alone)
	on.Tops, on.Alone = slices.Compact(on.Tops), slices.Compact(on.Alone)
	on.Everywhere = len(on.Tops)+len(on.Alone) > max(topLimit, c.Is.Count()/topShare)
	return on
}

// blockTops gives the branches in which conditions, layouts and trails can be others than before. What is there in
// one Site only is told as such.
func (c *comparison) blockTops() []site.PageID {
	var tops []site.PageID
	for _, change := range c.changes {
		a, b := change.Was, change.Is
		if a != nil && b != nil && (change.placed || change.laid) && c.Was.InTree(b.ID) &&
			c.Is.InTree(b.ID) {
			tops = append(tops, b.ID)
		}
	}
	return tops
}

func (c *comparison) contextsOf(p pair, tops []site.PageID) region.Contexts {
	if p.was == nil || p.is == nil || c.layouts || c.whole || *p.was != *p.is || !c.samePlaces(p.id()) {
		return region.Contexts{Everywhere: true}
	}
	on := region.Contexts{Tops: slices.Clone(tops)}
	if c.standsByTopic(p.id()) {
		on.Alone = append(on.Alone, c.relit()...)
	}
	if region.Leads(p.is) {
		on.Alone = append(on.Alone, c.shutPages()...)
	}
	listed, isListed := listing.OfBlock(c.Is, p.is)
	switch shows := p.is.Shows.(type) {
	case site.BlockMenu:
		c.menuContexts(shows, &on)
	case site.BlockText:
		on.Everywhere = c.linksDiffer(shows.Text)
	case site.BlockImage:
		on.Everywhere = c.pictureDiffers(shows)
	case site.BlockName:
		on.Everywhere = c.Was.Settings().Name != c.Is.Settings().Name
		if !on.Everywhere && region.Steady(c.Is, p.is) && region.Steady(c.Was, p.was) {
			on.Tops = nil
		}
	case site.BlockSearch:
		on.Everywhere = c.searchDiffers()
	case site.BlockListing:
		before, was := listing.OfBlock(c.Was, p.was)
		on.Everywhere = !was || before != listed || isListed && c.listingDiffers(listed)
	case site.BlockChildren:
		for _, change := range c.changes {
			on.Alone = append(on.Alone, families(change)...)
		}
	default:
		if region.Steady(c.Is, p.is) && region.Steady(c.Was, p.was) {
			on.Tops = nil
		}
	}
	return on
}

// standsByTopic says whether a condition of a block names a topic.
func (c *comparison) standsByTopic(id site.BlockID) bool {
	for _, p := range slices.Concat(c.Was.PlacementsOf(id), c.Is.PlacementsOf(id)) {
		if slices.ContainsFunc(slices.Concat(p.Where, p.Except), func(spot site.Spot) bool { return spot.Topic }) {
			return true
		}
	}
	return false
}

// shutPages gives the pages that come to stand in for a closed site, or cease to: blocks that lead elsewhere don't
// stand on them meanwhile.
func (c *comparison) shutPages() []site.PageID {
	was, is := c.Was.Settings(), c.Is.Settings()
	if was.Closed == is.Closed && was.Shut == is.Shut {
		return nil
	}
	return []site.PageID{was.Shut, is.Shut}
}

// families gives the pages whose lists of children a change can alter.
func families(change pageChange) []site.PageID {
	var pages []site.PageID
	for _, p := range []*site.Page{change.Was, change.Is} {
		if p != nil {
			pages = append(pages, p.ID, p.Parent)
		}
	}
	return pages
}

func (c *comparison) samePlaces(id site.BlockID) bool {
	was, is := c.Was.PlacementsOf(id), c.Is.PlacementsOf(id)
	return slices.EqualFunc(was, is, func(a, b *site.Placement) bool { return reflect.DeepEqual(a, b) })
}

// pictureDiffers says whether the file of a block is another version, or is reached by others, or says other words.
func (c *comparison) pictureDiffers(shows site.BlockImage) bool {
	was, file, before := picture.At(c.Was, shows.File, "", shows.Alternative)
	is, _, after := picture.At(c.Is, shows.File, "", shows.Alternative)
	return was != is || before != after ||
		file != 0 && c.panel.At(c.Was, file).Reachable() != c.panel.At(c.Is, file).Reachable()
}

// searchDiffers says whether visitors search on another page, or at another address, or others do.
func (c *comparison) searchDiffers() bool {
	was, is := c.Was.Settings().Search, c.Is.Settings().Search
	return was != is || addressOf(c.Was, was) != addressOf(c.Is, is) ||
		region.SearchReached(c.Was, c.panel) != region.SearchReached(c.Is, c.panel)
}

// linksDiffer says whether a page to which a text links has another address, or is reached by others.
func (c *comparison) linksDiffer(hash string) bool {
	return slices.ContainsFunc(c.Is.Links(hash), func(to site.PageID) bool {
		return addressOf(c.Was, to) != addressOf(c.Is, to) ||
			c.panel.At(c.Was, to).Reachable() != c.panel.At(c.Is, to).Reachable()
	})
}

// reorderedRegions gives the regions in which what stays stands in another order.
func (c *comparison) reorderedRegions() []string {
	var keys []string
	for _, r := range c.Is.Theme().Regions {
		was, is := region.In(c.Was, r.Key), region.In(c.Is, r.Key)
		stays := func(ids, others []site.PlacementID) []site.PlacementID {
			return slices.DeleteFunc(
				slices.Clone(ids),
				func(id site.PlacementID) bool { return !slices.Contains(others, id) },
			)
		}
		if !slices.Equal(stays(was, is), stays(is, was)) {
			keys = append(keys, r.Key)
		}
	}
	return keys
}

func (c *comparison) standsInOneOf(b *site.Block, regions []string) bool {
	for _, s := range []*site.Site{c.Was, c.Is} {
		for _, p := range s.PlacementsOf(b.ID) {
			if slices.Contains(regions, p.Region) {
				return true
			}
		}
	}
	return false
}

// menuContexts adds the pages on which a menu block can show other lines.
func (c *comparison) menuContexts(shows site.BlockMenu, on *region.Contexts) {
	was, is := c.Was.Menu(shows.Menu), c.Is.Menu(shows.Menu)
	if was == nil || is == nil || !reflect.DeepEqual(was.Entries, is.Entries) || c.entriesDiffer(was, is) ||
		c.standElsewhere(is) {
		on.Everywhere = true
		return
	}
	on.Alone = append(on.Alone, c.relit()...)
	tops := len(on.Tops)
	for i := range is.Entries {
		e := &is.Entries[i]
		to, generated := e.Shows.(site.ItemBranch)
		if !generated {
			continue
		}
		if c.growsOtherwise(was, is, e.ID, to) {
			on.Everywhere = true
			return
		}
		run := runOf(c.Is, is, e, to, shows.Window)
		for _, change := range c.changes {
			for side, p := range []*site.Page{change.Was, change.Is} {
				if p != nil {
					run.touched([]*site.Site{c.Was, c.Is}[side], change, p, on)
				}
			}
		}
	}
	for _, top := range slices.Compact(slices.Sorted(slices.Values(on.Tops[tops:]))) {
		on.Alone = append(on.Alone, c.bearersWithin(top)...) // the trail passes there on these too
	}
}

// entriesDiffer says whether the entries of a menu that stayed as it was show to others, or lead elsewhere, or are
// called otherwise.
func (c *comparison) entriesDiffer(was, is *site.Menu) bool {
	before, after := menus.Shown(c.Was, was, c.panel), menus.Shown(c.Is, is, c.panel)
	for i := range is.Entries {
		e := &is.Entries[i]
		if before[e.ID] != after[e.ID] || c.Was.EntryLabel(e) != c.Is.EntryLabel(e) {
			return true
		}
		if page := e.Target(); page != 0 && addressOf(c.Was, page) != addressOf(c.Is, page) {
			return true
		}
	}
	return false
}

// A run is a generated entry in a block's window.
type run struct {
	root    site.PageID
	first   int // level of the menu at which the root's children stand
	depth   int // levels; 0: all
	from    int // first and last level that the window can show; 0: all
	upto    int
	wide    bool // lines show whatever the trail
	follows bool // the first lines are those below the trail's line a level up
	shut    bool // sub-levels are open along the trail only
}

func runOf(s *site.Site, m *site.Menu, e *site.Entry, to site.ItemBranch, w site.Window) run {
	r := run{root: to.Root, first: menus.Level(s, m, e.ID), depth: to.Depth, from: w.First}
	r.shut = w.Unfold == site.UnfoldTrail
	if to.Self == site.SelfAbove {
		r.first++
	}
	r.follows = w.From == site.FromTrail && w.First > 1
	r.wide = !r.shut && !r.follows
	if w.From == site.FromEntry {
		r.from = 1
		if start := m.Entry(w.Entry); start != nil {
			r.from = menus.Level(s, m, start.ID)
		}
	}
	if w.Levels > 0 {
		r.upto = r.from + w.Levels
		if w.From != site.FromEntry {
			r.upto--
		}
	}
	return r
}

// touched adds the pages on which a change of a page can be seen in the run. A line shows below the line of its
// parent; so where levels are open along the trail only, it shows on pages in the parent's branch.
func (r run) touched(s *site.Site, change pageChange, p *site.Page, on *region.Contexts) {
	if !s.InTree(p.ID) || !s.IsWithin(p.ID, r.root) {
		return
	}
	level := r.first + s.Level(p.ID) - s.Level(r.root) - 1 // of the page's own line
	sorts := change.Was != nil && change.Is != nil && change.Was.Sort != change.Is.Sort
	whole := change.placed
	switch {
	case whole:
		r.lines(s, p, level, true, on)
	case change.ordered:
		r.lines(s, p, level, !r.follows, on) // levels above the first one shown order those below
	}
	if sorts {
		r.lines(s, p, level+1, !r.follows, on)
	}
}

// lines adds the pages on which lines at a level, and with below those under them, show; p is the page whose line it
// is, or its parent's.
func (r run) lines(s *site.Site, p *site.Page, level int, below bool, on *region.Contexts) {
	deepest := level
	if below {
		deepest = 1 << 20
	}
	switch {
	case p.ID == r.root && level < r.first:
		level = max(level, r.first-1)
	case r.depth > 0 && level >= r.first+r.depth:
		return
	}
	if r.upto > 0 && level > r.upto || deepest < r.from {
		return
	}
	switch {
	case r.wide, p.ID == r.root, !r.follows && level <= r.from:
		on.Everywhere = true // the first lines of a window that does not follow the trail show on all pages
	case level < r.from: // what is below the line shows where the trail passes through it
		on.Tops = append(on.Tops, p.ID)
	case p.Parent == r.root, !r.shut:
		on.Everywhere = true
	default:
		on.Tops = append(on.Tops, p.Parent)
	}
}

// numbered are the names that the numbering of landmarks can make.
var numbered = regexp.MustCompile(` \(\d+\)$`)

// shareNames looks at blocks together that compete for the name of a landmark (rules 6.5).
func (c *comparison) shareNames(pairs []pair, on []region.Contexts) {
	stems := map[string][]int{}
	for i, p := range pairs {
		for _, b := range []*site.Block{p.was, p.is} {
			if b == nil || !region.IsLandmark(b) {
				continue
			}
			stem := region.LandmarkName(b)
			for numbered.MatchString(stem) {
				stem = numbered.ReplaceAllString(stem, "")
			}
			if !slices.Contains(stems[stem], i) {
				stems[stem] = append(stems[stem], i)
			}
		}
	}
	c.shares = map[site.BlockID]bool{}
	for _, group := range stems {
		var all region.Contexts
		for _, i := range group {
			all.Everywhere = all.Everywhere || on[i].Everywhere
			all.Tops, all.Alone = append(all.Tops, on[i].Tops...), append(all.Alone, on[i].Alone...)
		}
		all = c.bounded(all)
		for _, i := range group {
			if len(group) > 1 || c.standsTwice(pairs[i].id()) {
				on[i] = all
				c.shares[pairs[i].id()] = true
			}
		}
	}
}

// standsTwice says whether a block may stand twice on one page.
func (c *comparison) standsTwice(id site.BlockID) bool {
	return len(c.Was.PlacementsOf(id)) > 1 || len(c.Is.PlacementsOf(id)) > 1
}

// frameOf is what a block shows whatever fills it; its landmark is left open where others compete for the name.
func (c *comparison) frameOf(b *site.Block) look.Look {
	named := ""
	if region.IsLandmark(b) && !c.shares[b.ID] {
		named = region.LandmarkName(b)
	}
	return look.Frame(b, named)
}

// seenBy says which lenses reach a page in both Sites and are not shut out.
func (c *comparison) seenBy(id site.PageID) reach.Mask {
	return c.panel.At(c.Was, id).Reachable() & c.panel.At(c.Is, id).Reachable() & c.open
}
