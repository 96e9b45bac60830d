package ask

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"vineladder/internal/core/care"
	"vineladder/internal/core/detail"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/core/topic"
)

// A Question is one that can be asked of every page.
type Question struct {
	Key   string
	Words string // as a choice on screen
	Group string // under which it is offered; "" for those of every site
}

// of is a question of every site.
func of(key, words string) Question { return Question{Key: key, Words: words} }

// Questions in the order in which they are offered. The first four are the shapes.
var questions = []struct {
	Question
	is func(*walk, Facts) bool
}{
	{of("full", "Online and listed"), shaped(ShapeFull)},
	{of("half", "Not listed"), shaped(ShapeHalf)},
	{of("stub", "Not online"), shaped(ShapeStub)},
	{of("clock", "At another time"), shaped(ShapeClock)},
	{of("offline-year", "Offline for more than a year"), func(w *walk, f Facts) bool {
		if f.Shape != ShapeStub && f.Shape != ShapeClock {
			return false
		}
		last := reach.OfflineSince(w.site, f.Page.ID, w.lens.At)
		return !last.IsZero() && last.Before(w.lens.At.AddDate(-1, 0, 0))
	}},
	{of("never", "Never online yet"), func(w *walk, f Facts) bool { return !f.Page.WasOnline(w.lens.At) }},
	{of("unseen", "Not seen by this visitor"), func(_ *walk, f Facts) bool {
		return f.State.Online != 0 && f.State.Reachable() == 0
	}},
	{of("no-menu", "In no menu that this visitor sees"), func(w *walk, f Facts) bool {
		return f.State.Reachable() != 0 && w.menus(f.Page.ID) == 0
	}},
	{of("menus", "In more than one menu"), func(w *walk, f Facts) bool { return w.menus(f.Page.ID) > 1 }},
	{
		of("audience", "Who sees it is set here"),
		func(_ *walk, f Facts) bool { return f.Page.Audience != site.AudienceInherited },
	},
	{of("editors", "Only us until it is ready"), func(_ *walk, f Facts) bool {
		return f.Page.Audience == site.AudienceEditors
	}},
	{of("window", "Has a beginning or an end"), func(_ *walk, f Facts) bool {
		return !f.Page.LiveFrom.IsZero() || !f.Page.LiveUntil.IsZero()
	}},
	{of("pinned", "Pinned first or last"), func(_ *walk, f Facts) bool { return f.Page.Pin != site.PinNone }},
	{of("fixed", "Has a fixed or short address"), func(_ *walk, f Facts) bool {
		return f.Page.OwnAddress != "" || len(f.Page.ShortAddresses) > 0
	}},
	{of("moved", "Was at another address"), func(_ *walk, f Facts) bool { return len(f.Page.Spells) > 0 }},
	{of("empty", "Has no text"), func(_ *walk, f Facts) bool { return f.Page.Text == "" }},
	{of("no-topic", "Bears no topic"), func(_ *walk, f Facts) bool {
		return len(f.Page.Topics) == 0 && !f.Page.Gathers()
	}},
	{of("lacks", "Lacks what its type needs"), func(w *walk, f Facts) bool {
		return len(detail.Lacking(w.site, f.Page)) > 0
	}},
	{of("unused", "A file that nothing shows or links"), func(w *walk, f Facts) bool {
		return f.Page.IsFile() && len(w.site.UsesOf(f.Page.ID)) == 0
	}},
	{of("overdue", "Review overdue"), func(w *walk, f Facts) bool { return w.due(f, w.lens.At) }},
	{of("due", "Review due within a month"), func(w *walk, f Facts) bool {
		return w.due(f, care.Soon(w.lens.At))
	}},
	{of("mine", "Looked after by me"), func(w *walk, f Facts) bool { return slices.Contains(w.mine, f.Care.Owner) }},
	{of("no-owner", "Looked after by nobody"), func(_ *walk, f Facts) bool { return f.Care.From == nil }},
	{of("draft", "Changed in this draft"), func(w *walk, f Facts) bool { return w.changed[f.Page.ID] }},
}

func shaped(shape Shape) func(*walk, Facts) bool {
	return func(_ *walk, f Facts) bool { return f.Shape == shape }
}

// OfCare says whether a question asks who looks after pages, or when.
func OfCare(key string) bool {
	return slices.Contains([]string{"overdue", "due", "mine", "no-owner"}, key)
}

// due says whether a page is due for review at a moment.
func (w *walk) due(f Facts, at time.Time) bool {
	due, ok := w.known.Due(f.Care, f.Page, w.lens.At)
	return ok && !due.After(at)
}

// Questions gives every question that can be asked of a site, in the order in which they are offered: those of every
// site, one for each type of page, and what its lists ask, each under the name of what lists.
func Questions(s *site.Site) []Question {
	all := make([]Question, len(questions))
	for i, q := range questions {
		all[i] = q.Question
	}
	for _, k := range s.Kinds() {
		if k.Key != site.KindTopic && k.Key != site.KindTopicList {
			all = append(all, Question{kindKey + k.Key, k.Name, "Of the type"})
		}
	}
	for _, id := range s.Listers() {
		if s.InTree(id) {
			all = append(all, Question{fmt.Sprint(listKey, id), s.Page(id).Label, "On the list of"})
		}
	}
	for i := range s.Blocks() {
		if b := &s.Blocks()[i]; isListing(b) {
			all = append(all, Question{fmt.Sprint(blockKey, b.ID), b.Name, "In the block"})
		}
	}
	return all
}

// Keys of questions that a site has by itself.
const (
	kindKey  = "kind:"
	listKey  = "list:"
	blockKey = "block:"
)

func isListing(b *site.Block) bool { _, is := b.Shows.(site.BlockListing); return is }

// answer gives what answers a question; where it is not known, every page does.
func (w *walk) answer(key string) func(*walk, Facts) bool {
	for _, q := range questions {
		if q.Key == key {
			return q.is
		}
	}
	if kind, is := strings.CutPrefix(key, kindKey); is {
		return func(_ *walk, f Facts) bool { return f.Page.Kind == kind }
	}
	if number, is := strings.CutPrefix(key, listKey); is {
		id, _ := strconv.ParseInt(number, 10, 64)
		if q, lists := listing.Of(w.site, site.PageID(id)); lists {
			return w.listed(q, site.PageID(id))
		}
	}
	if number, is := strings.CutPrefix(key, blockKey); is {
		id, _ := strconv.ParseInt(number, 10, 64)
		if b := w.site.Block(site.BlockID(id)); b != nil && isListing(b) {
			q, _ := listing.OfBlock(w.site, b)
			return w.listed(q, 0)
		}
	}
	return func(*walk, Facts) bool { return true }
}

// Answers gives a function that answers the question of a query for single pages of a site, as a lens sees them.
func Answers(s *site.Site, q Query, lens reach.Lens) func(*site.Page) bool {
	w := walkOf(s, q, lens)
	is := w.answer(q.Question)
	return func(p *site.Page) bool { return is(w, w.of(p)) }
}

// of gives what is known of one page.
func (w *walk) of(p *site.Page) Facts {
	var at *Facts
	for _, above := range w.site.Path(p.ID) {
		f := w.below(at, above)
		at = &f
	}
	return *at
}

// listed answers what a list asks, as the lens gets it; on is the page that lists.
func (w *walk) listed(q site.BlockListing, on site.PageID) func(*walk, Facts) bool {
	answers, reached := listing.Answering(w.site, q), listing.Reached(w.site, q, w.panel)
	return func(_ *walk, f Facts) bool {
		return f.Page.ID != on && answers(f.Page) && reached(f.Page.ID) != 0
	}
}

// A Query asks for pages: those of a branch that are about a topic, answer yes to a question and have all the words.
type Query struct {
	Within   site.PageID // top of the branch; 0: the whole site
	Topic    site.PageID // that they bear, itself or a narrower one, or are; 0: any
	Question string      // key; "": any page
	Words    string      // in the label, title or segment; accents, case and order don't matter
	Changed  map[site.PageID]bool
	Reads    func(*site.Page) bool // of which pages the title may be searched; nil: of all
	Care     *care.Known           // besides the site
	Mine     []site.Owner          // as which the person who asks looks after pages
}

// Empty says that a query asks for nothing in particular.
func (q Query) Empty() bool {
	return q.Question == "" && q.Topic == 0 && strings.TrimSpace(q.Words) == ""
}

type walk struct {
	site    *site.Site
	lens    reach.Lens
	panel   *reach.Panel
	changed map[site.PageID]bool
	known   *care.Known
	mine    []site.Owner
	finder  *region.Finder // made when it is asked
}

func walkOf(s *site.Site, q Query, lens reach.Lens) *walk {
	return &walk{
		site: s, lens: lens, panel: reach.NewPanel(lens), changed: q.Changed, known: q.Care, mine: q.Mine,
	}
}

// menus counts the menus in which the lens finds a page.
func (w *walk) menus(id site.PageID) int {
	if w.finder == nil {
		w.finder = region.NewFinder(w.site, w.lens)
	}
	return w.finder.Menus(id)
}

// Walk visits a branch in the tree's order, with what is known of each page.
func Walk(s *site.Site, top site.PageID, lens reach.Lens, visit func(Facts)) {
	w := &walk{site: s, lens: lens, panel: reach.NewPanel(lens)}
	w.down(top, visit)
}

func (w *walk) down(top site.PageID, visit func(Facts)) {
	if top == 0 {
		top = w.site.Home()
	}
	var above *Facts
	path := w.site.Path(top)
	if len(path) == 0 || !w.site.InTree(top) {
		return
	}
	for _, p := range path[:len(path)-1] {
		f := w.below(above, p)
		above = &f
	}
	w.branch(above, path[len(path)-1], visit)
}

func (w *walk) branch(above *Facts, p *site.Page, visit func(Facts)) {
	f := w.below(above, p)
	visit(f)
	for _, kid := range w.site.Children(p.ID) {
		w.branch(&f, w.site.Page(kid), visit)
	}
}

// Find gives the pages that a query is about, in the tree's order.
func Find(s *site.Site, q Query, lens reach.Lens) []site.PageID {
	w := walkOf(s, q, lens)
	is := w.answer(q.Question)
	has := Words(q.Words, q.Reads)
	var found []site.PageID
	w.down(q.Within, func(f Facts) {
		if is(w, f) && has(f.Page) && (q.Topic == 0 || topic.IsAbout(s, f.Page.ID, q.Topic)) {
			found = append(found, f.Page.ID)
		}
	})
	return found
}

// Counts gives the number of pages of each shape in a branch.
func Counts(s *site.Site, top site.PageID, lens reach.Lens) map[Shape]int {
	counts := map[Shape]int{}
	Walk(s, top, lens, func(f Facts) { counts[f.Shape]++ })
	return counts
}

// An Edge is a moment at which pages come or go.
type Edge struct {
	At                time.Time
	Appear, Vanish    int
	Appears, Vanishes *site.Page // the first of each, to name
}

// Edges gives the next moments after a lens's at which its visitor gains or loses pages by their windows, at most
// limit.
func Edges(s *site.Site, lens reach.Lens, limit int) []Edge {
	type begins struct {
		at   time.Time
		page site.PageID
	}
	var all []begins
	for _, id := range s.Windowed() {
		p := s.Page(id)
		for _, at := range []time.Time{p.LiveFrom, p.LiveUntil} {
			if at.After(lens.At) && s.InTree(id) {
				all = append(all, begins{at, id})
			}
		}
	}
	slices.SortFunc(all, func(a, b begins) int { return a.at.Compare(b.at) })
	var edges []Edge
	for len(all) > 0 && len(edges) < limit {
		edge := Edge{At: all[0].at}
		panel := reach.NewPanel(
			reach.Lens{Visitor: lens.Visitor, At: edge.At.Add(-time.Nanosecond)},
			reach.Lens{Visitor: lens.Visitor, At: edge.At},
		)
		for ; len(all) > 0 && all[0].at.Equal(edge.At); all = all[1:] {
			if p := s.Page(all[0].page); !hasEdgeAbove(s, p, edge.At) {
				edge.count(s, panel, p, panel.At(s, p.ID))
			}
		}
		if edge.Appear+edge.Vanish > 0 {
			edges = append(edges, edge)
		}
	}
	return edges
}

// hasEdgeAbove says whether a page lies below another one with an edge at the same moment, which counts it.
func hasEdgeAbove(s *site.Site, p *site.Page, at time.Time) bool {
	for above := s.Page(p.Parent); above != nil; above = s.Page(above.Parent) {
		if above.LiveFrom.Equal(at) || above.LiveUntil.Equal(at) {
			return true
		}
	}
	return false
}

func (e *Edge) count(s *site.Site, panel *reach.Panel, p *site.Page, state reach.State) {
	switch reached := state.Reachable(); {
	case reached == 0b10:
		if e.Appear++; e.Appears == nil {
			e.Appears = p
		}
	case reached == 0b01:
		if e.Vanish++; e.Vanishes == nil {
			e.Vanishes = p
		}
	}
	for _, kid := range s.Children(p.ID) {
		below := s.Page(kid)
		e.count(s, panel, below, panel.Below(state, below))
	}
}
