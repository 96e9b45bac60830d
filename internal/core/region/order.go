package region

import (
	"slices"

	"vineladder/internal/core/rise"
	"vineladder/internal/core/site"
)

// In gives the placements of a region, in order (rules 6.2).
func In(s *site.Site, region string) []site.PlacementID {
	var ids []site.PlacementID
	for i := range s.Placements() {
		if p := &s.Placements()[i]; p.Region == region {
			ids = append(ids, p.ID)
		}
	}
	return ids
}

// Position gives the place of a placement in its region, from 1, and the number of placements there.
func Position(s *site.Site, p *site.Placement) (position, of int) {
	ids := In(s, p.Region)
	return slices.Index(ids, p.ID) + 1, len(ids)
}

// MovedAmong says whether a placement is outside the longest run of placements of its region that keep their order.
func MovedAmong(was, is *site.Site, p *site.Placement) bool {
	return slices.Contains(rise.Moved(In(was, p.Region), In(is, p.Region)), p.ID)
}
