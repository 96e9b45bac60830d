package region

import (
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// Lacking gives the pages that a lens reaches and on which a placement would stand if only their layout had its region,
// in the tree's order. It asks page by page below what the placement names, so it costs those branches.
func Lacking(s *site.Site, p *site.Placement, lens reach.Lens) []site.PageID {
	var pages []site.PageID
	seen := map[site.PageID]bool{}
	ask := func(page *site.Page) bool {
		if !seen[page.ID] {
			seen[page.ID] = true
			if Lacks(s, p, page.ID, lens) && reach.Ask(s, page.ID, lens) == reach.Sees {
				pages = append(pages, page.ID)
			}
		}
		return true
	}
	for _, spot := range p.Where {
		switch {
		case spot.Page == 0, spot.Topic:
			s.Walk(s.Home(), ask)
		case spot.Branch && s.InTree(spot.Page):
			s.Walk(spot.Page, ask)
		case s.InTree(spot.Page):
			ask(s.Page(spot.Page))
		}
	}
	if len(p.Where) == 0 {
		s.Walk(s.Home(), ask)
	}
	return pages
}

// Lacks says whether a placement would stand on a page if only its layout had the region.
func Lacks(s *site.Site, p *site.Placement, page site.PageID, lens reach.Lens) bool {
	return Ask(s, p, page, lens) == ReasonNoRegion && wouldStand(s, p, page, lens)
}

// wouldStand asks for the placement as if every layout had its region.
func wouldStand(s *site.Site, p *site.Placement, page site.PageID, lens reach.Lens) bool {
	everywhere := *p
	everywhere.Region, everywhere.Layout = site.ContentRegion, ""
	return Ask(s, &everywhere, page, lens) == ""
}
