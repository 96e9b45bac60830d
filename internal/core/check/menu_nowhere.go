package check

import "vineladder/internal/core/site"

func menuNowhere() Check {
	return Check{
		Key: "menu-nowhere", Name: "Menus that are shown nowhere", Weight: Doubt,
		Why: "No block that stands on a page shows the menu, so no visitor ever sees it.",
		Menu: func(l *Look, m *site.Menu, tell Tell) {
			for i := range l.Site.Blocks() {
				b := &l.Site.Blocks()[i]
				if shown, _, is := b.Menu(); is && shown == m.ID && len(l.Site.PlacementsOf(b.ID)) > 0 {
					return
				}
			}
			if !m.Programs { // programs may show it elsewhere
				tell(site.MenuThing(m.ID), 0, "", "The menu “%s” is shown nowhere.", m.Name)
			}
		},
	}
}
