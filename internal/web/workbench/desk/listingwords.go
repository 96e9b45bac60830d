package desk

import (
	"fmt"
	"strings"

	"vineladder/internal/core/site"
)

// ListingWords says a listing as a sentence: “notices about “Øyra” below “Notices”, newest first, 5 at most”.
func (d *Desk) ListingWords(q site.BlockListing) string {
	words := "pages"
	if q.Kinds != "" {
		var names []string
		for key := range strings.SplitSeq(q.Kinds, "|") {
			names = append(names, "“"+d.Site.Kind(key).Name+"”")
		}
		words = "pages of the type " + strings.Join(names, " or ")
	}
	if q.Topic != 0 {
		words += " about " + d.pageWords(q.Topic)
	}
	if q.Within != 0 {
		words += " below " + d.pageWords(q.Within)
	}
	if q.Sort != "" {
		words += ", " + ListSortWords(q.Sort)
	}
	if q.Most > 0 {
		words += fmt.Sprintf(", %d at most", q.Most)
	}
	return words
}

func (d *Desk) pageWords(id site.PageID) string {
	p := d.Site.Page(id)
	switch {
	case p == nil || p.Purged:
		return "a page that is gone"
	case !d.Site.InTree(id):
		return "“" + p.Label + "”, which is in the bin"
	}
	return "“" + p.Label + "”"
}

// ListSortWords says an order of listings.
func ListSortWords(by site.ListSort) string {
	return map[site.ListSort]string{
		site.ListLabel: "from A to Z", site.ListNewest: "newest first", site.ListDate: "by date, the earliest first",
		site.ListDateDown: "by date, the latest first", site.ListTree: "in the order of the tree",
	}[by]
}
