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
	s := d.Site
	take := func(at listingPlace, on site.PageID, q site.BlockListing, most int) {
		switch why := whyNotIn(d, id, on, q, most); {
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
			take(listingPlace{Name: s.Page(on).Label, Link: link, Page: true}, on, q, 0)
		}
	}
	for _, b := range s.Blocks() {
		if q, is := b.Shows.(site.BlockListing); is {
			link := d.Link("/layouts", "chip", fmt.Sprintf("b%d", b.ID))
			take(listingPlace{Name: b.Name, Link: link}, 0, q, q.Most)
		}
	}
	return in, out
}

// whyNotIn says why a visitor does not find a page in a listing; "" if they do. most bounds what it shows; 0: all.
func whyNotIn(d *desk.Desk, id, on site.PageID, q site.BlockListing, most int) string {
	s, p, panel := d.Site, d.Site.Page(id), reach.NewPanel(d.Lens)
	switch listing.Missing(s, p, q) {
	case listing.MissSort:
		return "such pages stand in no listing"
	case listing.MissKind:
		return "it is of another page type"
	case listing.MissTopic:
		return "it is not about " + d.PageWords(q.Topic)
	case listing.MissBranch:
		return "it does not stand below " + d.PageWords(q.Within)
	case listing.MissWants:
		return "it lacks a value that is asked for"
	}
	switch {
	case on == id:
		return "a page does not list itself"
	case panel.At(s, id).Reachable() == 0:
		return "the visitor does not reach it"
	case listing.Reached(s, q, panel, id) == 0:
		return "not on this day"
	case most == 0:
		return ""
	}
	first := listing.First(listing.Candidates(s, q), most, on, func(hit site.PageID) bool {
		return listing.Reached(s, q, panel, hit) != 0
	})
	if !slices.Contains(first, id) {
		return fmt.Sprintf("the %d that it shows come before", most)
	}
	return ""
}
