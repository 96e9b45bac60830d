package layouts

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"vineladder/internal/core/grant"
	"vineladder/internal/core/piece"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/web/skin"
	"vineladder/internal/web/workbench/desk"
)

// layoutsView is the layouts area: the map of a layout with the blocks that stand in its regions, and the sheet of the
// chip that is selected. It shows everything in a layout, or what stands on one page for the visitor one views as.
type layoutsView struct {
	desk.Screen
	Layouts []layoutTab
	Layout  *site.Layout
	OnPage  *site.Page // the page that the map is of; nil: everything in the layout
	By      string     // what decided on that page's layout
	Narrow  bool       // in the order of narrow screens
	Areas   []mapArea
	Tray    []mapChip // blocks that stand nowhere
	Lacks   []lack    // blocks that would stand on the page at hand if its layout had their region
	Chip    chipID
	Block   *blockSheet
	Region  *regionSheet
	Sets    *setsSheet // of conditions; nil: they are not looked at
	Locked  bool
	MayPut  grant.Answer
	Skin    []string
	Sorts   []piece.Type
}

// A layoutTab is a layout to choose, with a small drawing of its grid.
type layoutTab struct {
	*site.Layout
	On   bool
	Rows int
	Box  []layoutBox
}

// A layoutBox is a region in the small drawing, in cells of the grid.
type layoutBox struct {
	X, Y, W, H int
	Columns    int
	Content    bool
}

func (b layoutBox) Left() int { return b.X * drawnWidth / b.Columns }
func (b layoutBox) Top() int  { return b.Y * drawnRow }
func (b layoutBox) Wide() int { return b.W*drawnWidth/b.Columns - 1 }
func (b layoutBox) High() int { return b.H*drawnRow - 1 }

// Height of the small drawing, with its margin.
func (t layoutTab) Height() int { return t.Rows*drawnRow + 2 }

// drawnRow and drawnWidth are the sizes of the small drawing: a row, and all columns together.
const drawnRow, drawnWidth = 6, 36

// A mapArea is a region of the map.
type mapArea struct {
	*site.Region
	Content bool
	Chips   []mapChip
	On      bool // it is the selected one
}

// A mapChip is a block in a region of the map, or in the tray.
type mapChip struct {
	ID       string
	Order    int // in its region, over all layouts; 0 in the tray
	Name     string
	What     string
	Where    string
	Off      bool
	Ghost    string // why it does not show on the page at hand
	Selected bool
	Block    site.BlockID
	Change   string
	Kinds    string // by which blocks are found on the map: type, “is:off”, “is:ends”
}

// A lack is a block for which the layout of the page at hand has no region.
type lack struct{ ID, Name, Region string }

// A chipID names what is selected on the map: a placement, a block of the tray, a region, a condition set, or all of
// these.
type chipID struct {
	Placement site.PlacementID
	Block     site.BlockID
	Region    string
	Set       site.SetID
	Sets      bool
}

// readChip reads "p12", "b5", "r:left", "s7" or "s".
func readChip(typed string) chipID {
	switch {
	case typed == "s":
		return chipID{Sets: true}
	case strings.HasPrefix(typed, "s"):
		return chipID{Set: desk.Number[site.SetID](typed[1:])}
	case strings.HasPrefix(typed, "p"):
		return chipID{Placement: desk.Number[site.PlacementID](typed[1:])}
	case strings.HasPrefix(typed, "b"):
		return chipID{Block: desk.Number[site.BlockID](typed[1:])}
	case strings.HasPrefix(typed, "r:"):
		return chipID{Region: typed[2:]}
	}
	return chipID{}
}

// things gives the block of a chip, and its place.
func (id chipID) things(s *site.Site) (all []site.Thing) {
	if p := s.Placement(id.Placement); p != nil {
		id.Block = p.Block
		all = append(all, site.Thing{Family: site.FamilyPlacement, ID: int64(p.ID)})
	}
	if id.Block != 0 {
		all = append(all, site.Thing{Family: site.FamilyBlock, ID: int64(id.Block)})
	}
	return all
}

func (id chipID) String() string {
	switch {
	case id.Placement != 0:
		return fmt.Sprintf("p%d", id.Placement)
	case id.Block != 0:
		return fmt.Sprintf("b%d", id.Block)
	case id.Region != "":
		return "r:" + id.Region
	case id.Set != 0:
		return fmt.Sprintf("s%d", id.Set)
	case id.Sets:
		return "s"
	}
	return ""
}

func (s *Area) layouts(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	view := layoutsView{
		Screen: desk.Screen{Desk: d},
		Narrow: r.FormValue("narrow") == "yes",
		MayPut: d.MayAnywhere(string(site.ActionPlace)),
		Sorts:  piece.Types(),
	}
	view.Locked = d.State == "now" || !view.MayPut.Yes
	decision := region.LayoutOf(d.Site, d.Selected)
	if r.FormValue("mode") == "page" {
		view.OnPage, view.Layout, view.By = d.Site.Page(d.Selected), decision.Layout, d.DecidedBy(decision)
	} else if view.Layout = d.Site.Layout(r.FormValue("layout")); view.Layout == nil {
		view.Layout = decision.Layout
	}
	view.Chip = readChip(r.FormValue("chip"))
	var err error
	if view.Screen, err = s.Screen(r, d, "layouts"); err != nil {
		return err
	}
	if view.Wrong, err = s.ProblemsOn(r, d, view.Chip.things(d.Site)...); err != nil {
		return err
	}
	view.fill()
	view.Block = blockSheetOf(d, view.Chip)
	if of := d.Site.Theme().Region(view.Chip.Region); of != nil {
		view.Region = regionSheetOf(d, of)
	}
	view.Sets = setsOf(d, view.Chip)
	view.Skin = append(view.Skin, skin.ThemePath(d.Site.Theme()))
	name := "layouts"
	if r.Header.Get("X-Part") != "" {
		name = "layout-parts"
	}
	s.Render(w, r, name, view)
	return nil
}

// fill lays out the tabs, the regions with their chips, and the tray.
func (v *layoutsView) fill() {
	theme := v.Site.Theme()
	for i := range theme.Layouts {
		l := &theme.Layouts[i]
		v.Layouts = append(v.Layouts, layoutTab{Layout: l, On: l == v.Layout, Rows: len(l.Wide), Box: boxes(l)})
	}
	if v.Layout == nil {
		return
	}
	changed, order := changedPlaces(v.Desk), v.Layout.Order(v.Narrow)
	if v.OnPage != nil {
		_, areas := region.NewFrame(v.Site, v.Lens).On(v.OnPage.ID)
		for _, area := range areas {
			made := v.area(area.Region)
			for _, st := range area.Standings {
				chip := v.chip(st.Placement, changed)
				chip.Ghost = v.WhyNotThere(st.Placement, st.Why)
				made.Chips = append(made.Chips, chip)
			}
			v.Areas = append(v.Areas, made)
		}
		v.Lacks = lacks(v.Desk, v.OnPage.ID)
		slices.SortFunc(
			v.Areas,
			func(a, b mapArea) int { return slices.Index(order, a.Key) - slices.Index(order, b.Key) },
		)
	} else {
		for _, key := range order {
			made := v.area(theme.Region(key))
			for _, id := range region.In(v.Site, key) {
				if p := v.Site.Placement(id); p.Layout == "" || p.Layout == v.Layout.Key {
					made.Chips = append(made.Chips, v.chip(p, changed))
				}
			}
			v.Areas = append(v.Areas, made)
		}
	}
	for i := range v.Site.Blocks() {
		b := &v.Site.Blocks()[i]
		if len(v.Site.PlacementsOf(b.ID)) == 0 {
			id := chipID{Block: b.ID}
			v.Tray = append(
				v.Tray,
				mapChip{
					ID: id.String(), Name: b.Name, What: v.PieceWords(b), Selected: id == v.Chip, Block: b.ID,
					Kinds: kinds(v.Desk, b, nil),
				},
			)
		}
	}
}

func (v *layoutsView) area(of *site.Region) mapArea {
	return mapArea{Region: of, Content: of.Key == site.ContentRegion, On: v.Chip.Region == of.Key}
}

func (v *layoutsView) chip(p *site.Placement, changed map[site.PlacementID]string) mapChip {
	b := v.Site.Block(p.Block)
	position, _ := region.Position(v.Site, p)
	id := chipID{Placement: p.ID}
	chip := mapChip{
		ID:       id.String(),
		Order:    position,
		Name:     b.Name,
		What:     v.PieceWords(b),
		Off:      p.Off,
		Selected: id == v.Chip,
		Block:    b.ID,
		Change:   changed[p.ID],
	}
	var where []string
	if p.Off {
		where = append(where, "switched off")
	}
	if !p.Conditions.Free() {
		where = append(where, "conditional")
	}
	if p.Layout == "" {
		where = append(where, "in all layouts")
	}
	chip.Where, chip.Kinds = strings.Join(where, " · "), kinds(v.Desk, b, p)
	return chip
}

// endsSoon is how long before its end a block is told to end.
const endsSoon = 30 * 24 * time.Hour

// kinds gives the words by which a block is found on the map.
func kinds(d *desk.Desk, b *site.Block, p *site.Placement) string {
	words := []string{piece.Of(b.Shows).Key}
	if p != nil && p.Off {
		words = append(words, "is:off")
	}
	if p != nil && !p.LiveUntil.IsZero() && p.LiveUntil.After(d.Lens.At) &&
		p.LiveUntil.Before(d.Lens.At.Add(endsSoon)) {
		words = append(words, "is:ends")
	}
	return strings.Join(words, " ")
}

// lacks lists the blocks for which a page's layout has no region.
func lacks(d *desk.Desk, page site.PageID) []lack {
	var all []lack
	for i := range d.Site.Placements() {
		if p := &d.Site.Placements()[i]; region.Lacks(d.Site, p, page, d.Lens) {
			id := chipID{Placement: p.ID}
			all = append(all, lack{id.String(), d.Site.Block(p.Block).Name, d.Site.Theme().Region(p.Region).Name})
		}
	}
	return all
}

// changedPlaces says of each placement what the draft did to it.
func changedPlaces(d *desk.Desk) map[site.PlacementID]string {
	changed := map[site.PlacementID]string{}
	base := d.Draft.Base.Site
	if d.State == "now" {
		return changed
	}
	for i := range d.Site.Placements() {
		p := &d.Site.Placements()[i]
		switch was := base.Placement(p.ID); {
		case was == nil:
			changed[p.ID] = "New"
		case was.Region != p.Region || region.MovedAmong(base, d.Site, p):
			changed[p.ID] = "Moved"
		case !samePlacement(was, p):
			changed[p.ID] = "Edited"
		}
	}
	return changed
}

func samePlacement(a, b *site.Placement) bool {
	return a.Layout == b.Layout && a.Set == b.Set && a.Off == b.Off && a.Audience == b.Audience &&
		a.LiveFrom.Equal(b.LiveFrom) &&
		a.LiveUntil.Equal(b.LiveUntil) &&
		slices.Equal(a.Where, b.Where) &&
		slices.Equal(a.Except, b.Except) &&
		slices.Equal(a.Kinds, b.Kinds) &&
		slices.Equal(a.NotKinds, b.NotKinds)
}

// boxes draws a layout's grid: each region as one rectangle of cells.
func boxes(l *site.Layout) []layoutBox {
	var drawn []layoutBox
	seen := map[string]int{}
	for y, row := range l.Wide {
		for x, key := range row {
			at, known := seen[key]
			if !known {
				seen[key] = len(drawn)
				drawn = append(
					drawn,
					layoutBox{X: x, Y: y, W: 1, H: 1, Columns: len(row), Content: key == site.ContentRegion},
				)
				continue
			}
			box := &drawn[at]
			box.W, box.H = max(box.W, x-box.X+1), max(box.H, y-box.Y+1)
		}
	}
	return drawn
}

// LayoutLink is the address of the area with another layout, all of it.
func (v layoutsView) LayoutLink(key string) string {
	return v.Link("/layouts", "layout", key) + "&mode=all"
}

// RegionName names a region by its key.
func (v layoutsView) RegionName(key string) string { return v.Site.Theme().Region(key).Name }

// PageAddress is the address of the page at hand.
func (v layoutsView) PageAddress() string { return desk.AddressOf(v.Site, v.Selected) }

// Zone names the zone of the site's times.
func (v layoutsView) Zone() string { return v.Site.Settings().Zone.String() }

// ChipPage is the number of the page at hand, as the address has it.
func (v layoutsView) ChipPage() string { return strconv.FormatInt(int64(v.Selected), 10) }

// Regions are those in which blocks can stand.
func (v layoutsView) Regions() []site.Region {
	return slices.DeleteFunc(
		slices.Clone(v.Site.Theme().Regions),
		func(r site.Region) bool { return r.Key == site.ContentRegion },
	)
}
