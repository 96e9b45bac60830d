package check

import (
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
)

func blocksOneName() Check {
	return Check{
		Key: "blocks-one-name", Name: "Menu blocks of one name", Weight: Doubt,
		Why: "Who jumps from landmark to landmark can't tell them apart where both stand (rules 6.5; WCAG technique ARIA11).",
		Site: func(l *Look, tell Tell) {
			first := map[string]site.BlockID{}
			for i := range l.Site.Blocks() {
				b := &l.Site.Blocks()[i]
				if _, _, is := b.Menu(); !is || len(l.Site.PlacementsOf(b.ID)) == 0 {
					continue
				}
				name := region.LandmarkName(b)
				if other := first[name]; other != 0 {
					tell(blockThing(b.ID), 0, name, "Two blocks that show menus are called “%s”.", name)
				}
				first[name] = b.ID
			}
		},
	}
}
