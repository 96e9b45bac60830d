package check

import (
	"cmp"
	"maps"
	"slices"
	"time"

	"vineladder/internal/core/site"
)

// Found is what is wrong with one Site. It is filed by what was looked at, so that it can be kept in step with edits
// at the cost of what they touch. It is immutable.
type Found struct {
	look *Look
	near map[subject][]Problem // by what was looked at
	far  []Problem             // of the whole site; as it was when Far was set
	Far  bool                  // the checks of the whole site were asked
}

// A subject is what was looked at: a page by itself, the children of a page, a menu or a block.
type subject struct {
	on       site.Thing
	children bool
}

func pageSubject(id site.PageID) subject {
	return subject{on: site.Thing{Family: site.FamilyPage, ID: int64(id)}}
}
func childrenSubject(id site.PageID) subject { return subject{pageSubject(id).on, true} }

// Find looks at everything near: pages, runs of children, menus and blocks. It costs a walk over the site.
func Find(l *Look) *Found {
	f := &Found{look: l, near: map[subject][]Problem{}}
	l.Walk(func(p *site.Page, at Standing) {
		f.file(pageSubject(p.ID), l.page(p, at))
		f.file(childrenSubject(p.ID), l.children(p))
	})
	f.furniture()
	return f
}

// furniture looks at all menus and blocks.
func (f *Found) furniture() {
	l := f.look
	for i := range l.Site.Menus() {
		m := &l.Site.Menus()[i]
		f.file(subject{on: site.MenuThing(m.ID)}, l.each(site.MenuThing(m.ID), func(c *Check, tell Tell) bool {
			if c.Menu != nil {
				c.Menu(l, m, tell)
			}
			return c.Menu != nil
		}))
	}
	for i := range l.Site.Blocks() {
		b := &l.Site.Blocks()[i]
		f.file(subject{on: blockThing(b.ID)}, l.each(blockThing(b.ID), func(c *Check, tell Tell) bool {
			if c.Block != nil {
				c.Block(l, b, tell)
			}
			return c.Block != nil
		}))
	}
}

func (f *Found) file(at subject, found []Problem) {
	if len(found) > 0 {
		f.near[at] = found
	}
}

// each asks every check that looks at a sort of thing.
func (l *Look) each(on site.Thing, ask func(*Check, Tell) bool) (found []Problem) {
	found = do(allOf, on, func(c *Check, tell Tell) { ask(c, tell) })
	slices.SortFunc(found, compare)
	return found
}

func compare(a, b Problem) int {
	return cmp.Or(
		cmp.Compare(rank(a.Check), rank(b.Check)),
		cmp.Compare(a.Page, b.Page),
		cmp.Compare(a.On.ID, b.On.ID),
		cmp.Compare(a.Value, b.Value),
		cmp.Compare(a.Says, b.Says),
	)
}

func rank(key string) int {
	return slices.IndexFunc(checks, func(c Check) bool { return c.Key == key })
}

// page asks the checks that look at one page. Most pages have no problem, so nothing is made for those.
func (l *Look) page(p *site.Page, at Standing) (found []Problem) {
	return do(ofPages, site.PageThing(p.ID), func(c *Check, tell Tell) { c.Page(l, p, at, tell) })
}

func (l *Look) children(p *site.Page) (found []Problem) {
	if len(l.Site.Children(p.ID)) < 2 {
		return nil
	}
	found = do(ofChildren, site.PageThing(p.ID), func(c *Check, tell Tell) { c.Children(l, p, tell) })
	slices.SortFunc(found, compare)
	return found
}

// allOf are all checks; ofPages and ofChildren those that look at every page, ofSite those that look at all at once.
var allOf, ofPages, ofChildren, ofSite = looking()

func looking() (all, pages, children, whole []*Check) {
	for i := range checks {
		c := &checks[i]
		all = append(all, c)
		switch {
		case c.Page != nil:
			pages = append(pages, c)
		case c.Children != nil:
			children = append(children, c)
		case c.Site != nil:
			whole = append(whole, c)
		}
	}
	return all, pages, children, whole
}

// Walk visits every page of the tree with what it has from above.
func (l *Look) Walk(visit func(*site.Page, Standing)) {
	reader := site.NewReader(l.Site)
	var below func(id site.PageID, at Standing)
	below = func(id site.PageID, at Standing) {
		p := reader.Page(id)
		visit(p, at)
		if kids := reader.Children(id); len(kids) > 0 {
			at = l.below(at, p)
			for _, kid := range kids {
				below(kid, at)
			}
		}
	}
	if home := l.Site.Home(); home != 0 {
		below(home, Standing{})
	}
}

// WithFar gives the same with what the checks of the whole site find, each in its own time: it is meant for the
// background.
func (f *Found) WithFar() *Found {
	made, own := *f, NewLook(f.look.Site, f.look.At, f.look.Origin).With(f.look.Besides) // a Look is for one goroutine
	made.Far = true
	made.far = do(ofSite, site.SiteThing, func(c *Check, tell Tell) { c.Site(own, tell) })
	slices.SortFunc(made.far, compare)
	return &made
}

// Site and At are what was looked at, and when.
func (f *Found) Site() *site.Site { return f.look.Site }

func (f *Found) At() time.Time { return f.look.At }

// Besides is what was known besides the site.
func (f *Found) Besides() Besides { return f.look.Besides }

// All gives every problem: by check, the heaviest first, and then in the order of the pages' numbers.
func (f *Found) All() []Problem {
	all := slices.Concat(append(slices.Collect(maps.Values(f.near)), f.far)...)
	slices.SortFunc(all, compare)
	return all
}
