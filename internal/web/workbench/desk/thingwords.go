package desk

import (
	"strings"

	"vineladder/internal/core/piece"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
)

// PieceWords says what a block shows.
func (d *Desk) PieceWords(b *site.Block) string {
	switch shows := b.Shows.(type) {
	case site.BlockMenu:
		m := d.Site.Menu(shows.Menu)
		if m == nil {
			return "a menu that is gone"
		}
		return m.Name + ", " + d.WindowWordsOf(m, shows.Window)
	case site.BlockImage:
		return "image " + shows.File
	case site.BlockListing:
		return d.ListingWords(shows)
	case site.BlockText:
		if shows.Text == "" {
			return "text, still empty"
		}
		return "text"
	}
	return SortName(b)
}

// SortName names what a block shows, inside a sentence.
func SortName(b *site.Block) string { return strings.ToLower(piece.Of(b.Shows).Words) }

// DecidedBy says what decided on a page's layout.
func (d *Desk) DecidedBy(decision region.Decision) string {
	switch decision.By {
	case region.LayoutByPage:
		return "set on the page itself"
	case region.LayoutByKind:
		return "the one of its page type"
	case region.LayoutByBranch:
		if decision.From == d.Selected {
			return "set here for it and all below"
		}
		return "set for all below “" + d.Site.Page(decision.From).Label + "”"
	}
	return "the one of the site"
}

// SpotText says in words what a condition names.
func (d *Desk) SpotText(spot site.Spot) string {
	if spot.Page == 0 {
		return "addresses like " + spot.Pattern
	}
	words := "a page that is gone"
	if p := d.Site.Page(spot.Page); p != nil && !p.Purged {
		words = p.Label
	}
	if !d.Site.InTree(spot.Page) {
		words += " (in the bin)"
	}
	switch {
	case spot.Topic:
		return "pages about “" + words + "”"
	case spot.Branch:
		words += " and all below it"
	}
	return words
}
