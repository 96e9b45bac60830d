package reach

import (
	"slices"
	"time"

	"vineladder/internal/core/site"
)

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
	panel := NewPanel(Lens{At: out.At})
	Walk(s, panel, func(p *site.Page, state State) bool {
		if p.KeptOut || state.Online == 0 {
			return false
		}
		if state.Reachable() != 0 && !p.IsFile() && !StandsIn(s, p.ID) {
			visit(p)
		}
		return true
	})
}

// StandsIn says whether a page stands in for others, so that it is found nowhere as a page of its own (rules 4.5).
func StandsIn(s *site.Site, id site.PageID) bool {
	settings := s.Settings()
	return slices.Contains([]site.PageID{settings.NotFound, settings.NoAccess, settings.SignIn, settings.Shut}, id)
}

// IsForEngines says whether search engines are told of one page.
func IsForEngines(s *site.Site, id site.PageID, at time.Time) bool {
	p := s.Page(id)
	return s.InTree(id) && !p.IsFile() && !StandsIn(s, id) && !KeptOut(s, id) && Ask(s, id, Lens{At: at}) == Sees
}
