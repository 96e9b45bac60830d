package reach

import "vineladder/internal/core/site"

// KeptOut says whether a page is kept out of search engines: by itself, or by one above it (rules 4.6).
func KeptOut(s *site.Site, id site.PageID) bool {
	for p := s.Page(id); p != nil; p = s.Page(p.Parent) {
		if p.KeptOut {
			return true
		}
	}
	return false
}

// ForEngines visits the pages that search engines are told of, in the tree's order: those that everybody reaches,
// without files, pages that stand in for others, and what is kept out of search engines.
func ForEngines(s *site.Site, out Lens, visit func(*site.Page)) {
	settings := s.Settings()
	panel := NewPanel(Lens{At: out.At})
	Walk(s, panel, func(p *site.Page, state State) bool {
		if p.KeptOut || state.Online == 0 {
			return false
		}
		switch p.ID {
		case settings.NotFound, settings.NoAccess, settings.SignIn, settings.Shut:
		default:
			if state.Reachable() != 0 && !p.IsFile() {
				visit(p)
			}
		}
		return true
	})
}
