package desk

import (
	"fmt"
	"strings"

	"vineladder/internal/core/detail"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/site"
)

// ListingWords says a listing as a sentence: “notices about “Øyra” below “Notices”, newest first, 5 at most”.
func (d *Desk) ListingWords(q site.BlockListing) string {
	words := "pages"
	if q.Like != 0 {
		words = "what " + d.PageWords(q.Like) + " lists"
	}
	if q.Kinds != "" {
		var names []string
		for key := range strings.SplitSeq(q.Kinds, "|") {
			names = append(names, "“"+d.Site.Kind(key).Name+"”")
		}
		words = "pages of the type " + strings.Join(names, " or ")
	}
	if q.Topic != 0 {
		words += " about " + d.PageWords(q.Topic)
	}
	if q.Within != 0 {
		words += " below " + d.PageWords(q.Within)
	}
	for i, w := range listing.Wants(q) {
		words += []string{", with ", " and "}[min(i, 1)] + d.WantWords(w)
	}
	if q.Sort != "" && q.Like == 0 {
		words += ", " + d.ListSortWords(q.Sort)
	}
	words += map[site.ListLook]string{site.LooksCards: ", as cards", site.LooksTable: ", as a table"}[q.Looks]
	if q.Most > 0 {
		words += fmt.Sprintf(", %d at most", q.Most)
	}
	return words
}

// PageWords names a page that a question asks for, and says if it is not there.
func (d *Desk) PageWords(id site.PageID) string {
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
func (d *Desk) ListSortWords(by site.ListSort) string {
	if key, down := by.Detail(); key != "" {
		of := d.Site.Detail(key)
		if of == nil {
			return "by a detail that is gone"
		}
		return "by “" + of.Label + "”, " + orderWords(of.Type, down)
	}
	return map[site.ListSort]string{
		site.ListLabel: "from A to Z", site.ListNewest: "newest first", site.ListDate: "by date, the earliest first",
		site.ListDateDown: "by date, the latest first", site.ListTree: "in the order of the tree",
	}[by]
}

// orderWords says which values of a detail come first.
func orderWords(of site.DetailType, down bool) string {
	ends := [2]string{"from A to Z", "from Z to A"}
	switch of {
	case site.DetailNumber:
		ends = [2]string{"the smallest first", "the largest first"}
	case site.DetailDate, site.DetailDates, site.DetailMoment:
		ends = [2]string{"the earliest first", "the latest first"}
	case site.DetailYes:
		ends = [2]string{"no before yes", "yes before no"}
	}
	if down {
		return ends[1]
	}
	return ends[0]
}

// WantWords says what a listing asks of a detail: “Date” from 30 days before today until today.
func (d *Desk) WantWords(w listing.Want) string {
	of := w.Of(d.Site)
	if w.Value != "" {
		return "“" + of.Label + "”: " + d.valueWords(of, w.Value)
	}
	words := "“" + of.Label + "”"
	if w.From != "" {
		words += " from " + d.endWords(of, w.From)
	}
	if w.Until != "" {
		words += " to " + d.endWords(of, w.Until)
	}
	return words
}

func (d *Desk) endWords(of site.Detail, end string) string {
	days, moves := listing.DaysFromToday(end)
	switch {
	case moves && days == 0:
		return "today"
	case moves && days < 0:
		return dayCount(-days) + " before today"
	case moves:
		return dayCount(days) + " after today"
	case of.Type != site.DetailNumber:
		return detail.DateWords(d.Site, end)
	}
	return d.valueWords(of, end)
}

func (d *Desk) valueWords(of site.Detail, value string) string {
	var words []string
	for _, shown := range detail.Of(of).Shown(d.Site, of, value) {
		words = append(words, shown.Words)
	}
	return strings.Join(words, ", ")
}

func dayCount(n int) string {
	if n == 1 {
		return "1 day"
	}
	return fmt.Sprintf("%d days", n)
}
