package tree

import (
	"fmt"
	"slices"
	"strings"

	"vineladder/internal/core/listing"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// A listingPlace says of a listing whether the visitor finds the page in it, and if not, why.
type listingPlace struct {
	Name string // of the block, or of the page that lists
	Link string
	Page bool // a page lists; else a block
	Why  string
}

// listingsOf gives the listings in which a page stands, and those that ask for pages of its type and miss it.
func listingsOf(d *desk.Desk, id site.PageID) (in, out []listingPlace) {
	s, panel := d.Site, reach.NewPanel(d.Lens)
	take := func(at listingPlace, on site.PageID, q site.BlockListing) {
		switch why := missWords(d, listing.WhyNot(s, id, on, q, panel), q); {
		case why == "":
			in = append(in, at)
		case on != id && q.Kinds != "" && slices.Contains(strings.Split(q.Kinds, "|"), s.Page(id).Kind):
			at.Why = why
			out = append(out, at)
		}
	}
	for _, on := range s.Listers() {
		if q, lists := listing.Of(s, on); lists && s.InTree(on) {
			link := d.Link("/tree", "page", fmt.Sprint(on))
			take(listingPlace{Name: s.Page(on).Label, Link: link, Page: true}, on, q)
		}
	}
	for i := range s.Blocks() {
		b := &s.Blocks()[i]
		if q, is := listing.OfBlock(s, b); is {
			link := d.Link("/layouts", "chip", fmt.Sprintf("b%d", b.ID))
			take(listingPlace{Name: b.Name, Link: link}, 0, q)
		}
	}
	return in, out
}

// missWords says why a visitor does not find a page in a listing; "" if they do.
func missWords(d *desk.Desk, miss listing.Miss, q site.BlockListing) string {
	return map[listing.Miss]string{
		listing.MissSort:   "such pages stand in no listing",
		listing.MissKind:   "it is of another page type",
		listing.MissTopic:  "it is not about " + d.PageWords(q.Topic),
		listing.MissBranch: "it does not stand below " + d.PageWords(q.Within),
		listing.MissWants:  "it lacks a value that is asked for",
		listing.MissSelf:   "a page does not list itself",
		listing.MissReach:  "the visitor does not reach it",
		listing.MissDay:    "not on this day",
		listing.MissFull:   fmt.Sprintf("the %d that it shows come before", q.Most),
	}[miss]
}
