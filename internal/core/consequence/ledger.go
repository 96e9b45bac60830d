package consequence

import (
	"cmp"
	"encoding/binary"
	"slices"
	"time"

	"vineladder/internal/core/look"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A topic is what a fact is about.
type topic string

const (
	topicOutcome   topic = "outcome"   // what a page's address answers
	topicMoved     topic = "moved"     // a page has another address
	topicPath      topic = "path"      // an address that a page left, or that another had before
	topicWords     topic = "words"     // what a page says of itself
	topicAppears   topic = "appears"   // what a page says that appears, where that was edited too
	topicLost      topic = "lost"      // a text loses what it links to
	topicCrumbs    topic = "crumbs"    // the way to a page
	topicLayout    topic = "layout"    //
	topicComes     topic = "comes"     // a block on a page
	topicGoes      topic = "goes"      //
	topicStands    topic = "stands"    // a block among its neighbours
	topicLooks     topic = "looks"     // a block's look, from one value to another
	topicPrograms  topic = "programs"  // a menu for programs
	topicStandsIn  topic = "stands in" // a page comes to be shown in place of others, or ceases to be
	topicUncounted topic = "uncounted" // a block of which not every look was made
)

// A key names a fact: what it is about and, where they tell facts apart, the block and the words.
type key struct {
	topic  topic
	block  site.BlockID
	words  string // as the topic has it
	is, to int32  // looks or classes
}

// An item is one thing of which a fact is true: a page, or an address.
type item struct {
	page site.PageID
	path string
}

// Peers are pages of which the same is true in one pass.
type peers struct {
	pages []site.PageID
	seen  reach.Mask // the lenses that reach each of them in both Sites
}

// A lot is one item, or peers: a fact that is true of many pages is kept once for all that are alike.
type lot struct {
	item
	peers *peers
}

// items has each of a lot's.
func (l lot) items(all []item) []item {
	if l.peers == nil {
		return append(all, l.item)
	}
	for _, id := range l.peers.pages {
		all = append(all, item{page: id})
	}
	return all
}

// A mark says of a lot for which lenses a fact is true in one pass.
type mark struct {
	lot
	pass   int
	lenses reach.Mask
}

// A ledger keeps facts with their marks.
type ledger struct {
	pass  int
	facts map[key]*fact
	order []*fact

	looks   []*look.Look // by number; nil: one with lines lit that nobody asked for yet
	bases   []int32      // of each look: the same without what the trail lights
	ways    []int32      // of each look: the way that is lit in it; 0: none
	byWords map[string]int32
	lit     []litWay // by number; number 0 lights nothing
	byWay   map[litWay]int32
	byLit   map[[2]int32]int32 // of base and way
	lines   []look.Line        // values of menu lines, by number
	byLine  map[string]int32
	byShape map[string]int32
}

type fact struct {
	key
	marks []mark
	diff  Difference // of topicWords and topicCrumbs
}

func newLedger() *ledger {
	l := &ledger{
		facts:   map[key]*fact{},
		byWords: map[string]int32{},
		lit:     make([]litWay, 1),
		byWay:   map[litWay]int32{{}: 0},
		byLit:   map[[2]int32]int32{},
		byLine:  map[string]int32{},
		byShape: map[string]int32{},
	}
	l.intern(look.Look{}) // number 0 shows nothing
	return l
}

// fact finds a fact, or begins it.
func (l *ledger) fact(k key) *fact {
	f := l.facts[k]
	if f == nil {
		f = &fact{key: k}
		l.facts[k], l.order = f, append(l.order, f)
	}
	return f
}

// add says that a fact is true of an item for some lenses.
func (l *ledger) add(k key, on item, lenses reach.Mask) { l.addLot(k, lot{item: on}, lenses) }

func (l *ledger) addLot(k key, on lot, lenses reach.Mask) {
	if lenses != 0 {
		f := l.fact(k)
		f.marks = append(f.marks, mark{on, l.pass, lenses})
	}
}

// of gives the facts of a topic, in the order in which they were found.
func (l *ledger) of(t topic) []*fact {
	var found []*fact
	for _, f := range l.order {
		if f.topic == t {
			found = append(found, f)
		}
	}
	return found
}

// A spread is a group of items of which something is true for the same viewers at the same moments.
type spread struct {
	line timeline
	lots []lot
	own  []timeline // of lots that fewer viewers reach than the line has; nil: all have the line
}

// items has each item of a spread.
func (s *spread) items() []item { return itemsOf(s.lots) }

func itemsOf(lots []lot) []item {
	n := 0
	for _, l := range lots {
		if n++; l.peers != nil {
			n += len(l.peers.pages)
		}
	}
	all := make([]item, 0, n)
	for _, l := range lots {
		all = l.items(all)
	}
	return all
}

// A part is a stretch of a spread, with the items of which it is true then.
type part struct {
	stretch
	lots  []lot
	items []item
}

// A timeline has the viewers for whom something is true, by moment.
type timeline []reach.Mask

// spreads groups marks by when and for whom they hold; the groups with most viewers first, lots as they were found.
func (r *Report) spreads(marks []mark) []spread {
	marks = settled(marks)
	at := newPlaces(len(marks))
	var lines [][]byte // of each lot: passes with their lenses
	for _, m := range marks {
		k, known := at.of(m.lot)
		if !known {
			lines = append(lines, nil)
		}
		lines[k] = withPass(lines[k], m)
	}
	groups := map[string]int{}
	var found []spread
	for k, l := range at.lots {
		g, known := groups[string(lines[k])]
		if !known {
			g = len(found)
			groups[string(lines[k])], found = g, append(found, spread{line: r.timeline(lines[k])})
		}
		found[g].lots = append(found[g].lots, l)
	}
	slices.SortStableFunc(found, func(a, b spread) int { return a.line.compare(b.line) })
	return found
}

// settled has marks of which no two lots share a page.
func settled(marks []mark) []mark {
	if mustPart(marks) {
		return parted(marks)
	}
	return marks
}

// mustPart says whether lots can share a page: peers are those of one pass, and a page beside them may be one of them.
func mustPart(marks []mark) bool {
	some := func(is func(m *mark) bool) bool {
		return slices.ContainsFunc(marks, func(m mark) bool { return is(&m) })
	}
	return some(func(m *mark) bool { return m.peers != nil }) &&
		some(func(m *mark) bool { return m.pass != marks[0].pass || m.page != 0 })
}

// parted makes each item a lot of its own.
func parted(marks []mark) []mark {
	var each []mark
	for _, m := range marks {
		for _, it := range m.lot.items(nil) {
			each = append(each, mark{lot{item: it}, m.pass, m.lenses})
		}
	}
	return each
}

// places number lots as they are found. Pages are looked up by their number.
type places struct {
	lots   []lot
	pages  []int32 // by page: its place, from 1
	others map[lot]int32
}

func newPlaces(size int) *places { return &places{lots: make([]lot, 0, size), others: map[lot]int32{}} }

// of gives the place of a lot, and whether it has been found before.
func (p *places) of(l lot) (place int32, known bool) {
	if l.peers != nil || l.path != "" {
		place, known = p.others[l]
		if !known {
			place = int32(len(p.lots))
			p.others[l], p.lots = place, append(p.lots, l)
		}
		return place, known
	}
	if need := int(l.page) + 1 - len(p.pages); need > 0 {
		p.pages = append(p.pages, make([]int32, need)...)
	}
	if at := p.pages[l.page]; at != 0 {
		return at - 1, true
	}
	p.lots = append(p.lots, l)
	p.pages[l.page] = int32(len(p.lots))
	return int32(len(p.lots)) - 1, false
}

// withPass adds a mark to the passes of an item. Passes come in order.
func withPass(line []byte, m mark) []byte {
	for from := 0; from < len(line); from += 12 {
		if binary.LittleEndian.Uint32(line[from:]) == uint32(m.pass) {
			lenses := line[from+4:]
			binary.LittleEndian.PutUint64(lenses, binary.LittleEndian.Uint64(lenses)|uint64(m.lenses))
			return line
		}
	}
	if line == nil {
		line = make([]byte, 0, 12)
	}
	line = binary.LittleEndian.AppendUint32(line, uint32(m.pass))
	return binary.LittleEndian.AppendUint64(line, uint64(m.lenses))
}

// gathered groups marks as spreads does, and takes pages that fewer viewers reach together with those that more
// reach: what holds for everyone who sees a page is said for everyone.
func (r *Report) gathered(marks []mark) []spread {
	var kept []spread
	for _, s := range r.spreads(marks) {
		into := slices.IndexFunc(kept, func(wider spread) bool {
			return !slices.ContainsFunc(s.lots, func(l lot) bool { return !r.isCutTo(wider.line, s.line, l) })
		})
		if into < 0 {
			kept = append(kept, s)
			continue
		}
		k := &kept[into]
		for len(k.own) < len(k.lots) {
			k.own = append(k.own, k.line)
		}
		k.lots = append(k.lots, s.lots...)
		for range s.lots {
			k.own = append(k.own, s.line)
		}
	}
	return kept
}

// isCutTo says whether a timeline is what is left of a wider one for those who see a page.
func (r *Report) isCutTo(wider, line timeline, on lot) bool {
	for i := range line {
		if line[i]&^wider[i] != 0 {
			return false
		}
	}
	var seen timeline
	switch {
	case on.peers != nil && len(r.Moments) <= r.perPass():
		seen = r.timeline(withPass(nil, mark{lenses: on.peers.seen}))
	case on.peers != nil:
		return !slices.ContainsFunc(on.items(nil), func(it item) bool { return !r.isCutTo(wider, line, lot{item: it}) })
	case on.page == 0:
		return true // a form that fewer get
	default:
		seen = r.seen(on.page)
	}
	for i := range line {
		if wider[i]&seen[i] != line[i] {
			return false
		}
	}
	return true
}

// seen says who reaches a page in both Sites, by moment.
func (r *Report) seen(id site.PageID) timeline {
	if line, known := r.seers[id]; known {
		return line
	}
	line, viewers := make(timeline, len(r.Moments)), len(r.Names)
	for from := 0; from < len(line); from += r.perPass() {
		panel := r.passPanel(from)
		both := panel.At(r.Was, id).Reachable() & panel.At(r.Is, id).Reachable()
		for k := from; k < min(from+r.perPass(), len(line)); k++ {
			line[k] = both >> ((k - from) * viewers) & r.Panel.All()
		}
	}
	r.seers[id] = line
	return line
}

// passPanel looks through all viewers' eyes at the moments of the pass that begins with one.
func (r *Report) passPanel(from int) *reach.Panel {
	if r.panels[from] == nil {
		r.panels[from] = r.panelAt(r.Moments[from:min(from+r.perPass(), len(r.Moments))])
	}
	return r.panels[from]
}

// timeline spreads the lenses of each pass over its moments.
func (r *Report) timeline(passes []byte) timeline {
	line, viewers := make(timeline, len(r.Moments)), len(r.Names)
	all := r.Panel.All()
	for ; len(passes) > 0; passes = passes[12:] {
		pass, lenses := int(binary.LittleEndian.Uint32(passes)), binary.LittleEndian.Uint64(passes[4:])
		for k := range r.perPass() {
			if at := pass*r.perPass() + k; at < len(line) {
				line[at] |= reach.Mask(lenses>>(k*viewers)) & all
			}
		}
	}
	return line
}

// perPass is the number of moments of which one panel holds all viewers.
func (v Viewers) perPass() int { return max(1, reach.PanelLimit/max(1, len(v.Names))) }

func (t timeline) compare(other timeline) int {
	for i := range t {
		if c := cmp.Or(cmp.Compare(other[i].Count(), t[i].Count()), cmp.Compare(t[i], other[i])); c != 0 {
			return c
		}
	}
	return 0
}

// A stretch is a time in which something is true for the same viewers.
type stretch struct {
	lenses      reach.Mask
	from, until time.Time // zero: from publication on, and for good
}

// parts cuts a spread into the times in which it is true for the same viewers.
func (r *Report) parts(s spread) []part {
	var cut []part
	line := s.line
	for i := 0; i < len(line); {
		k := i
		for k < len(line) && line[k] == line[i] {
			k++
		}
		if line[i] != 0 {
			made := stretch{lenses: line[i]}
			if i > 0 {
				made.from = r.Moments[i]
			}
			if k < len(line) {
				made.until = r.Moments[k]
			}
			lots := s.during(i, k)
			cut = append(cut, part{made, lots, itemsOf(lots)})
		}
		i = k
	}
	return cut
}

// during gives the lots of which it is true at some moment of a time.
func (s spread) during(from, until int) []lot {
	if s.own == nil {
		return s.lots
	}
	var some []lot
	for i, l := range s.lots {
		if slices.ContainsFunc(s.own[i][from:until], func(m reach.Mask) bool { return m != 0 }) {
			some = append(some, l)
		}
	}
	return some
}
