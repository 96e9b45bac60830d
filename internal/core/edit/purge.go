package edit

import (
	"fmt"
	"time"

	"vineladder/internal/core/site"
)

// Purge takes binned branches out of the bin for good (rules 2.9 and 3.5): what a page said is gone, its key is free
// again, and its addresses stay, and answer “gone”. It is no operation of a draft: it can't be undone. A branch that
// has been in the bin for fewer days than the settings keep it is refused.
func Purge(s *site.Site, tops []site.PageID, now time.Time) (*site.Site, error) {
	b := s.Builder()
	for _, top := range tops {
		p := s.Page(top)
		switch until := KeptUntil(s, top); {
		case p == nil || !p.Binned || p.Purged:
			return s, refuse("One of these pages is not in the bin any more; look again.")
		case now.Before(until):
			return s, refuse(
				"“%s” is kept in the bin until %s.",
				p.Label,
				until.In(s.Settings().Zone).Format("2 January 2006"),
			)
		}
		s.Walk(top, func(p *site.Page) bool {
			purged := *b.Peek().Page(p.ID)
			for _, field := range pageFields.with(Purged) {
				if field != FieldLabel { // which is never empty
					_ = pageFields.set(s, &purged, field, UnsetValue(field)) // what a new page has is never refused
				}
			}
			purged.Purged, purged.Key = true, fmt.Sprintf("purged-%d", p.ID)
			purged.Label = fmt.Sprintf("Purged page %d", p.ID)
			b.Put(&purged)
			return true
		})
	}
	return b.Site(), nil
}

// KeptUntil gives the moment until which a binned branch is kept before the bin can be emptied of it.
func KeptUntil(s *site.Site, top site.PageID) time.Time {
	p := s.Page(top)
	if p == nil || p.BinnedAt.IsZero() {
		return time.Time{}
	}
	return p.BinnedAt.AddDate(0, 0, s.Settings().BinDays)
}
