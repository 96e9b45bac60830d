package consequence

import (
	"slices"

	"vineladder/internal/core/listing"
	"vineladder/internal/core/look"
	menus "vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// candidates are the pages that a listing asks for in one Site, in its order, with who reaches each.
type candidates struct {
	pages []site.PageID
	reach map[site.PageID]reach.Mask
}

// asked gives the pages that a question asks for in one Site. No lens decides that, so one search does for all passes.
func (r *Report) asked(s *site.Site, q site.BlockListing) []site.PageID {
	k := askedKey{s, q}
	found, known := r.questions[k]
	if !known {
		found = listing.Candidates(s, q)
		r.questions[k] = found
	}
	return slices.Clone(found)
}

type askedKey struct {
	*site.Site
	site.BlockListing
}

func (c *comparison) candidates(s *site.Site, q site.BlockListing) *candidates {
	made := &candidates{c.asked(s, q), map[site.PageID]reach.Mask{}}
	reached := listing.Reached(s, q, c.panel)
	for _, id := range made.pages {
		made.reach[id] = reached(id)
	}
	c.work += len(made.pages)
	return made
}

// hits gives what a lens gets of them, and for which lenses it is the same.
func (f *candidates) hits(all reach.Mask, most int, on site.PageID, lens int) ([]site.PageID, reach.Mask) {
	same := all
	hits := listing.First(f.pages, most, on, func(id site.PageID) bool {
		reached := f.reach[id]
		if reached.Has(lens) {
			same &= reached
			return true
		}
		same &^= reached
		return false
	})
	return hits, same
}

// listingLooks gives the looks of a listing on a page. It looks the same on all pages but those that it could list.
func (sc *scene) listingLooks(b *site.Block, q site.BlockListing, page site.PageID, lenses reach.Mask) []alike {
	found := sc.listings[b.ID]
	if found == nil {
		found = sc.candidates(sc.site, q)
		sc.listings[b.ID] = found
	}
	k := lookKey{block: b.ID}
	if _, own := found.reach[page]; own {
		k.page = page
	}
	return sc.complete(k, lenses, func(lens int) (int32, reach.Mask, []menus.Node) {
		made := sc.frameOf(b)
		hits, same := found.hits(sc.panel.All(), q.Most, page, lens)
		same &= sc.fillListing(&made, sc.site, q, hits, lens)
		return sc.facts.intern(made), same, nil
	})
}

// fillListing puts what a listing found into a look, and says for which lenses it is the same if the hits are.
func (c *comparison) fillListing(
	made *look.Look, s *site.Site, q site.BlockListing, hits []site.PageID, lens int,
) reach.Mask {
	same := c.panel.All()
	if q.Looks == site.LooksList {
		for _, id := range hits {
			made.Pages = append(made.Pages, look.Link{Label: s.Page(id).Heading(), Href: addressOf(s, id)})
		}
		return same
	}
	reached := func(id site.PageID) bool {
		mask := c.panel.At(s, id).Reachable()
		if !mask.Has(lens) {
			same &^= mask
			return false
		}
		same &= mask
		return true
	}
	made.Rows, made.Table = look.RowsOf(s, q, hits, reached), q.Looks == site.LooksTable
	return same
}

// listingDiffers says whether a listing that stayed as it was shows other pages, or shows them otherwise. One more than
// it shows is looked at, since it leaves out the page on which it stands.
func (c *comparison) listingDiffers(q site.BlockListing) bool {
	was, is := c.candidates(c.Was, q), c.candidates(c.Is, q)
	for left := c.panel.All(); left != 0; {
		lens := left.First()
		before, same := was.hits(left, q.Most+1, 0, lens)
		after, alike := is.hits(left, q.Most+1, 0, lens)
		var shown, shows look.Look
		same &= c.fillListing(&shown, c.Was, q, before, lens)
		alike &= c.fillListing(&shows, c.Is, q, after, lens)
		if !slices.Equal(shown.Words(), shows.Words()) {
			return true
		}
		left &^= same & alike
	}
	return false
}
