package consequence

import (
	"reflect"
	"slices"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// Texts gives kept texts by their hashes, as far as they are at hand; a text that is not is told by its hash.
type Texts map[string]string

// Needs gives the hashes of the texts that a comparison reads: of pages and blocks of which they differ.
func Needs(was, is *site.Site) []string {
	var hashes []string
	need := func(hash string) {
		if hash != "" && !slices.Contains(hashes, hash) {
			hashes = append(hashes, hash)
		}
	}
	for _, change := range site.Changes(was, is) {
		if a, b := change.Was, change.Is; a != nil && b != nil && (a.Text != b.Text || a.Values != b.Values) {
			for _, hash := range slices.Concat([]string{a.Text, b.Text}, richOf(was, a), richOf(is, b)) {
				need(hash)
			}
		}
	}
	for _, s := range []*site.Site{was, is} {
		for _, b := range s.Blocks() {
			if shows, isText := b.Shows.(site.BlockText); isText {
				need(shows.Text)
			}
		}
	}
	return hashes
}

// workLimit bounds the pages and lines that are looked at for moments to come. The report says from when it has not
// looked.
const workLimit = 100_000

// Compare computes the difference. Both Sites are seen by the same viewers.
func Compare(was, is *site.Site, viewers Viewers, texts Texts) *Report {
	return compare(was, is, viewers, texts, false)
}

// CompareWhole computes the same by looking for every block at every page. It is what Compare is held against: finding
// out where something can differ must not lose anything.
func CompareWhole(was, is *site.Site, viewers Viewers, texts Texts) *Report {
	return compare(was, is, viewers, texts, true)
}

func compare(was, is *site.Site, viewers Viewers, texts Texts, whole bool) *Report {
	r := &Report{
		Was:       was,
		Is:        is,
		Viewers:   viewers,
		facts:     newLedger(),
		panels:    map[int]*reach.Panel{},
		questions: map[askedKey][]site.PageID{},
		seers:     map[site.PageID]timeline{},
	}
	t := touchedBy(was, is)
	t.whole = whole
	r.Edited = t.edited
	if t.edited == 0 {
		r.Moments = r.now()
		return r
	}
	moments, more := r.edges(t)
	r.Moments = append(r.now(), moments...)
	work := 0
	for at := 0; at < len(r.Moments); at += r.perPass() {
		if at > 0 && work > workLimit {
			r.Moments, more = r.Moments[:at], r.Moments[at]
			break
		}
		c := newComparison(r, t, texts, r.Moments[at:min(at+r.perPass(), len(r.Moments))])
		c.run()
		work += c.work
		r.facts.pass++
	}
	r.Unlooked = more
	return r
}

// A touch is what an edit changed, as far as no viewer decides it.
type touch struct {
	changes []pageChange
	tops    map[site.PageID]bool // of branches in which what stands above may count
	edited  int
	layouts bool // layouts come from elsewhere than from pages
	whole   bool // every page is looked at

	detailed []site.PageID // pages that can show other facts though nothing of them was touched
}

func touchedBy(was, is *site.Site) *touch {
	t := &touch{changes: changesOfPages(was, is), tops: map[site.PageID]bool{}}
	t.edited = len(t.changes)
	for _, same := range []bool{
		reflect.DeepEqual(was.Menus(), is.Menus()), reflect.DeepEqual(was.Blocks(), is.Blocks()),
		reflect.DeepEqual(was.Placements(), is.Placements()),
		reflect.DeepEqual(was.ConditionSets(), is.ConditionSets()), was.Settings() == is.Settings(),
		slices.Equal(was.Kinds(), is.Kinds()), slices.Equal(was.AllDetails(), is.AllDetails()),
	} {
		if !same {
			t.edited++
		}
	}
	t.edited += rolesEdited(was, is)
	t.layouts = was.Settings().Layout != is.Settings().Layout || was.Settings().Language != is.Settings().Language ||
		!slices.Equal(was.Kinds(), is.Kinds()) || was.Theme() != is.Theme()
	t.detailed = append(detailed(was, is), t.keptOut(was, is)...)
	for _, change := range t.changes {
		if branchDiffers(change) {
			t.tops[subject(change)] = true
		}
	}
	return t
}

// keptOut gives the pages that come to be kept out of search engines, or cease to be.
func (t *touch) keptOut(was, is *site.Site) []site.PageID {
	var pages []site.PageID
	for _, change := range t.changes {
		a, b := change.Was, change.Is
		if a == nil || b == nil || a.KeptOut == b.KeptOut && a.Parent == b.Parent || !is.InTree(b.ID) {
			continue
		}
		is.Walk(b.ID, func(p *site.Page) bool {
			if was.InTree(p.ID) && reach.KeptOut(was, p.ID) != reach.KeptOut(is, p.ID) {
				pages = append(pages, p.ID)
			}
			return true
		})
	}
	return pages
}

// A pageChange is one of a page, with what it can come to. That is asked again and again, so it is found once.
type pageChange struct {
	site.Change
	placed  bool // it can have another address, or be for others, than before
	ordered bool // it is called otherwise, or can stand elsewhere among its siblings
	laid    bool // it, or pages below it, can have another layout, or other conditions hold for it
}

func changesOfPages(was, is *site.Site) []pageChange {
	plain := site.Changes(was, is)
	all := make([]pageChange, len(plain))
	for i, c := range plain {
		all[i] = pageChange{Change: c, placed: true}
		if a, b := c.Was, c.Is; a != nil && b != nil {
			all[i].placed = a.Parent != b.Parent || a.Binned != b.Binned || edit.Differ(a, b, edit.Placing)
			all[i].ordered = a.Rank != b.Rank || !a.FirstOnline.Equal(b.FirstOnline) || edit.Differ(a, b, edit.Ordering)
			all[i].laid = edit.Differ(a, b, edit.Laying)
		}
	}
	return all
}

func subject(c pageChange) site.PageID {
	if c.Is != nil {
		return c.Is.ID
	}
	return c.Was.ID
}

// branchDiffers says whether a change of a page can change what is said of anything below it.
func branchDiffers(c pageChange) bool { return c.placed || c.Was.Label != c.Is.Label }

// A comparison is one pass: both Sites for all viewers at a few moments.
type comparison struct {
	*Report
	*touch
	texts  Texts
	panel  *reach.Panel
	open   reach.Mask // lenses to which the site is open afterwards
	signed reach.Mask // lenses that are signed in
	work   int        // pages looked at

	shares   map[site.BlockID]bool      // blocks that compete for the name of a landmark
	relinked map[site.PageID]bool       // pages to which links render otherwise
	told     map[site.PageID]reach.Mask // pages of which it is said that they answer otherwise, and to whom
	lit      []site.PageID              // what relit found; nil: it was not asked
	lists    []site.PageID              // what relisted found; nil: it was not asked
	lines    map[site.PageID]bool       // what listed found
	vacant   string                     // below this address nothing but what left it stands now
	fresh    string                     // below this address nothing ever stood
}

func newComparison(r *Report, t *touch, texts Texts, moments []momentOf) *comparison {
	c := &comparison{
		Report: r, touch: t, texts: texts, panel: r.panelAt(moments), relinked: map[site.PageID]bool{},
		told: map[site.PageID]reach.Mask{},
	}
	for i, lens := range c.panel.Lenses() {
		if !grant.ClosedTo(r.Is, lens.Roles) {
			c.open |= 1 << i
		}
		if lens.SignedIn {
			c.signed |= 1 << i
		}
	}
	return c
}

func (c *comparison) run() {
	for _, change := range c.changes {
		if id := subject(change); c.tops[id] {
			c.branch(id)
		}
	}
	c.shorts()
	c.binned()
	c.words()
	c.pageLayouts()
	c.blocks()
	c.programs()
	c.instead()
}

// A standing is how a page stands in one of the two Sites.
type standing struct {
	there   bool
	state   reach.State
	address string
}

// branch compares a page and all below it that has the same place in both Sites; pages that have not are tops
// themselves.
func (c *comparison) branch(id site.PageID) {
	was, is := c.stand(c.Was, id), c.stand(c.Is, id)
	var h handed
	if was.there && is.there {
		h.ways = c.waysTo(id, c.panel.All(), nil)
	}
	c.compare(id, was, is, h)
}

// stand computes a page's standing from the top of the tree.
func (c *comparison) stand(s *site.Site, id site.PageID) standing {
	if !s.InTree(id) {
		return standing{}
	}
	return standing{true, c.panel.At(s, id), addressOf(s, id)}
}

func (c *comparison) compare(id site.PageID, was, is standing, h handed) {
	c.work++
	c.outcome(id, was, is)
	if p := c.Is.Page(id); was.there && is.there && p.Parent != 0 && !p.IsFile() {
		seen := was.state.Reachable() & is.state.Reachable() & c.open
		h = c.read(id, h, seen)
		for i := range h.ways {
			if m := h.ways[i].lenses & seen; m != 0 {
				h.ways[i].fact.marks = append(h.ways[i].fact.marks, mark{lot{item: item{page: id}}, c.facts.pass, m})
			}
		}
	}
	if was == is && h.none() {
		return
	}
	c.below(id, was, is, h)
}

// below goes down to the children that have not moved.
func (c *comparison) below(id site.PageID, was, is standing, h handed) {
	kids := c.Is.Children(id)
	if !is.there {
		kids = c.Was.Children(id)
	}
	for _, kid := range kids {
		if c.tops[kid] {
			continue // compared on its own account
		}
		var before, after standing
		if was.there {
			before = c.child(was, c.Was.Page(kid))
		}
		if is.there {
			after = c.child(is, c.Is.Page(kid))
		}
		c.compare(kid, before, after, c.waysBelow(kid, before, after, h))
	}
}

func (c *comparison) child(parent standing, p *site.Page) standing {
	return standing{true, c.panel.Below(parent.state, p), underOrOwn(parent.address, p)}
}
