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
	return groundOf(s, page).ask(p)
}

// A ground is a page as conditions look at it: what they ask of it is found once.
type ground struct {
	site   *site.Site
	page   site.PageID
	layout *site.Layout
	kind   string
	at     string // its address, once a pattern asked for it
}

func groundOf(s *site.Site, page site.PageID) *ground {
	g := &ground{site: s, page: page, layout: LayoutOf(s, page).Layout}
	if known := s.Page(page); known != nil {
		g.kind = known.Kind
	}
	return g
}

func (g *ground) holds(spot site.Spot) bool {
	if spot.Page == 0 && g.at == "" {
		g.at = address.Of(g.site, g.page)
	}
	return Holds(g.site, spot, g.page, g.at)
}

// ask says why a placement, which stands somewhere, does not stand there.
func (g *ground) ask(p *site.Placement) Reason {
	if reason := inLayout(p, g.layout); reason != "" {
		return reason
	}
	if g.page != 0 && shutOf(g.site, g.site.Block(p.Block)) == g.page {
		return ReasonShut
	}
	switch {
	case slices.ContainsFunc(p.Except, g.holds):
		return ReasonLeftOut
	case slices.Contains(p.NotKinds, g.kind):
		return ReasonNotKind
	case len(p.Where) > 0 && !slices.ContainsFunc(p.Where, func(spot site.Spot) bool { return There(g.site, spot) }):
		return ReasonGone
	case len(p.Where) > 0 && !slices.ContainsFunc(p.Where, g.holds):
		return ReasonElsewhere
	case len(p.Kinds) > 0 && !slices.Contains(p.Kinds, g.kind):
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
	return slices.ContainsFunc(Placing(s, lens)(page), func(b *site.Block) bool { return b.ID == block })
}

// Placing gives a function that says of a page which blocks stand on it for a lens, whether or not they have anything
// to show there, each once and in their order.
func Placing(s *site.Site, lens reach.Lens) func(site.PageID) []*site.Block {
	var standing []*site.Placement // somewhere
	for i := range s.Placements() {
		if p := &s.Placements()[i]; always(p, lens) == "" {
			standing = append(standing, p)
		}
	}
	var blocks []*site.Block
	return func(page site.PageID) []*site.Block {
		blocks = blocks[:0]
		g := groundOf(s, page)
		for i := range s.Blocks() {
			b := &s.Blocks()[i]
			if slices.ContainsFunc(standing, func(p *site.Placement) bool { return p.Block == b.ID && g.ask(p) == "" }) {
				blocks = append(blocks, b)
			}
		}
		return blocks
	}
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
