package region

import (
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// FillsAlike says that what a block has to show is the same on a page of two Sites, and on all pages below it, as far as the pages
// above decide it. Only a trail comes from above. The block, its menu and the page's own branch are the same in both.
func FillsAlike(was, is *site.Site, block *site.Block, panel *reach.Panel, page site.PageID) bool {
	if !follows(block) {
		return true
	}
	a, b := fillingAt(was, block, panel, page), fillingAt(is, block, panel, page)
	return a.renders == b.renders && a.trail.Alike(b.trail)
}

// SteadyFill says for which lenses a block has something to show; ok is false where that is not the same on every page.
func SteadyFill(s *site.Site, block *site.Block, panel *reach.Panel) (lenses reach.Mask, ok bool) {
	fill, ok := fillerOf(s, block, panel).(constant)
	if !ok || !fill.full {
		return 0, ok
	}
	return fill.lenses, true
}

// fillingAt walks down to a page.
func fillingAt(s *site.Site, block *site.Block, panel *reach.Panel, page site.PageID) filling {
	path := s.Path(page)
	f, state := fillerOf(s, block, panel), panel.Home(path[0])
	fill := f.home(path[0], state)
	for depth, p := range path[1:] {
		state = panel.Below(state, p)
		fill = f.below(fill, p, state, depth+1)
	}
	return fill
}
