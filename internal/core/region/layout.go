// Package region decides which layout a page has, which blocks stand in its regions for a lens, and on which pages a
// block stands (rules 6). Every answer carries its reason. It knows nothing of how a block looks.
package region

import "vineladder/internal/core/site"

// By says what decided on a layout (rules 6.1).
type By string

const (
	LayoutByPage   By = "page"   // the page's own
	LayoutByKind   By = "kind"   // that of its kind
	LayoutByBranch By = "branch" // the branch layout of the page or of the nearest one above that has one
	LayoutBySite   By = "site"   // the site's
)

// A Decision is a page's layout and what decided on it.
type Decision struct {
	Layout *site.Layout // nil where the theme has none at all
	By     By
	From   site.PageID // for ByPage and ByBranch: the page on which it is set
}

// LayoutOf decides on a page's layout: its own, else its kind's, else the branch layout of the page or its nearest
// ancestor that has one, else the site's (rules 6.1). A layout that the theme does not have any more decides nothing.
func LayoutOf(s *site.Site, id site.PageID) Decision {
	if p := s.Page(id); p != nil {
		if l := s.Layout(p.Layout); l != nil {
			return Decision{l, LayoutByPage, id}
		}
		if l := s.Layout(s.Kind(p.Kind).Layout); l != nil {
			return Decision{Layout: l, By: LayoutByKind}
		}
		for above := p; above != nil; above = s.Page(above.Parent) {
			if l := s.Layout(above.BranchLayout); l != nil {
				return Decision{l, LayoutByBranch, above.ID}
			}
		}
	}
	return Decision{Layout: ofSite(s), By: LayoutBySite}
}

// ofSite is the layout of pages of which nothing nearer says another: the one of the settings, else the theme's first.
func ofSite(s *site.Site) *site.Layout {
	if l := s.Layout(s.Settings().Layout); l != nil {
		return l
	}
	if layouts := s.Theme().Layouts; len(layouts) > 0 {
		return &layouts[0]
	}
	return nil
}
