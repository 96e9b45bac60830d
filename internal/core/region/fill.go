package region

import (
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A filler says for which lenses a block has something to show, page by page on the way down a walk.
type filler interface {
	home(p *site.Page, state reach.State) filling
	// below gives a page's filling from its parent's; depth is the page's level in the tree.
	below(parent filling, p *site.Page, state reach.State, depth int) filling
}

// A filling is what a walk carries down for a filler.
type filling struct {
	renders reach.Mask
	trail   menu.Footing
}

func fillerOf(s *site.Site, b *site.Block, panel *reach.Panel) filler {
	switch piece := b.Shows.(type) {
	case site.BlockBreadcrumb:
		return belowHome{panel.All()}
	case site.BlockChildren:
		return children{s, panel}
	case site.BlockText:
		return constant{panel.All(), piece.Text != ""}
	case site.BlockImage:
		return constant{panel.All(), piece.File != ""}
	case site.BlockMenu:
		m := s.Menu(piece.Menu)
		if m == nil {
			return constant{}
		}
		if follows(b) {
			trails := menu.NewTrails(s, m, panel).Upto(menu.Deepest(m, piece.Window))
			return following{trails, piece.Window.First - 1}
		}
		return constant{menu.NewViews(s, m, panel).Some(piece.Window), true}
	}
	return constant{panel.All(), true}
}

// follows says whether what a block shows follows the trail to the current page.
func follows(b *site.Block) bool {
	_, w, isMenu := b.Menu()
	return isMenu && w.From == site.FromTrail && w.First > 1
}

// constant is what a block shows whatever the page.
type constant struct {
	lenses reach.Mask
	full   bool
}

func (c constant) home(*site.Page, reach.State) filling {
	if !c.full {
		return filling{}
	}
	return filling{renders: c.lenses}
}

func (c constant) below(parent filling, _ *site.Page, _ reach.State, _ int) filling { return parent }

// belowHome is a breadcrumb: it has something to show everywhere but on the home page.
type belowHome struct{ all reach.Mask }

func (b belowHome) home(*site.Page, reach.State) filling { return filling{} }
func (b belowHome) below(filling, *site.Page, reach.State, int) filling {
	return filling{renders: b.all}
}

// children lists the pages inside.
type children struct {
	site  *site.Site
	panel *reach.Panel
}

func (c children) home(p *site.Page, state reach.State) filling {
	return filling{renders: menu.ListedBelow(c.site, c.panel, p.ID, state)}
}

func (c children) below(_ filling, p *site.Page, state reach.State, _ int) filling {
	return c.home(p, state)
}

// following is a menu block that follows the trail, below the line at a level.
type following struct {
	trails *menu.Trails
	level  int
}

func (f following) home(p *site.Page, state reach.State) filling {
	return f.at(f.trails.Home(p, state))
}

func (f following) below(parent filling, p *site.Page, state reach.State, depth int) filling {
	return f.at(f.trails.Below(parent.trail, p, state))
}

func (f following) at(trail menu.Footing) filling {
	return filling{f.trails.Renders(trail, f.level), trail}
}
