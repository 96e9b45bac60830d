package public

import (
	"net/url"

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
	return topic.Of(q.Site, id).To(q.Site, reacher(q))
}

// reacher says which pages a visitor reaches.
func reacher(q Request) func(site.PageID) bool {
	panel := reach.NewPanel(q.Lens)
	return func(id site.PageID) bool { return panel.At(q.Site, id).Reachable() != 0 }
}

// narrowedBy reads what a query asks of what a page lists.
func narrowedBy(q Request, id site.PageID, query url.Values) (n listing.Narrowing, asks, can bool) {
	asked, lists := listing.Of(q.Site, id)
	if !lists || len(query) == 0 {
		return nil, false, true
	}
	return listing.Narrowed(q.Site, asked, query, hitsOf(q, id, asked), reacher(q))
}

// isThere says whether what a page lists or gathers has the page that is asked for.
func isThere(q Request, id site.PageID) bool {
	if asked, lists := listing.Of(q.Site, id); lists {
		_, _, there := topic.Cut(hitsOf(q, id, asked), asked.Most, q.number)
		return there
	}
	_, _, there := gathered(q, id).At(q.number)
	return there
}

// hitsOf gives all that a page lists to a visitor, narrowed to what they ask for.
func hitsOf(q Request, id site.PageID, asked site.BlockListing) []site.PageID {
	return q.narrowing.Narrow(q.Site, listing.Hits(q.Site, id, asked, reach.NewPanel(q.Lens)))
}

// topicsOf gives what a page shows of topics as values, its links below the base, with the numbers of its list.
func topicsOf(q Request, id site.PageID) (look.Topics, []number) {
	cut, last, _ := gathered(q, id).At(max(1, q.number))
	made := look.TopicsOf(q.Site, id, cut)
	made.Rebase(q.Base)
	return made, numbersOf(q.Base+address.Of(q.Site, id), nil, max(1, q.number), last)
}

// listedOn gives one page of what a page lists below its text, with the numbers of the others; nil: it lists nothing.
func listedOn(q Request, id site.PageID) (*piece, []number) {
	asked, lists := listing.Of(q.Site, id)
	if !lists {
		return nil, nil
	}
	all := hitsOf(q, id, asked)
	hits, last, _ := topic.Cut(all, asked.Most, max(1, q.number))
	path := q.Base + address.Of(q.Site, id)
	made := &piece{Landmark: q.Site.Page(id).Heading()}
	made.listing(q, asked, hits)
	for _, f := range listing.Filters(q.Site, asked, all, q.narrowing, reacher(q)) {
		made.Filters = append(made.Filters, filterOf(path, f, q.narrowing))
	}
	return made, numbersOf(path, q.narrowing, max(1, q.number), last)
}

// A filter narrows a list in one respect.
type filter struct {
	Label  string
	Values []filterLink
	Every  string // where the list leads that is not narrowed in this respect; "" if it is not
}

// A filterLink leads to the list narrowed to a value.
type filterLink struct {
	Words, Href string
	Count       string
	Chosen      bool
}

func filterOf(path string, f listing.Filter, n listing.Narrowing) filter {
	made := filter{Label: f.Label}
	for _, v := range f.Values {
		if v.Chosen {
			made.Every = withQuery(path, n.With(f.Key, "").Query(1))
		}
		made.Values = append(made.Values, filterLink{
			Words: v.Words, Href: withQuery(path, n.With(f.Key, v.Value).Query(1)),
			Count: counting.Number(v.Count), Chosen: v.Chosen,
		})
	}
	return made
}

// near is how many pages of a list are named on either side of the one that is shown.
const near = 2

// numbersOf names the first page of a list, the last one, and those near the one that is shown.
func numbersOf(path string, n listing.Narrowing, shown, last int) []number {
	if last == 1 {
		return nil
	}
	var all []number
	gap := false
	for at := 1; at <= last; at++ {
		if at > 1 && at < last && (at < shown-near || at > shown+near) {
			if !gap {
				all = append(all, number{Words: "…"})
			}
			gap = true
			continue
		}
		made := number{Words: counting.Number(at), Href: withQuery(path, n.Query(at))}
		if at == shown {
			made.Href, made.Current = "", true
		}
		all, gap = append(all, made), false
	}
	return all
}
