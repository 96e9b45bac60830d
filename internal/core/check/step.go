package check

import (
	"maps"
	"reflect"
	"slices"

	"vineladder/internal/core/care"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/site"
)

// After gives what is wrong once a Site has become another, looking only at what the difference touches. What the
// checks of the whole site found stays as it was until WithFar asks them again, and Far says so.
func (f *Found) After(l *Look) *Step {
	made := &Step{before: f, after: &Found{look: l, near: map[subject][]Problem{}}}
	t := touch{was: f.look.Site, is: l.Site, look: l, known: f.look.Care, pages: map[site.PageID]bool{}}
	t.all()
	if made.whole = t.whole; t.whole {
		made.after = Find(l)
		return made
	}
	made.looked = map[subject]bool{}
	for id := range t.pages {
		made.looked[pageSubject(id)], made.looked[childrenSubject(id)] = true, true
		if p := l.Site.Page(id); p != nil && l.Site.InTree(id) {
			made.after.file(pageSubject(id), l.page(p, l.standing(id)))
			made.after.file(childrenSubject(id), l.children(p))
		}
	}
	for _, s := range []*site.Site{t.was, t.is} {
		for i := range s.Menus() {
			made.looked[subject{on: site.MenuThing(s.Menus()[i].ID)}] = true
		}
		for i := range s.Blocks() {
			made.looked[subject{on: blockThing(s.Blocks()[i].ID)}] = true
		}
	}
	made.after.furniture()
	return made
}

// A Step is what is wrong after edits, as what it was before and what was looked at again. It is immutable.
type Step struct {
	before, after *Found
	looked        map[subject]bool // nil: everything was
	whole         bool
}

// All gives every problem after the step. The checks of the whole site have not been asked again.
func (s *Step) All() []Problem {
	all := s.after.All()
	if !s.whole {
		for at, problems := range s.before.near {
			if !s.looked[at] {
				all = append(all, problems...)
			}
		}
	}
	if !s.after.Far {
		all = append(all, s.before.far...)
	}
	slices.SortFunc(all, compare)
	return all
}

// Found gives the same as it would be found from nothing.
func (s *Step) Found() *Found {
	if s.whole {
		return s.after
	}
	made := &Found{look: s.after.look, near: maps.Clone(s.before.near), far: s.before.far}
	for at := range s.looked {
		delete(made.near, at)
	}
	maps.Copy(made.near, s.after.near)
	if s.after.Far {
		made.far, made.Far = s.after.far, true
	}
	return made
}

// WithFar asks the checks of the whole site again; it is meant for the background.
func (s *Step) WithFar() *Step {
	made := *s
	made.after = s.after.WithFar()
	return &made
}

// On says whether the step goes from there.
func (s *Step) On(before *Found) bool { return s.before == before }

// Far says whether the checks of the whole site were asked since the step.
func (s *Step) Far() bool { return s.after.Far }

// New and Mended give the problems that came and went with the step, of what is looked at near.
func (s *Step) New() []Problem { return without(s.after.near, s.before.near, nil) }

func (s *Step) Mended() []Problem { return without(s.before.near, s.after.near, s.looked) }

// without gives the problems of one that are not in another; of those looked at, nil for all. What is the same problem
// in other words has stayed.
func without(some, others map[subject][]Problem, looked map[subject]bool) (rest []Problem) {
	for at, problems := range some {
		if looked != nil && !looked[at] {
			continue
		}
		for _, p := range problems {
			same := func(o Problem) bool { return o.Check == p.Check && o.On == p.On && o.Value == p.Value }
			if !slices.ContainsFunc(others[at], same) {
				rest = append(rest, p)
			}
		}
	}
	slices.SortFunc(rest, compare)
	return rest
}

// A touch finds the pages of which something can be wrong now that was not before, or no more.
type touch struct {
	was, is *site.Site
	look    *Look
	known   *care.Known // before
	pages   map[site.PageID]bool
	whole   bool // all of them
}

func (t *touch) all() {
	t.whole = t.known != t.look.Care || t.was.Settings() != t.is.Settings() ||
		!slices.Equal(t.was.Kinds(), t.is.Kinds()) ||
		!slices.Equal(t.was.AllDetails(), t.is.AllDetails()) || !reflect.DeepEqual(t.was.Roles(), t.is.Roles()) ||
		t.was.Theme() != t.is.Theme() ||
		menusOf(t.was).children != t.look.menus.children
	if t.whole {
		return
	}
	for _, change := range site.Changes(t.was, t.is) {
		t.change(change)
	}
	t.menus()
	t.blocks()
}

// topic takes in the pages that are about a topic: they may be about nothing now. Of a list, all that its type asks
// for a topic of it lacks one or does no more.
func (t *touch) topic(s *site.Site, p *site.Page) {
	t.whole = t.whole || p.IsTopicList()
	if !p.IsTopic() {
		return
	}
	t.many(s.Bearing(p.ID))
	for _, merged := range s.MergedInto(p.ID) {
		t.many(s.Bearing(merged))
	}
}

// change takes in a page that differs, with all to which it is something.
func (t *touch) change(c site.Change) {
	for side, p := range []*site.Page{c.Was, c.Is} {
		if p == nil {
			continue
		}
		s := []*site.Site{t.was, t.is}[side]
		t.pages[p.ID], t.pages[p.Parent] = true, true
		t.many(s.LinksOf(p))
		t.topic(s, p)
		t.lists(s, p)
		if p.Binned || p.LeadsTo != 0 {
			t.pages[p.LeadsTo] = true
		}
	}
	if c.Was == nil || c.Is == nil || reaches(c.Was) != reaches(c.Is) || c.Was.Label != c.Is.Label {
		t.branch(t.was, c.Was)
		t.branch(t.is, c.Is)
	}
}

// A passing is what a page passes on to those below it, and says to those that link to it.
type passing struct {
	parent         site.PageID
	listed, binned bool
	purged         bool
	status         site.Status
	audience       site.Audience
	from, until    int64
	kind           string
	merged         site.PageID
	owner          site.Owner
	review         site.ReviewEvery
}

func reaches(p *site.Page) passing {
	return passing{
		p.Parent, p.Listed, p.Binned, p.Purged, p.Status, p.Audience, p.LiveFrom.UnixNano(), p.LiveUntil.UnixNano(), p.Kind,
		p.MergedInto, p.Owner, p.Review,
	}
}

// branch takes in a page, all below it, what links there and what is linked from there.
func (t *touch) branch(s *site.Site, top *site.Page) {
	if top == nil {
		return
	}
	s.Walk(top.ID, func(p *site.Page) bool {
		t.pages[p.ID] = true
		t.many(s.Linking(p.ID))
		t.many(s.LinksOf(p))
		t.topic(s, p)
		if p.Listing != "" {
			t.lists(s, p)
		}
		return true
	})
}

func (t *touch) many(pages []site.PageID) {
	for _, id := range pages {
		t.pages[id] = true
	}
}

// lists takes in what a page lists: it is found through that.
func (t *touch) lists(s *site.Site, p *site.Page) {
	if q, lists := listing.Of(s, p.ID); lists {
		t.many(listing.Candidates(s, q))
	}
}

// menus takes in the pages to which items lead that are not the same in both.
func (t *touch) menus() {
	was, is := menusOf(t.was), t.look.menus
	for _, sides := range [][2]*inMenus{{was, is}, {is, was}} {
		for id := range sides[0].shown {
			if !sides[1].shown[id] {
				t.pages[id] = true
			}
		}
		for id := range sides[0].linked {
			if !sides[1].linked[id] {
				t.pages[id] = true
			}
		}
		for id, depth := range sides[0].runs {
			if sides[1].runs[id] != depth {
				t.branch(t.was, t.was.Page(id))
				t.branch(t.is, t.is.Page(id))
			}
		}
	}
	for _, s := range []*site.Site{t.was, t.is} { // a file is used by items that are off, too
		other := map[bool]*site.Site{true: t.is, false: t.was}[s == t.was]
		for i := range s.Menus() {
			for k := range s.Menus()[i].Entries {
				e := &s.Menus()[i].Entries[k]
				if twin := entryOf(other, s.Menus()[i].ID, e.ID); e.Target() != 0 &&
					(twin == nil || twin.Target() != e.Target()) {
					t.pages[e.Target()] = true
				}
			}
		}
	}
}

func entryOf(s *site.Site, menu site.MenuID, id site.EntryID) *site.Entry {
	if m := s.Menu(menu); m != nil {
		return m.Entry(id)
	}
	return nil
}

// blocks takes in what blocks show that are not the same in both.
func (t *touch) blocks() {
	for _, sides := range [][2]*site.Site{{t.was, t.is}, {t.is, t.was}} {
		for i := range sides[0].Blocks() {
			b := &sides[0].Blocks()[i]
			other := sides[1].Block(b.ID)
			if other != nil && *other == *b &&
				(len(sides[0].PlacementsOf(b.ID)) > 0) == (len(sides[1].PlacementsOf(b.ID)) > 0) {
				continue
			}
			switch shows := b.Shows.(type) {
			case site.BlockListing:
				if q, lists := listing.OfBlock(sides[0], b); lists {
					t.many(listing.Candidates(sides[0], q))
				}
			case site.BlockImage:
				if id, is := site.ReadFileRef(shows.File); is {
					t.pages[id] = true
				}
			}
		}
	}
}
