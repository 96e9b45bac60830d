package region

import (
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A Sighting is a page on which a block shows to somebody who reaches it.
type Sighting struct {
	Page   *site.Page
	Layout *site.Layout
	Reach  reach.Mask   // for which lenses it is reached
	Stands []reach.Mask // by placement of the block, in order: for which lenses it shows there
	Ends   []menu.End   // of a menu block: where the trail ends
}

// Contexts are the pages on which a survey looks: branches, and pages by themselves. The zero Contexts are none.
type Contexts struct {
	Everywhere  bool
	Tops, Alone []site.PageID
}

// Survey visits the pages on which a block shows, placement by placement, with where the trail ends that decides how
// a menu looks there. A Sighting and its masks are the survey's own and true until visit returns.
func Survey(s *site.Site, block *site.Block, panel *reach.Panel, on Contexts, visit func(*Sighting)) {
	if block == nil || !on.Everywhere && len(on.Tops)+len(on.Alone) == 0 {
		return
	}
	var only *branches
	if !on.Everywhere {
		only = branchesOf(s, on.Tops, on.Alone)
	}
	seen := &Sighting{Stands: make([]reach.Mask, len(s.PlacementsOf(block.ID)))}
	walkFrom(s, block, panel, only, surveyor(s, block, panel), func(c *cover, p *site.Page, at *sight, own []flag) {
		seen.Page, seen.Layout, seen.Ends = p, c.layout(p, at), at.fill.trail.Ends
		seen.Reach = at.state.Reachable()
		shows, some := seen.Reach&at.fill.renders, reach.Mask(0)
		for i := range c.rules {
			seen.Stands[i] = shows & c.holds(i, p, at, own, seen.Layout)
			some |= seen.Stands[i]
		}
		if some != 0 {
			visit(seen)
		}
	})
}

// surveyor is the filler of a block, with the trail where it shows a menu.
func surveyor(s *site.Site, b *site.Block, panel *reach.Panel) filler {
	f := fillerOf(s, b, panel)
	fixed, isFixed := f.(constant)
	if id, window, isMenu := b.Menu(); isMenu && isFixed && s.Menu(id) != nil {
		m := s.Menu(id)
		return marked{fixed.lenses, menu.NewTrails(s, m, panel).Upto(menu.Deepest(s, m, window))}
	}
	return f
}

// marked is a menu block whose lines are the same on all pages, and of which the trail lights some.
type marked struct {
	lenses reach.Mask
	trails *menu.Trails
}

func (m marked) home(p *site.Page, state reach.State) filling {
	return filling{m.lenses, m.trails.Home(p, state)}
}

func (m marked) below(parent filling, p *site.Page, state reach.State, _ int) filling {
	return filling{m.lenses, m.trails.Below(parent.trail, p, state)}
}
