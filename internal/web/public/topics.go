package public

import (
	"vineladder/internal/core/address"
	counting "vineladder/internal/core/count"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/look"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/topic"
)

// A number leads to a page of a list.
type number struct {
	Words   string
	Href    string // "" of the page that is shown, and of what is left out
	Current bool
}

// gathered gives what a page shows of topics to a visitor.
func gathered(q Request, id site.PageID) topic.Gathering {
	panel := reach.NewPanel(q.Lens)
	return topic.Of(q.Site, id).To(q.Site, func(id site.PageID) bool {
		return panel.At(q.Site, id).Reachable() != 0
	})
}

// lastOf gives the number of the last page of what a page lists or gathers, and whether there is one of a number.
func lastOf(q Request, id site.PageID, number int) (last int, there bool) {
	if asked, lists := listing.Of(q.Site, id); lists {
		_, last, there = topic.Cut(listing.Hits(q.Site, id, asked, reach.NewPanel(q.Lens)), asked.Most, number)
		return last, there
	}
	_, last, there = gathered(q, id).At(number)
	return last, there
}

// topicsOf gives what a page shows of topics as values, its links below the base, with the numbers of its list.
func topicsOf(q Request, id site.PageID) (look.Topics, []number) {
	cut, last, _ := gathered(q, id).At(max(1, q.number))
	made := look.TopicsOf(q.Site, id, cut)
	made.Rebase(q.Base)
	return made, numbersOf(q.Base+address.Of(q.Site, id), max(1, q.number), last)
}

// listedOn gives one page of what a page lists below its text, with the numbers of the others; nil: it lists nothing.
func listedOn(q Request, id site.PageID) (*piece, []number) {
	asked, lists := listing.Of(q.Site, id)
	if !lists {
		return nil, nil
	}
	hits, last, _ := topic.Cut(listing.Hits(q.Site, id, asked, reach.NewPanel(q.Lens)), asked.Most, max(1, q.number))
	made := &piece{Landmark: q.Site.Page(id).Heading()}
	made.listing(q, asked, hits)
	return made, numbersOf(q.Base+address.Of(q.Site, id), max(1, q.number), last)
}

// near is how many pages of a list are named on either side of the one that is shown.
const near = 2

// numbersOf names the first page of a list, the last one, and those near the one that is shown.
func numbersOf(path string, shown, last int) []number {
	if last == 1 {
		return nil
	}
	var all []number
	gap := false
	for n := 1; n <= last; n++ {
		if n > 1 && n < last && (n < shown-near || n > shown+near) {
			if !gap {
				all = append(all, number{Words: "…"})
			}
			gap = true
			continue
		}
		made := number{Words: counting.Number(n), Href: numbered(path, n)}
		if n == shown {
			made.Href, made.Current = "", true
		}
		all, gap = append(all, made), false
	}
	return all
}
