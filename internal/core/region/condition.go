package region

import (
	"slices"
	"strings"

	"vineladder/internal/core/address"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/topic"
)

// Reason says why a placement does not show on a page; "" where it does.
type Reason string

const (
	ReasonOff       Reason = "off"       // the placement is switched off
	ReasonLayout    Reason = "layout"    // it is for another layout than the page has
	ReasonNoRegion  Reason = "region"    // the page's layout has no such region
	ReasonElsewhere Reason = "elsewhere" // the page is none of those that a condition names
	ReasonLeftOut   Reason = "left out"  // the page is left out by name
	ReasonKind      Reason = "kind"      // it is for pages of other kinds
	ReasonNotKind   Reason = "not kind"  // pages of this kind are left out
	ReasonOthers    Reason = "audience"  // it is for other visitors
	ReasonTime      Reason = "time"      // it is outside its window
	ReasonGone      Reason = "gone"      // everything that a condition names is gone (rules 6.3)
	ReasonShut      Reason = "shut"      // the page stands in for a closed site, and the block leads elsewhere
	ReasonEmpty     Reason = "empty"     // it would stand there, and has nothing to show
)

// Ask says why a placement does not stand on a page for a lens, leaving aside whether its block has anything to show
// (rules 6.2 and 6.3); "" where it stands. What is left out wins over what is named.
func Ask(s *site.Site, p *site.Placement, page site.PageID, lens reach.Lens) Reason {
	if reason := always(p, lens); reason != "" {
		return reason
	}
	if reason := inLayout(p, LayoutOf(s, page).Layout); reason != "" {
		return reason
	}
	if shutOf(s, s.Block(p.Block)) == page && page != 0 {
		return ReasonShut
	}
	kind, at := "", address.Of(s, page)
	if known := s.Page(page); known != nil {
		kind = known.Kind
	}
	holds := func(spot site.Spot) bool { return Holds(s, spot, page, at) }
	switch {
	case slices.ContainsFunc(p.Except, holds):
		return ReasonLeftOut
	case slices.Contains(p.NotKinds, kind):
		return ReasonNotKind
	case len(p.Where) > 0 && !slices.ContainsFunc(p.Where, func(spot site.Spot) bool { return There(s, spot) }):
		return ReasonGone
	case len(p.Where) > 0 && !slices.ContainsFunc(p.Where, holds):
		return ReasonElsewhere
	case len(p.Kinds) > 0 && !slices.Contains(p.Kinds, kind):
		return ReasonKind
	}
	return ""
}

// Leads says whether a block leads to other pages of the site: a menu, a breadcrumb, the pages inside, the search.
func Leads(b *site.Block) bool {
	switch b.Shows.(type) {
	case site.BlockMenu, site.BlockBreadcrumb, site.BlockChildren, site.BlockListing, site.BlockSearch:
		return true
	}
	return false
}

// shutOf gives the page on which a block does not stand while the site is closed, since all that it leads to answers
// with that page again (rules 4.5); 0 for none.
func shutOf(s *site.Site, b *site.Block) site.PageID {
	if settings := s.Settings(); settings.Closed && b != nil && Leads(b) {
		return settings.Shut
	}
	return 0
}

// Placed says whether one of a block's placements stands on a page for a lens, whether or not the block has anything
// to show there.
func Placed(s *site.Site, block site.BlockID, page site.PageID, lens reach.Lens) bool {
	return slices.ContainsFunc(
		s.PlacementsOf(block),
		func(p *site.Placement) bool { return Ask(s, p, page, lens) == "" },
	)
}

// always says why a placement stands on no page for a lens.
func always(p *site.Placement, lens reach.Lens) Reason {
	switch {
	case p.Off:
		return ReasonOff
	case !p.Window().Holds(lens.At):
		return ReasonTime
	case reach.NewPanel(lens).Admits(p.Audience) == 0:
		return ReasonOthers
	}
	return ""
}

func inLayout(p *site.Placement, l *site.Layout) Reason {
	switch {
	case l == nil || !l.Has(p.Region):
		return ReasonNoRegion
	case p.Layout != "" && p.Layout != l.Key:
		return ReasonLayout
	}
	return ""
}

// There says whether what a condition names is still there.
func There(s *site.Site, spot site.Spot) bool { return spot.Page == 0 || s.InTree(spot.Page) }

// Holds says whether a page, at its address, is one that a condition names.
func Holds(s *site.Site, spot site.Spot, page site.PageID, at string) bool {
	switch {
	case spot.Page == 0:
		return Matches(spot.Pattern, at)
	case !s.InTree(spot.Page):
		return false
	case spot.Topic:
		return topic.IsAbout(s, page, spot.Page)
	case spot.Branch:
		return s.IsWithin(page, spot.Page)
	}
	return page == spot.Page
}

// Matches says whether a pattern matches an address as a whole: "*" is one segment, "**" any number of them (rules
// 6.3). It costs the address times the pattern.
func Matches(written, at string) bool {
	p := pattern(segments(written))
	return len(p) <= PatternLimit && p.accepts(p.run(at))
}

func segments(path string) []string {
	return strings.FieldsFunc(path, func(r rune) bool { return r == '/' })
}
