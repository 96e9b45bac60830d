package region

import (
	"slices"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/topic"
)

// Pages counts the pages that a lens reaches and on which a block shows (rules 5.7).
func Pages(s *site.Site, block *site.Block, lens reach.Lens) int {
	n := 0
	Cover(s, block, reach.NewPanel(lens), func(*site.Page, reach.Mask) { n++ })
	return n
}

// PagesOn counts the pages that a lens reaches and on which conditions on pages hold.
func PagesOn(s *site.Site, on *site.ConditionSet, lens reach.Lens) int {
	block := site.Block{ID: 1, Shows: site.BlockName{}} // which shows wherever it stands
	place := site.Placement{ID: 1, Block: 1, Region: site.ContentRegion}
	place.Take(on)
	b := s.Builder()
	b.SetBlocks([]site.Block{block}, []site.Placement{place})
	return Pages(b.Site(), &block, lens)
}

// Cover visits the pages on which a block shows to a lens that reaches them, and says to which. Everything that depends
// on what is above a page is carried down, so that a page costs the conditions and not its depth; a branch in which no
// condition can hold costs nothing.
func Cover(s *site.Site, block *site.Block, panel *reach.Panel, visit func(*site.Page, reach.Mask)) {
	coverFrom(s, block, panel, nil, visit)
}

func coverFrom(
	s *site.Site,
	block *site.Block,
	panel *reach.Panel,
	only *branches,
	visit func(*site.Page, reach.Mask),
) {
	if block == nil {
		return
	}
	walkFrom(s, block, panel, only, fillerOf(s, block, panel), func(c *cover, p *site.Page, at *sight, own []flag) {
		if shows := at.state.Reachable() & at.fill.renders & c.stands(p, at, own); shows != 0 {
			visit(p, shows)
		}
	})
}

// CoverBranches does the same for some branches only. Branches inside each other are visited once.
func CoverBranches(
	s *site.Site,
	block *site.Block,
	panel *reach.Panel,
	tops []site.PageID,
	visit func(*site.Page, reach.Mask),
) {
	coverFrom(s, block, panel, branchesOf(s, tops, nil), visit)
}

// branches are the tops of those to visit, single pages to visit, and the ways down to them.
type branches struct {
	tops, alone map[site.PageID]bool
	through     map[site.PageID][]site.PageID
}

func branchesOf(s *site.Site, tops, alone []site.PageID) *branches {
	b := &branches{map[site.PageID]bool{}, map[site.PageID]bool{}, map[site.PageID][]site.PageID{}}
	for _, top := range tops {
		b.add(s, b.tops, top)
	}
	for _, page := range alone {
		b.add(s, b.alone, page)
	}
	return b
}

func (b *branches) add(s *site.Site, to map[site.PageID]bool, top site.PageID) {
	if !s.InTree(top) {
		return
	}
	to[top] = true
	for p := s.Page(top); p.Parent != 0 && !slices.Contains(b.through[p.Parent], p.ID); p = s.Page(p.Parent) {
		b.through[p.Parent] = append(b.through[p.Parent], p.ID)
	}
}

// walkFrom visits the pages on which a block can show.
func walkFrom(s *site.Site, block *site.Block, panel *reach.Panel, only *branches, fill filler, visit visitor) {
	home := s.Page(s.Home())
	if home == nil {
		return
	}
	c := &cover{
		site:   s,
		reader: site.NewReader(s),
		panel:  panel,
		visit:  visit,
		only:   only,
		marks:  map[site.PageID][]mark{},
		ways:   map[site.PageID]bool{},
		site0:  ofSite(s),
		shut:   shutOf(s, block),
	}
	for _, p := range s.PlacementsOf(block.ID) {
		c.addRule(p)
	}
	c.fill = fill
	_, c.steady = c.fill.(constant)
	top := sight{state: panel.Home(home), flags: make([]flag, len(c.rules))}
	for i, pattern := range c.patterns {
		top.progress = append(top.progress, pattern.start())
		if home.OwnAddress != "" {
			top.progress[i] = pattern.run(home.OwnAddress)
		}
	}
	top.branch = s.Layout(home.BranchLayout)
	top.fill = c.fill.home(home, top.state)
	c.walk(home, &top, 1, only == nil)
}

// A visitor is called for a page on which a block may have something to show; own says what the conditions say of the
// page itself.
type visitor func(c *cover, p *site.Page, at *sight, own []flag)

// cover is one walk.
type cover struct {
	site     *site.Site
	reader   *site.Reader
	panel    *reach.Panel
	visit    visitor
	only     *branches // nil: everything
	rules    []rule
	patterns []pattern
	marks    map[site.PageID][]mark // conditions that name a page
	// a bit for the last digits of each page in marks: most pages are in none, and one look says so
	maybe   uint64
	ways    map[site.PageID]bool // pages above those that are named
	shut    site.PageID          // on which the block does not stand; 0: none
	site0   *site.Layout         // of pages of which nothing nearer says another
	fill    filler
	steady  bool     // what the block has to show is the same on every page
	scratch []*sight // one for each level, so that a walk allocates by depth
	kind    string   // the kind that was asked for last, and its layout
	ofKind  *site.Layout
	asked   bool
}

// A rule is a placement made ready.
type rule struct {
	placement *site.Placement
	lenses    reach.Mask // for which it stands on any page at all
	stated    bool       // it names where it stands
	where     []int      // its patterns
	except    []int
	layout    *site.Layout // the layout that was asked for last, and whether it stands in it
	in        bool
}

// A mark is a condition of a rule that names a page.
type mark struct {
	rule           int
	branch, except bool
}

// flag is what the conditions above a page say of it, for one rule.
type flag struct{ in, out bool }

// sight is what a walk carries down.
type sight struct {
	state    reach.State
	branch   *site.Layout // the nearest branch layout; nil if there is none
	flags    []flag       // by rule
	progress []uint64     // by pattern
	fill     filling
}

// wayTo keeps the pages above one from being passed by.
func (c *cover) wayTo(id site.PageID) {
	for p := c.site.Page(id); p != nil && !c.ways[p.Parent]; p = c.site.Page(p.Parent) {
		c.ways[p.Parent] = true
	}
}

func (c *cover) addRule(p *site.Placement) {
	r := rule{placement: p, stated: len(p.Where) > 0}
	for i, lens := range c.panel.Lenses() {
		if always(p, lens) == "" {
			r.lenses |= 1 << i
		}
	}
	add := func(spots []site.Spot, except bool) (patterns []int) {
		for _, spot := range spots {
			if spot.Page == 0 {
				patterns = append(patterns, len(c.patterns))
				c.patterns = append(c.patterns, segments(spot.Pattern))
				continue
			}
			c.name(spot.Page, mark{len(c.rules), spot.Branch || spot.Topic, except})
			if spot.Topic && c.site.InTree(spot.Page) {
				for _, page := range topic.Bearing(c.site, spot.Page) {
					c.name(page, mark{len(c.rules), false, except})
				}
			}
		}
		return patterns
	}
	r.where, r.except = add(p.Where, false), add(p.Except, true)
	if len(r.where) > 0 {
		// An address of its own can match a pattern that the addresses around it can't.
		for _, fixed := range c.site.Fixed() {
			c.wayTo(fixed.Page)
		}
	}
	c.rules = append(c.rules, r)
}

// name notes that a condition names a page.
func (c *cover) name(page site.PageID, m mark) {
	c.maybe |= 1 << (page & 63)
	c.marks[page] = append(c.marks[page], m)
	if !m.except {
		c.wayTo(page)
	}
}

// walk visits a page and what is below it. What at says is the walk's to change.
func (c *cover) walk(p *site.Page, at *sight, depth int, inside bool) {
	inside = inside || c.only.tops[p.ID]
	own := at.flags // conditions that hold for the page itself, and not for what is below it
	if c.maybe>>(p.ID&63)&1 == 1 && c.marks[p.ID] != nil {
		marks := c.marks[p.ID]
		own, at.flags = slices.Clone(own), slices.Clone(at.flags)
		for _, m := range marks {
			set(&own[m.rule], m.except)
			if m.branch {
				set(&at.flags[m.rule], m.except)
			}
		}
	}
	if (inside || c.only.alone[p.ID]) && !p.IsFile() && at.state.Reachable()&at.fill.renders != 0 {
		c.visit(c, p, at, own)
	}
	kids := c.reader.Children(p.ID)
	if !inside {
		kids = c.only.through[p.ID]
	}
	if len(kids) == 0 || !c.mayHold(p, at) {
		return
	}
	for len(c.scratch) <= depth {
		c.scratch = append(c.scratch, &sight{progress: make([]uint64, len(c.patterns))})
	}
	below := c.scratch[depth]
	for _, id := range kids {
		kid := c.reader.Page(id)
		below.state, below.branch, below.flags = c.panel.Below(at.state, kid), at.branch, at.flags
		if kid.BranchLayout != "" {
			if l := c.site.Layout(kid.BranchLayout); l != nil {
				below.branch = l
			}
		}
		for i, pattern := range c.patterns {
			if kid.OwnAddress != "" {
				below.progress[i] = pattern.run(kid.OwnAddress)
			} else {
				below.progress[i] = pattern.step(at.progress[i], kid.Segment)
			}
		}
		if c.steady {
			below.fill.renders = at.fill.renders
		} else {
			below.fill = c.fill.below(at.fill, kid, below.state, depth)
		}
		c.walk(kid, below, depth+1, inside)
	}
}

// mayHold says whether a rule can hold anywhere below a page.
func (c *cover) mayHold(p *site.Page, at *sight) bool {
	if at.state.Online == 0 || c.steady && at.fill.renders == 0 {
		return false
	}
	for i := range c.rules {
		r := &c.rules[i]
		if r.lenses == 0 || at.flags[i].out {
			continue
		}
		if !r.stated || at.flags[i].in || c.ways[p.ID] ||
			slices.ContainsFunc(r.where, func(n int) bool { return at.progress[n] != 0 }) {
			return true
		}
	}
	return false
}

func set(f *flag, except bool) {
	if except {
		f.out = true
	} else {
		f.in = true
	}
}

// stands says for which lenses one of the rules holds on a page.
func (c *cover) stands(p *site.Page, at *sight, own []flag) reach.Mask {
	var lenses reach.Mask
	layout := c.layout(p, at)
	for i := range c.rules {
		if r := &c.rules[i]; r.lenses&^lenses != 0 {
			lenses |= c.holds(i, p, at, own, layout)
		}
	}
	return lenses
}

// holds says for which lenses a rule holds on a page with a layout.
func (c *cover) holds(i int, p *site.Page, at *sight, own []flag, layout *site.Layout) reach.Mask {
	r := &c.rules[i]
	if !r.standsIn(layout) || p.ID == c.shut {
		return 0
	}
	matches := func(n int) bool { return c.patterns[n].accepts(at.progress[n]) }
	switch {
	case own[i].out, slices.ContainsFunc(r.except, matches), slices.Contains(r.placement.NotKinds, p.Kind):
	case r.stated && !own[i].in && !slices.ContainsFunc(r.where, matches):
	case len(r.placement.Kinds) > 0 && !slices.Contains(r.placement.Kinds, p.Kind):
	default:
		return r.lenses
	}
	return 0
}

// standsIn says whether the rule's placement stands in a layout. Pages beside each other mostly share theirs.
func (r *rule) standsIn(l *site.Layout) bool {
	if r.layout != l || l == nil {
		r.layout, r.in = l, inLayout(r.placement, l) == ""
	}
	return r.in
}

func (c *cover) layout(p *site.Page, at *sight) *site.Layout {
	if p.Layout != "" {
		if l := c.site.Layout(p.Layout); l != nil {
			return l
		}
	}
	if !c.asked || c.kind != p.Kind {
		c.kind, c.ofKind, c.asked = p.Kind, c.site.Layout(c.site.Kind(p.Kind).Layout), true
	}
	if c.ofKind != nil {
		return c.ofKind
	}
	if at.branch != nil {
		return at.branch
	}
	return c.site0
}

// A pattern of addresses, by segments. Its progress along an address is a set of numbers of parts that are used up, as
// bits.
type pattern []string

// PatternLimit is the number of segments that a pattern of addresses can have.
const PatternLimit = 60

func (p pattern) start() uint64 { return p.close(1) }

// close adds what "**" reaches by standing for nothing.
func (p pattern) close(at uint64) uint64 {
	for i, part := range p {
		if part == "**" && at>>i&1 == 1 {
			at |= 1 << (i + 1)
		}
	}
	return at
}

// step goes one segment on.
func (p pattern) step(at uint64, segment string) uint64 {
	if at == 0 {
		return 0
	}
	var next uint64
	for i, part := range p {
		switch {
		case at>>i&1 == 0:
		case part == "**":
			next |= 1 << i
		case part == "*", part == segment:
			next |= 1 << (i + 1)
		}
	}
	return p.close(next)
}

func (p pattern) run(address string) uint64 {
	at := p.start()
	for _, segment := range segments(address) {
		at = p.step(at, segment)
	}
	return at
}

func (p pattern) accepts(at uint64) bool { return at>>len(p)&1 == 1 }

// Steady says that whether a block shows on a page does not depend on the page: nothing is stated of pages, every
// layout has its regions, and what it has to show is the same everywhere below the home page.
func Steady(s *site.Site, block *site.Block) bool {
	switch block.Shows.(type) {
	case site.BlockChildren, site.BlockListing:
		return false
	}
	if follows(block) {
		return false
	}
	for _, p := range s.PlacementsOf(block.ID) {
		everywhere := p.Layout == "" &&
			!slices.ContainsFunc(s.Theme().Layouts, func(l site.Layout) bool { return !l.Has(p.Region) })
		if !everywhere || len(p.Where)+len(p.Except)+len(p.Kinds)+len(p.NotKinds) > 0 {
			return false
		}
	}
	return true
}
