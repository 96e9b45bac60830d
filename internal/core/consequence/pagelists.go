package consequence

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"vineladder/internal/core/detail"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/look"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// pageList is what a page lists below its text in one Site, with who gets what of it.
type pageList struct {
	c    *comparison
	site *site.Site
	q    site.BlockListing
	*candidates
}

// pageList looks at a page; ok is false where it lists nothing.
func (c *comparison) pageList(s *site.Site, id site.PageID) (l pageList, ok bool) {
	q, lists := listing.Of(s, id)
	if !lists {
		return pageList{}, false
	}
	l = pageList{c, s, q, c.candidates(s, q)}
	l.pages = slices.DeleteFunc(l.pages, func(hit site.PageID) bool { return hit == id })
	return l, true
}

// masks says which lenses get what; those that agree on all of it get the same.
func (l pageList) masks() []reach.Mask {
	masks := map[reach.Mask]bool{}
	for _, id := range l.narrowingTopics() {
		masks[l.c.panel.At(l.site, id).Reachable()] = true
	}
	for _, id := range l.pages {
		masks[l.reach[id]] = true
		for _, to := range inRow(l.site, id) {
			masks[l.c.panel.At(l.site, to).Reachable()] = true
		}
	}
	return slices.Sorted(maps.Keys(masks))
}

// words says what a lens gets, with where the pages of the list begin.
func (l pageList) words(lens int) []string {
	hits := slices.DeleteFunc(slices.Clone(l.pages), func(id site.PageID) bool { return !l.reach[id].Has(lens) })
	if len(hits) == 0 {
		return []string{"lists nothing"}
	}
	var made look.Look
	l.c.fillListing(&made, l.site, l.q, hits, lens)
	var words []string
	if made.Table {
		words = append(words, "as a table")
	}
	made.Table = false
	filters, under := l.filters(hits, lens)
	words = append(words, filters...)
	for i, line := range made.Words() {
		if i > 0 && i%l.q.Most == 0 {
			words = append(words, fmt.Sprintf("page %d of the list", i/l.q.Most+1))
		}
		line += l.c.since(l.site, hits[i])
		if of := under[hits[i]]; len(of) > 0 {
			line += ", found under " + strings.Join(of, ", ")
		}
		words = append(words, line)
	}
	return words
}

// since says when visitors first found a page, which feeds of lists have.
func (c *comparison) since(s *site.Site, id site.PageID) string {
	first := s.Page(id).FirstOnline
	if first.IsZero() {
		return ""
	}
	return ", since " + c.Report.moment(first)
}

// filters says by what a lens can narrow the list, and under which values each page is found.
func (l pageList) filters(hits []site.PageID, lens int) (words []string, under map[site.PageID][]string) {
	if l.q.Narrow == "" {
		return nil, nil
	}
	under = map[site.PageID][]string{}
	reached := func(id site.PageID) bool { return l.c.panel.At(l.site, id).Reachable().Has(lens) }
	for _, f := range listing.Filters(l.site, l.q, hits, nil, reached) {
		line := "narrowed by “" + f.Label + "”:"
		for _, v := range f.Values {
			line += fmt.Sprintf(" “%s” (%d)", v.Words, v.Count)
			narrowed := listing.Narrowing{f.Key: v.Value}
			for _, id := range narrowed.Narrow(l.site, hits) {
				under[id] = append(under[id], "“"+v.Words+"”")
			}
		}
		words = append(words, line)
	}
	return words, under
}

// narrowingTopics gives the topics by which the list can be narrowed.
func (l pageList) narrowingTopics() (topics []site.PageID) {
	for _, list := range listing.NarrowingLists(l.q) {
		l.site.Walk(list, func(p *site.Page) bool {
			topics = append(topics, p.ID)
			return true
		})
	}
	return topics
}

// listWords says what a page lists below its text to a lens.
func (c *comparison) listWords(s *site.Site, id site.PageID, lens int) []string {
	l, lists := c.pageList(s, id)
	if !lists {
		return nil
	}
	return l.words(lens)
}

// relistedOnce remembers what relisted found.
func (c *comparison) relistedOnce() []site.PageID {
	if c.lists == nil {
		c.lists = append([]site.PageID{}, c.relisted()...)
	}
	return c.lists
}

// relisted gives the pages that list other pages below their text than before, or show them otherwise.
func (c *comparison) relisted() []site.PageID {
	found := map[site.PageID]bool{}
	if c.furnishes() {
		return nil
	}
	for _, id := range slices.Concat(c.Was.Listers(), c.Is.Listers()) {
		was, lists := c.pageList(c.Was, id)
		is, still := c.pageList(c.Is, id)
		if lists != still || lists && (was.q != is.q || c.differ(was, is)) {
			found[id] = true
		}
	}
	return sortedIDs(found)
}

// furnishes says that only menus, blocks and places were edited, from which no page's own list follows.
func (c *comparison) furnishes() bool {
	return !c.whole && len(c.changes)+len(c.detailed) == 0 && c.Was.Settings() == c.Is.Settings() &&
		slices.Equal(c.Was.Kinds(), c.Is.Kinds()) && slices.Equal(c.Was.AllDetails(), c.Is.AllDetails())
}

// differ says whether two lists can read otherwise to somebody.
func (c *comparison) differ(was, is pageList) bool {
	anew := is.q.Narrow != "" && c.topicsTouched() || c.resorted() || len(c.detailed) > 0
	if anew || !slices.Equal(was.pages, is.pages) || !maps.Equal(was.reach, is.reach) {
		return true
	}
	return slices.ContainsFunc(is.pages, func(id site.PageID) bool {
		return c.Was.Page(id) != c.Is.Page(id) || c.relinked[id] ||
			slices.ContainsFunc(inRow(c.Is, id), func(to site.PageID) bool { return c.relinked[to] })
	})
}

// topicsTouched says whether a topic or a list of them can be called otherwise, stand elsewhere or be for others.
func (c *comparison) topicsTouched() bool {
	for _, change := range c.changes {
		for _, p := range []*site.Page{change.Was, change.Is} {
			if p != nil && p.Gathers() {
				return true
			}
		}
	}
	for id := range c.relinked {
		if p := c.Is.Page(id); p != nil && p.Gathers() {
			return true
		}
	}
	return false
}

// inRow gives the pages to which the columns of a page lead.
func inRow(s *site.Site, id site.PageID) []site.PageID {
	var pages []site.PageID
	for _, fact := range detail.Facts(s, s.Page(id), site.Detail.InLists, func(site.PageID) bool { return true }) {
		for _, shown := range fact.Values {
			if shown.Page != 0 {
				pages = append(pages, shown.Page)
			}
		}
	}
	return pages
}

// listings collects the moments at which what touched pages list comes or goes, and the midnights of all lists.
func (g *gathering) listings(s *site.Site, near map[site.PageID]bool) {
	for _, id := range s.Listers() {
		q, lists := listing.Of(s, id)
		if !lists {
			continue
		}
		g.add(listing.Midnights(s, q)...)
		if !near[id] {
			continue
		}
		above := func(id site.PageID) {
			for p := s.Page(id); p != nil; p = s.Page(p.Parent) {
				g.add(p.LiveFrom, p.LiveUntil)
			}
		}
		for _, hit := range listing.Candidates(s, q) {
			above(hit)
		}
		for _, list := range listing.NarrowingLists(q) {
			s.Walk(list, func(p *site.Page) bool { above(p.ID); return true })
		}
	}
}
