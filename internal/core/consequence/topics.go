package consequence

import (
	"maps"
	"slices"

	"vineladder/internal/core/listing"
	"vineladder/internal/core/look"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	topics "vineladder/internal/core/topic"
)

// gathered is what a page shows of topics in one Site, with who reaches what it names.
type gathered struct {
	site  *site.Site
	page  site.PageID
	all   topics.Gathering
	reach map[site.PageID]reach.Mask
	hits  []string // what each page that it gathers reads, whoever looks
}

// gathered looks at a page. Of what a topic gathers only that counts of which anything was touched: a topic can have
// all pages of a site.
func (c *comparison) gathered(s *site.Site, id site.PageID) gathered {
	g := gathered{site: s, page: id, all: topics.Of(s, id), reach: map[site.PageID]reach.Mask{}}
	if !c.resorted() {
		g.all.Pages = slices.DeleteFunc(g.all.Pages, func(id site.PageID) bool { return !c.listed()[id] })
	}
	for _, named := range g.all.Named() {
		g.reach[named] = c.panel.At(s, named).Reachable()
	}
	c.work += len(g.reach)
	if len(g.all.Pages) > 0 {
		s.SortByHeading(g.all.Pages)
		g.hits = look.Topics{Pages: look.TopicsOf(s, id, topics.Gathering{Pages: g.all.Pages}).Pages}.Words()
		for i, hit := range g.all.Pages {
			g.hits[i] += c.since(s, hit)
		}
	}
	return g
}

// masks says which lenses reach what; those that agree on all of it get the same.
func (g gathered) masks() []reach.Mask {
	masks := map[reach.Mask]bool{}
	for _, m := range g.reach {
		masks[m] = true
	}
	return slices.Sorted(maps.Keys(masks))
}

// gatheredWords says what a lens gets, the pages that a topic gathers apart: of these only those are known that were
// touched, so none of them is the place of another.
func (c *comparison) gatheredWords(g gathered, lens int) (words, hits []string) {
	reached := func(id site.PageID) bool { return g.reach[id].Has(lens) }
	left := topics.Gathering{Bears: g.all.Bears, Narrower: g.all.Narrower}.To(g.site, reached)
	all := look.TopicsOf(g.site, g.page, left)
	for i, id := range g.all.Pages {
		if reached(id) {
			hits = append(hits, g.hits[i])
		}
	}
	return look.Topics{Bears: all.Bears, Narrower: all.Narrower}.Words(), hits
}

// resorted says whether what is sorted by its words can stand otherwise.
func (c *comparison) resorted() bool { return c.Was.Settings().Language != c.Is.Settings().Language }

// listed gives the pages whose lines in lists of topics can come, go or read otherwise.
func (c *comparison) listed() map[site.PageID]bool {
	if c.lines != nil {
		return c.lines
	}
	c.lines = map[site.PageID]bool{}
	for _, change := range c.changes {
		c.lines[subject(change)] = true
	}
	for id := range c.relinked {
		c.lines[id] = true
	}
	for _, id := range c.relit() {
		c.lines[id] = true
	}
	for _, pair := range c.standInsOf() {
		c.lines[pair[0]], c.lines[pair[1]] = true, true
	}
	return c.lines
}

// standInsOf gives the pages that stand in for others, before and after.
func (c *comparison) standInsOf() [][2]site.PageID {
	was, is := c.Was.Settings(), c.Is.Settings()
	return [][2]site.PageID{
		{was.NotFound, is.NotFound}, {was.NoAccess, is.NoAccess}, {was.SignIn, is.SignIn}, {was.Shut, is.Shut},
	}
}

// gatherings gives the pages that can show other topics than before, or other pages for them: those that bear other
// topics, and those that name a page which is called otherwise, stands elsewhere or is reached by others.
func (c *comparison) gatherings() []site.PageID {
	found := map[site.PageID]bool{}
	if c.layouts || c.whole {
		c.everyGathering(found)
	}
	for _, id := range c.shutPages() {
		found[id] = true
	}
	for _, change := range c.changes {
		a, b := change.Was, change.Is
		if a != nil && b != nil && !slices.Equal(a.Topics, b.Topics) {
			found[b.ID] = true
			c.retagged(a, b, found)
		}
		differs := a == nil || b == nil || change.placed || change.ordered || a.Sort != b.Sort ||
			a.MergedInto != b.MergedInto || a.Title != b.Title || a.Summary != b.Summary
		if differs {
			c.namedBy(subject(change), found)
		}
	}
	for id := range c.relinked {
		c.namedBy(id, found)
	}
	for _, pair := range c.standInsOf() {
		if pair[0] != pair[1] {
			c.namedBy(pair[0], found)
			c.namedBy(pair[1], found)
		}
	}
	return sortedIDs(found)
}

// retagged adds the topics that come to gather a page, or cease to.
func (c *comparison) retagged(a, b *site.Page, found map[site.PageID]bool) {
	gather := func(s *site.Site, p *site.Page) map[site.PageID]bool {
		all := map[site.PageID]bool{}
		for _, id := range s.TopicsOf(p) {
			for _, broader := range topics.Broader(s, id) {
				all[broader] = true
			}
		}
		return all
	}
	was, is := gather(c.Was, a), gather(c.Is, b)
	for _, sides := range [][2]map[site.PageID]bool{{was, is}, {is, was}} {
		for id := range sides[0] {
			if !sides[1][id] {
				found[id] = true
			}
		}
	}
}

// namedBy adds a page and those that name it because of topics, before or after.
func (c *comparison) namedBy(id site.PageID, found map[site.PageID]bool) {
	for _, s := range []*site.Site{c.Was, c.Is} {
		p := s.Page(id)
		if p == nil {
			continue
		}
		for _, borne := range p.Topics {
			for _, broader := range topics.Broader(s, s.TopicOf(borne)) {
				found[broader] = true
			}
		}
		if !p.Gathers() {
			continue
		}
		found[id], found[p.Parent] = true, true
		for _, broader := range append(topics.Broader(s, id), topics.Broader(s, s.TopicOf(id))...) {
			found[broader] = true
		}
		for _, page := range topics.Bearing(s, id) {
			found[page] = true
		}
	}
}

// everyGathering adds all pages that show something of topics.
func (c *comparison) everyGathering(found map[site.PageID]bool) {
	for _, s := range []*site.Site{c.Was, c.Is} {
		for _, list := range s.TopicLists() {
			c.namedBy(list, found)
			s.Walk(list, func(p *site.Page) bool { found[p.ID] = true; return true })
		}
	}
}

// relit gives the pages on which other lines of a menu can be lit because of topics or lists: those that bear others or
// are on others, and those that bear one, or are on one, which stands elsewhere, or comes or goes.
func (c *comparison) relit() []site.PageID {
	if c.lit != nil {
		return c.lit
	}
	c.lit = c.relistedOnto()
	if len(c.Was.TopicLists())+len(c.Is.TopicLists()) > 0 {
		for _, change := range c.changes {
			a, b := change.Was, change.Is
			if a != nil && b != nil && !slices.Equal(a.Topics, b.Topics) {
				c.lit = append(c.lit, b.ID)
			}
			if a == nil || b == nil || change.placed || change.ordered || a.Sort != b.Sort || a.MergedInto != b.MergedInto {
				c.lit = append(c.lit, c.bearersWithin(subject(change))...)
			}
		}
	}
	slices.Sort(c.lit)
	c.lit = slices.Compact(c.lit)
	return c.lit
}

// relistedOnto gives the pages that come onto a list of a page or go from it, and those on one that stands elsewhere,
// or comes or goes.
func (c *comparison) relistedOnto() []site.PageID {
	pages := []site.PageID{}
	if c.furnishes() {
		return pages
	}
	moved := map[site.PageID]bool{}
	for _, change := range c.changes {
		if change.Was == nil || change.Is == nil || change.placed || change.ordered || change.Was.Sort != change.Is.Sort {
			moved[subject(change)] = true
		}
	}
	listers := slices.Concat(c.Was.Listers(), c.Is.Listers())
	slices.Sort(listers)
	for _, id := range slices.Compact(listers) {
		was, is := c.listedBy(c.Was, id), c.listedBy(c.Is, id)
		if c.Was.Settings() != c.Is.Settings() || c.standsBelow(id, moved) {
			pages = append(append(pages, was...), is...)
			continue
		}
		pages = append(pages, apart(was, is)...)
	}
	return pages
}

// listedBy gives all that a page lists in one Site, whoever looks.
func (c *comparison) listedBy(s *site.Site, id site.PageID) []site.PageID {
	q, lists := listing.Of(s, id)
	if !lists {
		return nil
	}
	return c.asked(s, q)
}

// standsBelow says whether a page, or one above it, is one of some pages.
func (c *comparison) standsBelow(id site.PageID, pages map[site.PageID]bool) bool {
	for _, s := range []*site.Site{c.Was, c.Is} {
		for p := s.Page(id); p != nil; p = s.Page(p.Parent) {
			if pages[p.ID] {
				return true
			}
		}
	}
	return false
}

// apart gives the pages that are on one of two lists only.
func apart(a, b []site.PageID) []site.PageID {
	on := map[site.PageID]int{}
	for _, id := range a {
		on[id]++
	}
	for _, id := range b {
		on[id]--
	}
	maps.DeleteFunc(on, func(_ site.PageID, n int) bool { return n == 0 })
	return slices.Collect(maps.Keys(on))
}

// bearersWithin gives the pages that bear a topic in a branch, before or after.
func (c *comparison) bearersWithin(top site.PageID) []site.PageID {
	return slices.Concat(topics.BearersWithin(c.Was, top), topics.BearersWithin(c.Is, top))
}

// topics collects the edges of the topics that touched pages bear, and of the pages that bear touched topics.
func (g *gathering) topics(s *site.Site, near map[site.PageID]bool) {
	add := func(id site.PageID) {
		for p := s.Page(id); p != nil; p = s.Page(p.Parent) {
			g.add(p.LiveFrom, p.LiveUntil)
		}
	}
	for id := range near {
		if p := s.Page(id); p != nil {
			for _, borne := range p.Topics {
				add(borne)
			}
		}
		for _, page := range topics.BearersWithin(s, id) {
			add(page)
		}
	}
}
