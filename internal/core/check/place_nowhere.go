package check

import (
	"slices"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
)

func placeNowhere() Check {
	return Check{
		Key: "place-nowhere", Name: "Places of blocks whose pages are gone", Weight: Doubt,
		Why: "All that the condition names is gone, so the block stands on no page there (rules 6.3).",
		Block: func(l *Look, b *site.Block, tell Tell) {
			for _, p := range l.Site.PlacementsOf(b.ID) {
				there := func(spot site.Spot) bool { return region.There(l.Site, spot) }
				if len(p.Where) > 0 && !slices.ContainsFunc(p.Where, there) {
					tell(placeThing(p.ID), 0, "", "The block “%s” is to stand on pages that are gone.", b.Name)
				}
			}
		},
		FixWords: "Take the block from that place",
		Fix: func(_ *Look, p Problem) []edit.Op {
			return []edit.Op{edit.OpTakePlacement{Placement: site.PlacementID(p.On.ID)}}
		},
	}
}
