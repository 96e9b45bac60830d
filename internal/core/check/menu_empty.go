package check

import "vineladder/internal/core/site"

func menuEmpty() Check {
	return Check{
		Key: "menu-empty", Name: "Menus without items", Weight: Advice,
		Why: "A menu without items shows nothing.",
		Menu: func(_ *Look, m *site.Menu, tell Tell) {
			if len(m.Entries) == 0 {
				tell(site.MenuThing(m.ID), 0, "", "The menu “%s” has no items.", m.Name)
			}
		},
	}
}
