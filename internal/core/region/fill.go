package region

import (
	"vineladder/internal/core/listing"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/piece"
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
	switch shows := b.Shows.(type) {
	case site.BlockChildren:
		return children{s, panel}
	case site.BlockImage:
		return constant{PictureReached(s, shows, panel)}
	case site.BlockSearch:
		return constant{SearchReached(s, panel)}
	case site.BlockListing:
		q, _ := listing.OfBlock(s, b)
		return listedOf(s, q, panel)
	case site.BlockMenu:
		m := s.Menu(shows.Menu)
		if m == nil {
			return constant{}
		}
		if follows(b) {
			trails := menu.NewTrails(s, m, panel).Upto(menu.Deepest(s, m, shows.Window))
			return following{trails, shows.Window.First - 1}
		}
		return constant{menu.NewViews(s, m, panel).Some(shows.Window)}
	}
	return byPage{b.Shows, piece.Of(b.Shows), panel.All()}
}

// PictureReached says which lenses get the picture of a block: those that reach the file.
func PictureReached(s *site.Site, shows site.BlockImage, panel *reach.Panel) reach.Mask {
	id, isPage := site.ReadFileRef(shows.File)
	switch {
	case isPage:
		return panel.At(s, id).Reachable()
	case shows.File == "":
		return 0
	}
	return panel.All()
}

// SearchReached says which lenses reach the page on which visitors search; none where the settings choose none.
func SearchReached(s *site.Site, panel *reach.Panel) reach.Mask {
	id := s.Settings().Search
	if s.Page(id) == nil {
		return 0
	}
	return panel.At(s, id).Reachable()
}

// follows says whether what a block shows follows the trail to the current page.
func follows(b *site.Block) bool {
	_, w, isMenu := b.Menu()
	return isMenu && w.From == site.FromTrail && w.First > 1
}

// constant is what a block shows whatever the page.
type constant struct{ lenses reach.Mask }

func (c constant) home(*site.Page, reach.State) filling { return filling{renders: c.lenses} }

func (c constant) below(parent filling, _ *site.Page, _ reach.State, _ int) filling { return parent }

// byPage is a block whose type says page by page whether it has something to show, whoever looks.
type byPage struct {
	shows site.Piece
	piece *piece.Type
	all   reach.Mask
}

func (b byPage) home(p *site.Page, _ reach.State) filling {
	if !b.piece.Full(b.shows, p) {
		return filling{}
	}
	return filling{renders: b.all}
}

func (b byPage) below(_ filling, p *site.Page, state reach.State, _ int) filling {
	return b.home(p, state)
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

// listed is a listing: something shows to who reaches one of its pages besides the one on which it stands.
type listed struct {
	some  reach.Mask
	alone map[site.PageID]reach.Mask // pages that are the only hit of some lenses
}

func listedOf(s *site.Site, q site.BlockListing, panel *reach.Panel) listed {
	made := listed{alone: map[site.PageID]reach.Mask{}}
	only := map[int]site.PageID{} // by lens: the one hit so far
	var several reach.Mask
	reachedOf := listing.Reached(s, q, panel)
	for _, id := range listing.Candidates(s, q) {
		reached := reachedOf(id)
		several |= reached & made.some
		for fresh := reached &^ made.some; fresh != 0; fresh &^= 1 << fresh.First() {
			only[fresh.First()] = id
		}
		if made.some |= reached; several == panel.All() {
			break
		}
	}
	for lens, id := range only {
		if !several.Has(lens) {
			made.alone[id] |= 1 << lens
		}
	}
	return made
}

func (l listed) home(p *site.Page, _ reach.State) filling {
	return filling{renders: l.some &^ l.alone[p.ID]}
}

func (l listed) below(_ filling, p *site.Page, state reach.State, _ int) filling {
	return l.home(p, state)
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
