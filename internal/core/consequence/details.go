package consequence

import (
	"slices"

	"vineladder/internal/core/look"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// factsOf says what a page shows of the details of its type to a lens.
func (c *comparison) factsOf(s *site.Site, p *site.Page, lens int) []string {
	if p.Values == "" && p.Date == "" {
		return nil
	}
	facts := look.FactsOf(s, p, func(to site.PageID) bool { return c.panel.At(s, to).Reachable().Has(lens) })
	return facts.Words(func(hash string) []string { return c.textWords(s, hash, lens, true) })
}

// detailed gives the pages that can show other facts though nothing of them was touched: those of types that ask for
// others, and all with facts where dates and numbers are written otherwise.
func detailed(was, is *site.Site) []site.PageID {
	every := factsReadOtherwise(was.Settings(), is.Settings())
	kinds := map[string]bool{}
	note := func(kind string, differs bool) {
		if differs {
			kinds[kind] = true
		}
	}
	for _, d := range slices.Concat(was.AllDetails(), is.AllDetails()) {
		note(d.Kind(), !slices.Equal(was.Details(d.Kind()), is.Details(d.Kind())))
	}
	for _, k := range slices.Concat(was.Kinds(), is.Kinds()) {
		note(k.Key, was.Kind(k.Key).DateName != is.Kind(k.Key).DateName)
	}
	if !every && len(kinds) == 0 {
		return nil
	}
	var pages []site.PageID
	is.Walk(is.Home(), func(p *site.Page) bool {
		if (p.Values != "" || p.Date != "") && (every || kinds[p.Kind]) {
			pages = append(pages, p.ID)
		}
		return true
	})
	return pages
}

// factsReadOtherwise says whether numbers, dates and moments are written in another way.
func factsReadOtherwise(was, is site.Settings) bool {
	return was.Language != is.Language || was.Dates != is.Dates || was.Zone != is.Zone
}

// pointedAt says which lenses reach each of the pages that a page leads to by its text or its details, before and
// after: those that agree on all of them read the same.
func (c *comparison) pointedAt(a, b *site.Page) []reach.Mask {
	var masks []reach.Mask
	for side, p := range []*site.Page{a, b} {
		in := []*site.Site{c.Was, c.Is}[side]
		for _, to := range in.LinksOf(p) {
			masks = append(masks, c.panel.At(in, to).Reachable())
		}
	}
	return masks
}

// richOf gives the hashes of the kept texts in what a page shows of the details of its type.
func richOf(s *site.Site, p *site.Page) []string {
	return look.FactsOf(s, p, func(site.PageID) bool { return true }).Texts()
}
