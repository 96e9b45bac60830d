package check

import (
	"slices"

	"vineladder/internal/core/site"
)

func regionLacking() Check {
	return Check{
		Key: "region-lacking", Name: "Blocks in a region that the layout lacks", Weight: Wrong,
		Why: "The block stands in one layout only, and that layout has no such region: nobody sees it.",
		Block: func(l *Look, b *site.Block, tell Tell) {
			for _, p := range l.Site.PlacementsOf(b.ID) {
				has := func(layout site.Layout) bool { return layout.Key == p.Layout && layout.Has(p.Region) }
				if p.Layout != "" && !slices.ContainsFunc(l.Site.Theme().Layouts, has) {
					tell(placeThing(p.ID), 0, p.Layout+" "+p.Region,
						"The block “%s” stands in a region that its layout does not have.", b.Name)
				}
			}
		},
	}
}
