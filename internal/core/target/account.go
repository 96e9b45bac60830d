package target

import (
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// account is a link that depends on the visitor.
func account() Type {
	t := typeOf[site.ItemAccount]("account", "Account link")
	t.Set = true
	t.Write = func(shows site.Shows) string { return string(shows.(site.ItemAccount).Does) }
	t.Read = func(_ *site.Site, text string) (site.Shows, error) {
		does, err := typed.OneOf(text, site.AccountLinks()...)
		return site.ItemAccount{Does: does}, err
	}
	t.Reached = func(s *site.Site, panel *reach.Panel, shows site.Shows) reach.Mask {
		does, mask := shows.(site.ItemAccount).Does, panel.All()
		for i, lens := range panel.Lenses() {
			if lens.SignedIn != does.ForSignedIn() || does == site.AccountRegister && !s.Settings().Register {
				mask &^= 1 << i
			}
		}
		return mask
	}
	t.Line = func(shows site.Shows) Line { return Line{Does: shows.(site.ItemAccount).Does} }
	return t
}
