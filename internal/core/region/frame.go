package region

import (
	"cmp"
	"fmt"
	"slices"

	"vineladder/internal/core/listing"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/piece"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A Frame is everything that stands around the content of pages, for one lens. It is for one goroutine.
type Frame struct {
	site  *site.Site
	lens  reach.Lens
	panel *reach.Panel
	menus Menus
}

// Menus gives the lines that menu blocks show on pages.
type Menus interface {
	Lines(b *site.Block, page site.PageID) []menu.Node
}

// NewFrame looks at a site through a lens.
func NewFrame(s *site.Site, lens reach.Lens) *Frame {
	return &Frame{site: s, lens: lens, panel: reach.NewPanel(lens), menus: NewViews(s, lens)}
}

// WithMenus looks at a site with lines that come from elsewhere, where they may be kept.
func WithMenus(s *site.Site, lens reach.Lens, menus Menus) *Frame {
	return &Frame{site: s, lens: lens, panel: reach.NewPanel(lens), menus: menus}
}

// Views makes the lines of menus as they are asked for, and keeps the menus that it has looked at.
type Views struct {
	site  *site.Site
	lens  reach.Lens
	views map[site.MenuID]*menu.View
}

// NewViews looks at menus through a lens.
func NewViews(s *site.Site, lens reach.Lens) *Views { return &Views{site: s, lens: lens} }

// Lines gives what a menu block shows on a page; nothing for a block that shows something else.
func (v *Views) Lines(b *site.Block, page site.PageID) []menu.Node {
	id, window, isMenu := b.Menu()
	if !isMenu {
		return nil
	}
	if view := v.View(id); view != nil {
		return view.Window(window, page)
	}
	return nil
}

// View looks at a menu; nil if there is no such menu.
func (v *Views) View(id site.MenuID) *menu.View {
	view, known := v.views[id]
	if m := v.site.Menu(id); !known && m != nil {
		if v.views == nil {
			v.views = map[site.MenuID]*menu.View{}
		}
		view = menu.NewView(v.site, m, v.lens)
		v.views[id] = view
	}
	return view
}

// An Area is a region of a page with the placements in it, in order, those that do not show among them.
type Area struct {
	Region    *site.Region
	Standings []Standing
}

// A Standing is a placement on a page.
type Standing struct {
	Placement *site.Placement
	Block     *site.Block
	Why       Reason // "": it shows
	Lines     []menu.Node
	Landmark  string // of a block that shows as a landmark: a name that nothing else on the page has (rules 6.5)
}

// On decides all regions of a page, in the order in which the layout has them on narrow screens. A page that is not in
// the tree, 0 among them, has the site's layout.
func (f *Frame) On(page site.PageID) (Decision, []Area) {
	decided := LayoutOf(f.site, page)
	if decided.Layout == nil {
		return decided, nil
	}
	areas := make([]Area, 0, len(decided.Layout.Phone))
	for _, key := range decided.Layout.Phone {
		area := Area{Region: f.site.Theme().Region(key)}
		placements := f.site.Placements()
		for i := range placements {
			if p := &placements[i]; p.Region == key && (p.Layout == "" || p.Layout == decided.Layout.Key) {
				area.Standings = append(area.Standings, f.standing(p, page))
			}
		}
		areas = append(areas, area)
	}
	nameLandmarks(areas)
	return decided, areas
}

func (f *Frame) standing(p *site.Placement, page site.PageID) Standing {
	made := Standing{Placement: p, Block: f.site.Block(p.Block), Why: Ask(f.site, p, page, f.lens)}
	if made.Why == "" {
		made.Why, made.Lines = f.fill(made.Block, page)
	}
	return made
}

// fill gives what a block has to show on a page.
func (f *Frame) fill(b *site.Block, page site.PageID) (Reason, []menu.Node) {
	if b == nil {
		return ReasonEmpty, nil
	}
	full := piece.Of(b.Shows).Full(b.Shows, f.site.Page(page))
	switch shows := b.Shows.(type) {
	case site.BlockMenu:
		if lines := f.menus.Lines(b, page); len(lines) > 0 {
			return "", lines
		}
		return ReasonEmpty, nil
	case site.BlockImage:
		full = full && PictureReached(f.site, shows, f.panel) != 0
	case site.BlockChildren:
		full = len(f.Children(page)) > 0
	case site.BlockSearch:
		full = SearchReached(f.site, f.panel) != 0
	case site.BlockListing:
		full = len(f.Listed(b, page)) > 0
	}
	if !full {
		return ReasonEmpty, nil
	}
	return "", nil
}

// Children gives the pages inside one that a page-children block lists: the listed ones that the lens reaches (rules
// 4.4).
func (f *Frame) Children(page site.PageID) []site.PageID {
	var listed []site.PageID
	state := f.panel.At(f.site, page)
	for _, kid := range f.site.Children(page) {
		if p := f.site.Page(kid); p.Listed && f.panel.Below(state, p).Reachable() != 0 {
			listed = append(listed, kid)
		}
	}
	return listed
}

// Listed gives the pages that a listing shows on a page.
func (f *Frame) Listed(b *site.Block, page site.PageID) []site.PageID {
	q, _ := listing.OfBlock(f.site, b)
	reached := listing.Reached(f.site, q, f.panel)
	return listing.First(listing.Candidates(f.site, q), q.Most, page, func(id site.PageID) bool {
		return reached(id) != 0
	})
}

// nameLandmarks gives each block that shows as a landmark a name of its own: menus and breadcrumbs, texts, lists of
// pages and images. Two menus with the same links may share one.
func nameLandmarks(areas []Area) {
	naming := Naming{}
	for i := range areas {
		for k := range areas[i].Standings {
			if st := &areas[i].Standings[k]; st.Why == "" && IsLandmark(st.Block) {
				st.Landmark = naming.Name(st.Block, st.Lines)
			}
		}
	}
}

// IsLandmark says whether a block is a landmark of its page.
func IsLandmark(b *site.Block) bool { return piece.Of(b.Shows).Landmark }

// LandmarkName is the name of a block's landmark where nothing else takes it.
func LandmarkName(b *site.Block) string { return cmp.Or(b.Title, b.Name) }

// A Naming has the names of landmarks that are taken on a page, with the lines of the menus that took them.
type Naming map[string][]menu.Node

// Name names the landmark of a block that shows, the next one on its page.
func (n Naming) Name(b *site.Block, lines []menu.Node) string {
	name := LandmarkName(b)
	made := name
	for i := 2; ; i++ {
		taken, known := n[made]
		if !known || taken != nil && SameLinks(taken, lines) {
			n[made] = lines
			return made
		}
		made = fmt.Sprintf("%s (%d)", name, i)
	}
}

// SameLinks says whether two menus have the same lines, lit alike.
func SameLinks(a, b []menu.Node) bool {
	return slices.EqualFunc(a, b, func(x, y menu.Node) bool {
		return x.Entry == y.Entry && x.Page == y.Page && x.Own == y.Own && x.Label == y.Label && x.Level == y.Level &&
			x.Count == y.Count && x.Counted == y.Counted &&
			x.Trail == y.Trail && x.Current == y.Current && SameLinks(x.Children, y.Children)
	})
}
