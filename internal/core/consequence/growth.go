package consequence

import (
	"maps"
	"slices"

	"vineladder/internal/core/listing"
	menus "vineladder/internal/core/menu"
	"vineladder/internal/core/site"
	topics "vineladder/internal/core/topic"
)

// growsOtherwise says whether a run that stayed as it was has other lines than before because of what it counts, or of
// what is listed. Lines that come with their pages are told by these.
func (c *comparison) growsOtherwise(was, is *site.Menu, id site.EntryID, to site.ItemBranch) bool {
	switch {
	case to.Hits > 0:
		return c.hitsDiffer(was, is, id)
	case to.Of != 0:
		return slices.Contains(c.relistedOnce(), to.Of) || addressOf(c.Was, to.Of) != addressOf(c.Is, to.Of) ||
			c.panel.At(c.Was, to.Of).Reachable() != c.panel.At(c.Is, to.Of).Reachable()
	case counts(to):
		return c.countsTouched() && c.countsDiffer(to)
	}
	return false
}

// standElsewhere says whether entries of a menu stand below a line of a run that leads there another way than before.
func (c *comparison) standElsewhere(m *site.Menu) bool {
	same := func(a, b *site.Page) bool { return a.ID == b.ID }
	for i := range m.Entries {
		if under := m.Entries[i].Under; under != 0 && !slices.EqualFunc(c.Was.Path(under), c.Is.Path(under), same) {
			return true
		}
	}
	return false
}

// hitsDiffer says whether the lines of what a page lists are others, or are called otherwise, or lead elsewhere.
func (c *comparison) hitsDiffer(was, is *site.Menu, id site.EntryID) bool {
	before, after := menus.Lines(c.Was, was, id, c.panel), menus.Lines(c.Is, is, id, c.panel)
	if !slices.Equal(before.Pages, after.Pages) || !maps.Equal(before.Shown, after.Shown) {
		return true
	}
	return slices.ContainsFunc(after.Pages, func(page site.PageID) bool {
		return menus.LabelOf(c.Was, was.Entry(id), page) != menus.LabelOf(c.Is, is.Entry(id), page) ||
			addressOf(c.Was, page) != addressOf(c.Is, page)
	})
}

// countsTouched says whether the edits can have topics gather other pages for somebody.
func (c *comparison) countsTouched() bool {
	for _, pair := range c.standInsOf() {
		if pair[0] != pair[1] {
			return true
		}
	}
	return slices.ContainsFunc(c.changes, func(change pageChange) bool {
		a, b := change.Was, change.Is
		return a == nil || b == nil || change.placed || a.MergedInto != b.MergedInto || !slices.Equal(a.Topics, b.Topics)
	})
}

// countsDiffer says whether a topic below the root of a run has more or fewer pages for somebody, where that can be
// seen.
func (c *comparison) countsDiffer(to site.ItemBranch) (differ bool) {
	was, is := topics.TallyOf(c.Was, c.panel), topics.TallyOf(c.Is, c.panel)
	c.work += c.Is.Count()
	c.Is.Walk(to.Root, func(p *site.Page) bool {
		before, after := was.Of(p.ID), is.Of(p.ID)
		if before == nil || after == nil {
			return !differ // it comes or goes itself
		}
		for lens := range after {
			differ = differ || seenCount(to, before[lens]) != seenCount(to, after[lens])
		}
		return !differ
	})
	return differ
}

// seenCount is what visitors can tell of a count: the number itself, or whether it is enough for a line.
func seenCount(to site.ItemBranch, n int32) int32 {
	if to.Count || to.By == site.GrownByCount {
		return n
	}
	return min(n, int32(to.Least)) / int32(to.Least)
}

// feedsLists says whether a touched page is one of those that a menu counts, or that a listing or a menu shows the
// first of: then it depends on all others whether and where it shows.
func (r *Report) feedsLists(t *touch) bool {
	was, is := feeders(r.Was), feeders(r.Is)
	feeds := func(p *site.Page, of []func(*site.Page) bool) bool {
		return p != nil && slices.ContainsFunc(of, func(feeds func(*site.Page) bool) bool { return feeds(p) })
	}
	return slices.ContainsFunc(t.changes, func(change pageChange) bool {
		return feeds(change.Was, was) || feeds(change.Is, is)
	})
}

// feeders say of a page whether it is one of several among which it is decided what shows.
func feeders(s *site.Site) (all []func(*site.Page) bool) {
	lists := func(q site.BlockListing) {
		all = append(all, listing.Answering(s, q))
	}
	for i := range s.Menus() {
		for k := range s.Menus()[i].Entries {
			to, grown := s.Menus()[i].Entries[k].Shows.(site.ItemBranch)
			switch q, is := listing.Of(s, to.Root); {
			case grown && to.Hits > 0 && is:
				lists(q)
			case grown && to.Of != 0:
				if q, is := listing.Of(s, to.Of); is {
					lists(q)
				}
			case grown && counts(to):
				all = append(all, func(p *site.Page) bool { return bearsWithin(s, p, to.Root) })
			}
		}
	}
	for i := range s.Blocks() {
		if q, is := listing.OfBlock(s, &s.Blocks()[i]); is {
			lists(q)
		}
	}
	return all
}

// counts says whether the lines of a run depend on how many pages topics have.
func counts(to site.ItemBranch) bool { return to.Least > 0 || to.Count || to.By == site.GrownByCount }

func bearsWithin(s *site.Site, p *site.Page, root site.PageID) bool {
	return slices.ContainsFunc(s.TopicsOf(p), func(topic site.PageID) bool { return s.IsWithin(topic, root) })
}
