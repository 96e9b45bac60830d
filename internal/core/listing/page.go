package listing

import (
	"slices"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// Of gives what a page lists below its text. The page that stands in for a closed site lists nothing meanwhile.
func Of(s *site.Site, id site.PageID) (q site.BlockListing, lists bool) {
	p := s.Page(id)
	if settings := s.Settings(); p == nil || p.Listing == "" || settings.Closed && settings.Shut == id {
		return q, false
	}
	return Asked(p.Listing)
}

// Hits gives all that a page lists to somebody of a panel, in order: itself it never lists.
func Hits(s *site.Site, id site.PageID, q site.BlockListing, panel *reach.Panel) []site.PageID {
	var hits []site.PageID
	reached := Reached(s, q, panel)
	for _, hit := range Candidates(s, q) {
		if hit != id && reached(hit) != 0 {
			hits = append(hits, hit)
		}
	}
	return hits
}

// FeedMost is the number of entries of a feed.
const FeedMost = 50

// Newest gives those of some pages that came online last, the newest first: what a feed of them has.
func Newest(s *site.Site, pages []site.PageID) []site.PageID {
	newest := slices.Clone(pages)
	slices.SortStableFunc(newest, func(a, b site.PageID) int {
		return s.Page(b).FirstOnline.Compare(s.Page(a).FirstOnline)
	})
	return newest[:min(len(newest), FeedMost)]
}
