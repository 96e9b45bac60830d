package consequence

import (
	"bytes"
	"cmp"
	"encoding/binary"
	"fmt"
	"hash/fnv"
	"slices"
	"strings"

	"vineladder/internal/core/common"
	"vineladder/internal/core/count"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/look"
	menus "vineladder/internal/core/menu"
	"vineladder/internal/core/piece"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
)

// lookLimit bounds the looks of one block that are made for one Site and pass; many lines count as more than one.
// Where there are more, pages are counted as “up to”.
const (
	lookLimit      = 9000
	lookLimitLarge = 1500 // on a site of more than largeSite pages, so that an edit is answered while one waits
	largeSite      = 10_000
	linesPerLook   = 50
)

// unknown is a look that was not made.
const unknown int32 = -1

// blocks compares which blocks show on pages that somebody reaches before and after, in which order, and how they
// look.
func (c *comparison) blocks() {
	pairs := c.blockPairs()
	on := c.contexts(pairs)
	d := c.newDrawing()
	for i, p := range pairs {
		d.look(p, on[i])
	}
	c.neighbours(d, pairs, on)
	d.compare()
}

// neighbours looks at the other blocks of a region where one comes or goes, so that its place among them is known.
func (c *comparison) neighbours(d *drawing, pairs []pair, on []region.Contexts) {
	shared := map[string]region.Contexts{}
	changing := d.changing()
	for i, p := range pairs {
		if c.becomesAnother(p) || c.shares[p.id()] { // it may look, or be named, as one of its neighbours is
			for _, at := range slices.Concat(c.Was.PlacementsOf(p.id()), c.Is.PlacementsOf(p.id())) {
				changing[p.id()] = append(changing[p.id()], at.Region)
			}
		}
		for _, key := range changing[p.id()] {
			all := shared[key]
			shared[key] = region.Contexts{
				Everywhere: all.Everywhere || on[i].Everywhere,
				Tops:       append(all.Tops, on[i].Tops...),
				Alone:      append(all.Alone, on[i].Alone...),
			}
		}
	}
	for i, p := range pairs {
		more := region.Contexts{
			Everywhere: on[i].Everywhere,
			Tops:       slices.Clone(on[i].Tops),
			Alone:      slices.Clone(on[i].Alone),
		}
		for _, at := range slices.Concat(c.Was.PlacementsOf(p.id()), c.Is.PlacementsOf(p.id())) {
			if all, some := shared[at.Region]; some {
				more.Everywhere = more.Everywhere || all.Everywhere
				more.Tops, more.Alone = slices.Concat(more.Tops, all.Tops), slices.Concat(more.Alone, all.Alone)
			}
		}
		if more = c.bounded(more); more.Everywhere != on[i].Everywhere || !slices.Equal(more.Tops, on[i].Tops) ||
			!slices.Equal(more.Alone, on[i].Alone) {
			d.look(p, more)
		}
	}
}

// becomesAnother says whether a block shows something else than before, other than another window of a menu.
func (c *comparison) becomesAnother(p pair) bool {
	if p.was == nil || p.is == nil || *p.was == *p.is {
		return false
	}
	was, is := *p.was, *p.is
	if _, _, isMenu := was.Menu(); isMenu {
		if _, _, isMenu := is.Menu(); isMenu {
			was.Shows, is.Shows = nil, nil
		}
	}
	return was != is
}

// look surveys a block in both Sites. What was seen of it before does not count any more.
func (d *drawing) look(p pair, on region.Contexts) {
	d.round[p.id()]++
	d.survey(0, p.was, on)
	d.survey(1, p.is, on)
}

// changing gives the regions in which each block comes to a page, or goes from one.
func (d *drawing) changing() map[site.BlockID][]string {
	regions := map[site.BlockID][]string{}
	for i := range d.pages {
		p := &d.pages[i]
		if d.cover(p, 0) == d.cover(p, 1) {
			continue
		}
		for side := range d.scenes {
			d.each(p, side, func(s *shown) {
				placed := &d.scenes[side].placements[s.at]
				if !slices.Contains(regions[placed.Block], placed.Region) &&
					d.coverOf(p, 0, placed) != d.coverOf(p, 1, placed) {
					regions[placed.Block] = append(regions[placed.Block], placed.Region)
				}
			})
		}
	}
	return regions
}

// each visits what was seen on a page in one Site, the last time that its block was looked at.
func (d *drawing) each(p *sheet, side int, visit func(*shown)) {
	for at := p.first[side]; at != 0; at = d.seen[at].next {
		if s := &d.seen[at]; d.counts(s) {
			all := d.views[s.view].shown
			for i := range all {
				visit(&all[i])
			}
		}
	}
}

// cover says in one number which placements show on a page in one Site, and to whom. The looks of one placement have
// different lenses, so that their sum is that of all.
func (d *drawing) cover(p *sheet, side int) (sum uint64) {
	marks := d.scenes[side].marks
	d.each(p, side, func(s *shown) { sum += marks[s.at] * uint64(s.lenses) })
	return sum
}

// coverOf says in one number to whom a block shows in a region of a page, and how often.
func (d *drawing) coverOf(p *sheet, side int, like *site.Placement) (sum uint64) {
	d.each(p, side, func(s *shown) {
		placed := &d.scenes[side].placements[s.at]
		if placed.Block == like.Block && placed.Region == like.Region {
			sum += uint64(s.lenses)
		}
	})
	return sum
}

// A drawing has what was seen of blocks on pages, for both Sites.
type drawing struct {
	*comparison
	scenes [2]*scene
	sheets []int32 // by page: which sheet it has, from 1
	pages  []sheet
	seen   []sighting
	views  []view
	byView map[string]int32
	round  map[site.BlockID]int32 // how often a block was looked at
}

// A sheet is a page on which something was looked at.
type sheet struct {
	page   site.PageID
	layout [2]*site.Layout
	reach  [2]reach.Mask // where something was seen
	first  [2]int32      // of its sightings; 0: none
}

// A sighting is a block on a page, as it is viewed there.
type sighting struct {
	view  int32
	next  int32
	round int32 // in which the block was looked at
}

// A view is how a block shows on a page, for all lenses: its placements and looks. Pages share views.
type view struct {
	block site.BlockID
	shown []shown
}

// A shown placement has one look for some lenses.
type shown struct {
	at     int32 // of the placement, among all
	look   int32
	lenses reach.Mask
}

// A verdict is a fact that holds on a page for some lenses.
type verdict struct {
	key
	lenses reach.Mask
}

func (c *comparison) newDrawing() *drawing {
	d := &drawing{
		comparison: c, seen: make([]sighting, 1), byView: map[string]int32{},
		round: map[site.BlockID]int32{},
	}
	d.scenes = [2]*scene{c.scene(c.Was), c.scene(c.Is)}
	return d
}

// survey looks at a block on all pages of its contexts.
func (d *drawing) survey(side int, b *site.Block, on region.Contexts) {
	if b == nil {
		return
	}
	sc := d.scenes[side]
	placed := sc.placedAt(b.ID)
	if on.Everywhere {
		d.seen, d.pages = slices.Grow(d.seen, sc.site.Count()), slices.Grow(d.pages, sc.site.Count())
	}
	last := lastView{view: unknown}
	region.Survey(sc.site, b, d.panel, on, func(s *region.Sighting) {
		d.work++
		at := d.sheet(s.Page.ID)
		at.layout[side], at.reach[side] = s.Layout, s.Reach
		seen := last.view
		if !last.holds(s) {
			seen = d.view(sc, b, s, placed)
			last.keep(s, seen, b)
		}
		d.see(at, side, sighting{view: seen, round: d.round[b.ID]})
	})
}

// see adds a sighting to a page. Views in which nothing is shown leave none.
func (d *drawing) see(at *sheet, side int, s sighting) {
	if len(d.views[s.view].shown) > 0 {
		s.next = at.first[side]
		d.seen = append(d.seen, s)
		at.first[side] = int32(len(d.seen) - 1)
	}
}

// view looks at a block on one page.
func (d *drawing) view(sc *scene, b *site.Block, s *region.Sighting, placed []int32) int32 {
	var all []shown
	for i, stands := range s.Stands {
		if stands &= d.open; stands == 0 {
			continue
		}
		for _, l := range sc.looks(b, s.Page.ID, s.Ends, stands) {
			if m := l.lenses & stands; m != 0 {
				all = append(all, shown{placed[i], l.look, m})
			}
		}
	}
	return d.internView(b.ID, all)
}

// internView gives a view its number; equal views have one.
func (d *drawing) internView(block site.BlockID, all []shown) int32 {
	sign := binary.LittleEndian.AppendUint64(nil, uint64(block))
	for _, s := range all {
		sign = s.sign(sign)
	}
	id, known := d.byView[string(sign)]
	if !known {
		id = int32(len(d.views))
		d.byView[string(sign)], d.views = id, append(d.views, view{block, all})
	}
	return id
}

func (s shown) sign(sign []byte) []byte {
	sign = binary.LittleEndian.AppendUint32(sign, uint32(s.at))
	sign = binary.LittleEndian.AppendUint32(sign, uint32(s.look))
	return binary.LittleEndian.AppendUint64(sign, uint64(s.lenses))
}

// A lastView is the one of the page before. It holds for the next page if the block stands there for the same lenses,
// and the trail of a menu ends at the very same lines, none of which is a page's own.
type lastView struct {
	view   int32
	ends   []menus.End
	stands []reach.Mask
}

func (l *lastView) holds(s *region.Sighting) bool {
	sameEnds := len(l.ends) == len(s.Ends) && (len(l.ends) == 0 || &l.ends[0] == &s.Ends[0])
	return l.view != unknown && sameEnds && slices.Equal(l.stands, s.Stands)
}

func (l *lastView) keep(s *region.Sighting, seen int32, b *site.Block) {
	l.view, l.ends, l.stands = seen, s.Ends, append(l.stands[:0], s.Stands...)
	lists := false
	switch b.Shows.(type) {
	case site.BlockChildren, site.BlockListing:
		lists = true
	}
	own := func(end menus.End) bool { return end.Step != nil && end.Step.Page == s.Page.ID }
	if lists || s.Page.Parent == 0 || slices.ContainsFunc(s.Ends, own) {
		l.view = unknown
	}
}

func (d *drawing) sheet(id site.PageID) *sheet {
	if need := int(id) + 1 - len(d.sheets); need > 0 {
		d.sheets = append(d.sheets, make([]int32, need)...)
	}
	if d.sheets[id] == 0 {
		d.pages = append(d.pages, sheet{page: id})
		d.sheets[id] = int32(len(d.pages))
	}
	return &d.pages[d.sheets[id]-1]
}

// compare reads off what differs. Pages on which the same was seen, and that the same lenses reach, are peers.
func (d *drawing) compare() {
	var alike []*peers
	var verdicts [][]verdict
	known := map[string]int{}
	var sign, last []byte
	at := -1
	for i := range d.pages {
		p := &d.pages[i]
		d.complete(p)
		if sign = d.signature(sign[:0], p); at < 0 || !bytes.Equal(sign, last) {
			found, have := known[string(sign)]
			if !have {
				found = len(alike)
				known[string(sign)] = found
				alike = append(alike, &peers{seen: p.reach[0] & p.reach[1]})
				verdicts = append(verdicts, d.differences(p))
			}
			at, last = found, append(last[:0], sign...)
		}
		if len(verdicts[at]) > 0 {
			alike[at].pages = append(alike[at].pages, p.page)
		}
	}
	for i, told := range verdicts {
		for _, v := range told {
			d.facts.addLot(v.key, lot{peers: alike[i]}, v.lenses)
		}
	}
}

// complete has a page's layout and reach in a Site in which nothing was seen of it.
func (d *drawing) complete(p *sheet) {
	for side, sc := range d.scenes {
		if p.layout[side] == nil {
			p.reach[side] = d.panel.At(sc.site, p.page).Reachable()
			p.layout[side] = region.LayoutOf(sc.site, p.page).Layout
		}
	}
}

// signature writes down all that decides what is told of a page.
func (d *drawing) signature(sign []byte, p *sheet) []byte {
	for side := range d.scenes {
		sign = binary.LittleEndian.AppendUint64(sign, uint64(p.reach[side]))
		if l := p.layout[side]; l != nil {
			sign = append(sign, l.Key...)
		}
		sign = append(sign, 0)
		for at := p.first[side]; at != 0; at = d.seen[at].next {
			if d.counts(&d.seen[at]) {
				sign = binary.LittleEndian.AppendUint32(sign, uint32(d.seen[at].view))
			}
		}
		sign = binary.LittleEndian.AppendUint32(sign, 1<<32-1)
	}
	return sign
}

// counts says whether a sighting is of the last time that its block was looked at.
func (d *drawing) counts(s *sighting) bool { return s.round == d.round[d.views[s.view].block] }

// differences compares what shows on a page in both Sites.
func (d *drawing) differences(p *sheet) []verdict {
	was, is := d.list(p, 0), d.list(p, 1)
	if slices.EqualFunc(was, is, func(a, b shown) bool {
		x, y := &d.scenes[0].placements[a.at], &d.scenes[1].placements[b.at]
		return x.ID == y.ID && x.Region == y.Region && a.look == b.look && a.lenses == b.lenses
	}) && len(d.shares) == 0 {
		return nil
	}
	if lenses := d.shared(p, was, is); lenses != 0 {
		return d.verdicts(lenses, was, is)
	}
	return nil
}

// shared gives the lenses that see the page before and after.
func (d *drawing) shared(p *sheet, was, is []shown) reach.Mask {
	var before, after reach.Mask
	for _, s := range was {
		before |= s.lenses
	}
	for _, s := range is {
		after |= s.lenses
	}
	if before == after {
		return before
	}
	return p.reach[0] & p.reach[1] & d.open
}

// list gives what was seen on a page in the order of its layout on narrow screens.
func (d *drawing) list(p *sheet, side int) []shown {
	var list []shown
	for at := p.first[side]; at != 0; at = d.seen[at].next {
		if s := &d.seen[at]; d.counts(s) {
			list = append(list, d.views[s.view].shown...)
		}
	}
	if len(list) > 1 {
		sc, phone := d.scenes[side], p.layout[side].Phone
		slices.SortFunc(list, func(a, b shown) int {
			if a.at == b.at {
				return cmp.Or(cmp.Compare(a.look, b.look), cmp.Compare(a.lenses, b.lenses))
			}
			x, y := sc.placements[a.at].Region, sc.placements[b.at].Region
			return cmp.Or(cmp.Compare(slices.Index(phone, x), slices.Index(phone, y)), cmp.Compare(a.at, b.at))
		})
	}
	return list
}

// A stand is a block in its region as one lens sees it.
type stand struct {
	placement *site.Placement
	look      int32
}

// verdicts compares, for each group of lenses that see the same before and after, region by region.
func (d *drawing) verdicts(lenses reach.Mask, was, is []shown) []verdict {
	var masks []reach.Mask
	for _, s := range slices.Concat(was, is) {
		masks = append(masks, s.lenses)
	}
	var told []verdict
	for _, group := range lensGroups(lenses, masks) {
		lens := group.First()
		before, after := d.stands(0, was, lens), d.stands(1, is, lens)
		for _, r := range d.Is.Theme().Regions {
			in := func(s stand) bool { return s.placement.Region == r.Key }
			for _, k := range d.align(r.Key, only(before, in), only(after, in)) {
				told = append(told, verdict{k, group})
			}
		}
	}
	return told
}

func only[T any](list []T, in func(T) bool) []T {
	var some []T
	for _, x := range list {
		if in(x) {
			some = append(some, x)
		}
	}
	return some
}

// stands gives the blocks that one lens sees, their landmarks named.
func (d *drawing) stands(side int, list []shown, lens int) []stand {
	sc, naming := d.scenes[side], region.Naming{}
	var made []stand
	for _, s := range list {
		if !s.lenses.Has(lens) {
			continue
		}
		p := &sc.placements[s.at]
		at := stand{p, s.look}
		if b := sc.site.Block(p.Block); d.shares[b.ID] && region.IsLandmark(b) && s.look != unknown {
			named := *d.facts.look(s.look)
			named.Named = naming.Name(b, sc.nodes[nodesKey{b.ID, s.look}])
			at.look = d.facts.intern(named)
		}
		made = append(made, at)
	}
	return made
}

// align compares the blocks of one region by their looks: those that look the same stay; the rest came, went, changed
// or moved.
func (d *drawing) align(at string, was, is []stand) []key {
	stays := common.Longest(looksOf(was, 0), looksOf(is, 1))
	var told []key
	stood, stands := make([]bool, len(was)), make([]bool, len(is))
	for _, pair := range stays {
		stood[pair[0]], stands[pair[1]] = true, true
	}
	for k := range is {
		if stands[k] {
			continue
		}
		id, i := is[k].placement.Block, 0
		for i < len(was) && (stood[i] || was[i].placement.Block != id) {
			i++
		}
		if i == len(was) {
			place := at + "\x00" + d.placeOf(is, k)
			told = append(told, key{topic: topicComes, block: id, words: place, to: d.facts.unlit(is[k].look)})
			continue
		}
		stood[i] = true
		switch a, b := was[i].look, is[k].look; {
		case a == unknown || b == unknown:
			told = append(told, key{topic: topicUncounted, block: id, words: at})
		case a != b:
			told = append(told, key{topic: topicLooks, block: id, words: at, is: a, to: b})
		}
		pair := [2]int{i, k}
		if was[i].look != is[k].look && !crosses(stays, pair) {
			stays = append(stays, pair)
		} else if a, b := d.placeOf(was, i), d.placeOf(is, k); a != b {
			told = append(told, key{topic: topicStands, block: id, words: at + "\x00" + b})
		}
	}
	for i := range was {
		if !stood[i] {
			told = append(told, key{topic: topicGoes, block: was[i].placement.Block, words: at})
		}
	}
	return told
}

// crosses says whether a block stands on the other side of one that has stayed.
func crosses(stays [][2]int, pair [2]int) bool {
	return slices.ContainsFunc(stays, func(p [2]int) bool { return (p[0] < pair[0]) != (p[1] < pair[1]) })
}

// looksOf gives the looks of blocks; one that was not made is like no other.
func looksOf(list []stand, side int) []int32 {
	looks := make([]int32, len(list))
	for i, s := range list {
		if looks[i] = s.look; s.look == unknown {
			looks[i] = -2 - int32(2*i+side)
		}
	}
	return looks
}

// placeOf says where a block stands in its region.
func (d *drawing) placeOf(list []stand, at int) string {
	if at == 0 {
		return "first"
	}
	return count.Ordinal(at+1) + ", after " + d.blockName(list[at-1].placement.Block)
}

// A scene is one Site as a pass looks at it.
type scene struct {
	*comparison
	site       *site.Site
	placements []site.Placement
	marks      []uint64 // a number for each placement and its region
	views      map[site.MenuID]*menus.Views
	made       map[lookKey][]alike
	count      map[site.BlockID]int
	nodes      map[nodesKey][]menus.Node
	lights     map[litKey]int32
	lines      map[lineKey]int32
	shape      []byte // of the menu that is being looked at
	saw        map[seenKey][]seenLines
	listings   map[site.BlockID]*candidates
}

type lookKey struct {
	block   site.BlockID
	step    *menus.Step
	page    site.PageID
	current bool
}

type nodesKey struct {
	block site.BlockID
	look  int32
}

// alike are lenses that get the same look.
type alike struct {
	lenses reach.Mask
	look   int32
}

func (c *comparison) scene(s *site.Site) *scene {
	made := &scene{
		comparison: c,
		site:       s,
		placements: s.Placements(),
		views:      map[site.MenuID]*menus.Views{},
		made:       map[lookKey][]alike{},
		count:      map[site.BlockID]int{},
		nodes:      map[nodesKey][]menus.Node{},
		lights:     map[litKey]int32{},
		lines:      map[lineKey]int32{},
		saw:        map[seenKey][]seenLines{},
		listings:   map[site.BlockID]*candidates{},
	}
	for _, p := range made.placements {
		sum := fnv.New64a()
		fmt.Fprint(sum, p.ID, p.Region)
		made.marks = append(made.marks, sum.Sum64()|1)
	}
	return made
}

// placedAt gives the places of a block's placements among all.
func (sc *scene) placedAt(id site.BlockID) []int32 {
	var at []int32
	for i := range sc.placements {
		if sc.placements[i].Block == id {
			at = append(at, int32(i))
		}
	}
	return at
}

// looks gives the looks of a block on a page for some lenses at least. Pages on which the trail ends at the same
// line, as far as the block's window goes, share them.
func (sc *scene) looks(b *site.Block, page site.PageID, ends []menus.End, lenses reach.Mask) []alike {
	switch shows := b.Shows.(type) {
	case site.BlockMenu:
		return sc.menuLooks(b, shows, page, ends, lenses)
	case site.BlockChildren:
		k := lookKey{block: b.ID, page: page}
		return sc.complete(k, lenses, func(lens int) (int32, reach.Mask, []menus.Node) {
			made, same := sc.children(b, page, lens)
			return sc.facts.intern(made), same, nil
		})
	case site.BlockListing:
		q, _ := listing.OfBlock(sc.site, b)
		return sc.listingLooks(b, q, page, lenses)
	case site.BlockText:
		return sc.complete(lookKey{block: b.ID}, lenses, func(lens int) (int32, reach.Mask, []menus.Node) {
			made := sc.frameOf(b)
			made.Text = sc.rendered(sc.site, shows.Text, lens, true)
			return sc.facts.intern(made), sc.sameReaders(shows.Text, lens), nil
		})
	}
	k := lookKey{block: b.ID, current: page == sc.site.Home()}
	return sc.complete(k, lenses, func(int) (int32, reach.Mask, []menus.Node) {
		made := sc.frameOf(b)
		sketch := piece.Of(b.Shows).Sketch(sc.site, b.Shows, k.current)
		made.File, made.Alt, made.Other = sketch.File, sketch.Alternative, sketch.Other
		return sc.facts.intern(made), sc.panel.All(), nil
	})
}

func (sc *scene) menuLooks(
	b *site.Block,
	shows site.BlockMenu,
	page site.PageID,
	ends []menus.End,
	lenses reach.Mask,
) []alike {
	m := sc.site.Menu(shows.Menu)
	deepest, wide := menus.Deepest(sc.site, m, shows.Window), menus.IsWide(shows.Window)
	var found []alike
	on := func(step *menus.Step, lenses reach.Mask) {
		step = step.Upto(deepest)
		k := lookKey{block: b.ID}
		if !wide {
			k.step, k.current = step, step != nil && step.Page == page
		}
		for _, l := range sc.complete(k, lenses, func(lens int) (int32, reach.Mask, []menus.Node) {
			return sc.menuLook(b, m, shows.Window, page, lens, wide)
		}) {
			if l.lenses &= lenses; l.lenses == 0 {
				continue
			}
			if wide && l.look != unknown {
				l.look = sc.lit(l.look, b, m, shows.Window, step, page)
			}
			found = append(found, l)
		}
	}
	rest := lenses
	for _, end := range ends {
		if m := end.Lenses & rest; m != 0 {
			on(end.Step, m)
			rest &^= m
		}
	}
	if rest != 0 {
		on(nil, rest)
	}
	return found
}

// menuLook makes the look of a menu on a page: its lines, and which of them are lit. Of a wide window the lines are
// the same on all pages, and what is lit is told by the trail.
func (sc *scene) menuLook(
	b *site.Block,
	m *site.Menu,
	w site.Window,
	page site.PageID,
	lens int,
	wide bool,
) (int32, reach.Mask, []menus.Node) {
	if wide {
		page = 0
	}
	nodes, same := sc.viewsOf(m).Window(w, page, lens)
	frame := sc.frameOf(b)
	sc.shape = binary.LittleEndian.AppendUint32(sc.shape[:0], uint32(sc.facts.intern(frame)))
	lines := 0
	sc.shapeOf(m, nodes, &lines)
	sc.count[b.ID] += lines / linesPerLook // beside the one that is counted for it
	sc.work += lines
	id := sc.facts.internShape(sc.shape, frame)
	if !wide {
		words, to := sc.litOf(m, nodes)
		id = sc.facts.internLit(id, sc.facts.internWay(litWay{words, to}))
	}
	return id, same, nodes
}

// shapeOf writes lines down by the numbers of their values, with those below them.
func (sc *scene) shapeOf(m *site.Menu, nodes []menus.Node, lines *int) {
	for i := range nodes {
		n := &nodes[i]
		*lines++
		sc.shape = binary.LittleEndian.AppendUint32(sc.shape, uint32(sc.lineOf(m, n.Line)))
		if len(n.Children) > 0 {
			sc.shape = binary.LittleEndian.AppendUint32(sc.shape, opens)
			sc.shapeOf(m, n.Children, lines)
			sc.shape = binary.LittleEndian.AppendUint32(sc.shape, closes)
		}
	}
}

// Signs in the shape of a menu beside the numbers of lines.
const (
	opens  = 1<<32 - 1
	closes = 1<<32 - 2
)

// lineOf gives the number of a line's value, made once for a Site.
func (sc *scene) lineOf(m *site.Menu, l menus.Line) int32 {
	k := lineKey{l.Entry, l.Page, l.Own, l.Count}
	id, known := sc.lines[k]
	if !known {
		id = sc.facts.internLine(look.Of(sc.site, m, l))
		sc.lines[k] = id
	}
	return id
}

type lineKey struct {
	entry site.EntryID
	page  site.PageID
	own   bool
	count int // differs between lenses
}

// litOf says which lines of a menu are lit.
func (sc *scene) litOf(m *site.Menu, nodes []menus.Node) (labels, leads string) {
	for i := range nodes {
		n := &nodes[i]
		if !n.Trail {
			continue
		}
		line := &sc.facts.lines[sc.lineOf(m, n.Line)]
		below, to := sc.litOf(m, n.Children)
		if below != "" {
			return look.Above(line.Label, below), look.Above(line.Leads(), to)
		}
		below, to = look.Above(line.Label, ""), look.Above(line.Leads(), "")
		if line.Href != "" {
			below, to = look.Current(below, n.Current == "page"), look.Current(to, n.Current == "page")
		}
		return below, to
	}
	return "", ""
}

// lit gives the number of a menu's look with the lines lit that a trail has in its window.
func (sc *scene) lit(base int32, b *site.Block, m *site.Menu, w site.Window, step *menus.Step, page site.PageID) int32 {
	if step == nil {
		return base
	}
	k := litKey{b.ID, step, step.Page == page}
	way, known := sc.lights[k]
	if !known {
		way = sc.facts.internWay(sc.wayLit(m, w, step, page))
		sc.lights[k] = way
	}
	return sc.facts.internLit(base, way)
}

// wayLit says which lines of a window a trail lights.
func (sc *scene) wayLit(m *site.Menu, w site.Window, step *menus.Step, page site.PageID) (way litWay) {
	for step != nil && !menus.CanShow(sc.site, m, w, step.Entry, step.Level) {
		step = step.Above
	}
	if step == nil {
		return litWay{}
	}
	for s := step; s != nil && menus.CanShow(sc.site, m, w, s.Entry, s.Level); s = s.Above {
		line := menus.Line{Entry: s.Entry, Page: s.Page, Label: sc.stepLabel(m, s)}
		line.Lead, line.Query = menus.Leads(sc.site, m.Entry(s.Entry), s.Page)
		value := look.Of(sc.site, m, line)
		way.words, way.to = look.Above(value.Label, way.words), look.Above(value.Leads(), way.to)
	}
	if step.Page != 0 {
		way.words, way.to = look.Current(way.words, step.Page == page), look.Current(way.to, step.Page == page)
	}
	return way
}

// stepLabel is what visitors read of a line of a trail.
func (sc *scene) stepLabel(m *site.Menu, s *menus.Step) string {
	return menus.LabelOf(sc.site, m.Entry(s.Entry), s.Page)
}

type litKey struct {
	block   site.BlockID
	step    *menus.Step
	current bool
}

func (sc *scene) limit() int {
	if sc.Is.Count() > largeSite {
		return lookLimitLarge
	}
	return lookLimit
}

// viewsOf looks at a menu through all lenses.
func (sc *scene) viewsOf(m *site.Menu) *menus.Views {
	view := sc.views[m.ID]
	if view == nil {
		view = menus.NewViews(sc.site, m, sc.panel)
		sc.views[m.ID] = view
	}
	return view
}

// frame looks at all blocks on one page through one lens, a page that is in no tree among them.
func (d *drawing) frame(side int, f *region.Frame, page site.PageID, lens int) {
	sc := d.scenes[side]
	decided, areas := f.On(page)
	at := d.sheet(page)
	at.layout[side] = decided.Layout
	trails := map[site.MenuID]*menus.Trails{}
	for _, area := range areas {
		for _, st := range area.Standings {
			if st.Why != "" {
				continue
			}
			var ends []menus.End
			if id, _, isMenu := st.Block.Menu(); isMenu && page != 0 {
				if trails[id] == nil {
					trails[id] = menus.NewTrails(sc.site, sc.site.Menu(id), d.panel)
				}
				ends = trails[id].Walk(page).Ends
			}
			for _, l := range sc.looks(st.Block, page, ends, 1<<lens) {
				if l.lenses.Has(lens) {
					place := slices.IndexFunc(
						sc.placements,
						func(p site.Placement) bool { return p.ID == st.Placement.ID },
					)
					seen := d.internView(0, []shown{{int32(place), l.look, 1 << lens}})
					d.see(at, side, sighting{view: seen})
				}
			}
		}
	}
}

// compareAs compares the one page that was looked at.
func (d *drawing) compareAs(on item, lenses reach.Mask) {
	if len(d.pages) == 0 || lenses == 0 {
		return
	}
	p := &d.pages[0]
	for _, v := range d.verdicts(lenses, d.list(p, 0), d.list(p, 1)) {
		d.facts.add(v.key, on, v.lenses)
	}
	if a, b := p.layout[0], p.layout[1]; a != nil && b != nil && a.Key != b.Key {
		d.facts.add(key{topic: topicLayout, words: b.Name}, on, lenses)
	}
}

// complete makes the looks under a key that lenses still lack.
func (sc *scene) complete(k lookKey, lenses reach.Mask, draw func(lens int) (int32, reach.Mask, []menus.Node)) []alike {
	made := sc.made[k]
	var known reach.Mask
	for _, l := range made {
		known |= l.lenses
	}
	for left := lenses &^ known; left != 0; left = lenses &^ known {
		if sc.count[k.block]++; sc.count[k.block] > sc.limit() {
			return append(made[:len(made):len(made)], alike{left, unknown})
		}
		id, same, nodes := draw(left.First())
		same = same&^known | 1<<left.First()
		if nodes != nil && sc.shares[k.block] {
			sc.nodes[nodesKey{k.block, id}] = nodes
		}
		made = append(made, alike{same, id})
		known |= same
	}
	sc.made[k] = made
	return made
}

// children is the look of a list of the pages inside one, and for which lenses it is the same.
func (sc *scene) children(b *site.Block, page site.PageID, lens int) (look.Look, reach.Mask) {
	made, same := sc.frameOf(b), sc.panel.All()
	state := sc.panel.At(sc.site, page)
	for _, id := range sc.site.Children(page) {
		kid := sc.site.Page(id)
		if !kid.Listed {
			continue
		}
		if reached := sc.panel.Below(state, kid).Reachable(); reached.Has(lens) {
			same &= reached
			made.Pages = append(made.Pages, look.Link{Label: kid.Label, Href: addressOf(sc.site, id)})
		} else {
			same &^= reached
		}
	}
	return made, same
}

// sameReaders gives the lenses that read the same of a text as one.
func (sc *scene) sameReaders(hash string, lens int) reach.Mask {
	same := sc.panel.All()
	for _, to := range sc.site.Links(hash) {
		if reached := sc.panel.At(sc.site, to).Reachable(); reached.Has(lens) {
			same &= reached
		} else {
			same &^= reached
		}
	}
	return same
}

// intern gives a look its number; equal looks have one.
func (l *ledger) intern(made look.Look) int32 {
	way := litWay{made.Lit, made.LitTo}
	made.Lit, made.LitTo = "", ""
	words := strings.Join(made.Words(), "\n")
	if made.Text != "" {
		words += "\x00" + made.Text
	}
	id, known := l.byWords[words]
	if !known {
		id = l.number(&made)
		l.byWords[words] = id
	}
	return l.internLit(id, l.internWay(way))
}

// number gives a look without lit lines the next number.
func (l *ledger) number(made *look.Look) int32 {
	id := int32(len(l.looks))
	l.looks, l.bases, l.ways = append(l.looks, made), append(l.bases, id), append(l.ways, 0)
	return id
}

// A litWay is what the trail lights of a menu, in words and by where it leads.
type litWay struct{ words, to string }

func (l *ledger) internWay(way litWay) int32 {
	id, known := l.byWay[way]
	if !known {
		id = int32(len(l.lit))
		l.byWay[way], l.lit = id, append(l.lit, way)
	}
	return id
}

// internLit gives a look its number that is as another one, with a way lit.
func (l *ledger) internLit(base, way int32) int32 {
	if way == 0 {
		return base
	}
	k := [2]int32{base, way}
	id, known := l.byLit[k]
	if !known {
		id = int32(len(l.looks))
		l.byLit[k] = id
		l.looks, l.bases, l.ways = append(l.looks, nil), append(l.bases, base), append(l.ways, way)
	}
	return id
}

// look gives the look with a number.
func (l *ledger) look(id int32) *look.Look {
	if l.looks[id] == nil {
		made, way := *l.looks[l.bases[id]], l.lit[l.ways[id]]
		made.Lit, made.LitTo = way.words, way.to
		l.looks[id] = &made
	}
	return l.looks[id]
}

// unlit gives the number of a look without what the trail lights.
func (l *ledger) unlit(id int32) int32 {
	if id == unknown {
		return id
	}
	return l.bases[id]
}

// internLine gives the value of a line its number, what is below it and the trail left aside.
func (l *ledger) internLine(made look.Line) int32 {
	words := made.Unlit()
	if made.Heading {
		words += "\x01"
	}
	id, known := l.byLine[words]
	if !known {
		id = int32(len(l.lines))
		l.byLine[words], l.lines = id, append(l.lines, made)
	}
	return id
}

// internShape gives a menu its number: its frame, and its lines as shapeOf writes them.
func (l *ledger) internShape(shape []byte, frame look.Look) int32 {
	if id, known := l.byShape[string(shape)]; known {
		return id
	}
	frame.Lines, _ = l.unfold(shape[4:])
	var id int32
	if len(frame.Lines) == 0 {
		id = l.intern(frame)
	} else {
		id = l.number(&frame)
	}
	l.byShape[string(shape)] = id
	return id
}

// unfold reads lines back from a shape.
func (l *ledger) unfold(shape []byte) (lines []look.Line, rest []byte) {
	for len(shape) > 0 {
		sign := binary.LittleEndian.Uint32(shape)
		shape = shape[4:]
		switch sign {
		case opens:
			lines[len(lines)-1].Lines, shape = l.unfold(shape)
		case closes:
			return lines, shape
		default:
			lines = append(lines, l.lines[sign])
		}
	}
	return lines, nil
}
