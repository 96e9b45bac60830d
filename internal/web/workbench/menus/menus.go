package menus

import (
	"cmp"
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"vineladder/internal/core/consequence"
	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/say"
	"vineladder/internal/core/site"
	"vineladder/internal/web/skin"
	"vineladder/internal/web/workbench/desk"
)

// menusView is the menus area: one menu as a ladder, the blocks that show it, the sheet of the item that is selected,
// and what visitors get.
type menusView struct {
	desk.Screen
	Tabs    []menuTab // where all menus fit beside each other
	Choices []menuTab // where they do not: all, as a list to search
	Ladder  itemLadder
	Shows   []blockChoice
	Where   string
	Window  *windowForm // of the chosen block; nil if none shows the menu
	Item    *itemSheet
	Result  result
	May     grant.Answer
	Locked  bool
	OnPage  *site.Page // the page that the menu is looked at on
	Regions []site.Region
	Skin    []string // style sheets of the theme's and the badges' colours
}

// ItemTool is a tool that changes the menu.
func (v menusView) ItemTool(do, icon, words, key string) desk.Tool {
	return desk.Tool{Do: do, Icon: icon, Words: words, Key: key, Locked: v.Locked}
}

// A blockChoice is a block that shows the menu.
type blockChoice struct {
	*site.Block
	Words  string // what of the menu, and on how many pages
	On     bool
	Pages  int
	Places int
}

// A windowForm is the sentence of a block's window, as fields.
type windowForm struct {
	Block  *site.Block
	Window site.Window
	Heads  []head       // the numbered levels of the menu
	From   []site.Entry // items that have items below them
	Labels map[site.EntryID]string
}

// A head is a level of the menu, in the bracket or not.
type head struct {
	Level int
	In    bool
}

const (
	menusClosed = "menus-closed" // by number of an item
	menusLines  = "menus-lines"  // automatic lines that were opened, by page
)

// menus renders the menus area, or with X-Part only its parts.
func (s *Area) menus(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	view := menusView{Screen: desk.Screen{Desk: d}}
	if d.Menu != nil {
		closed, err := s.Store.OpenBranches(r.Context(), d.Who.ID, menusClosed)
		if err != nil {
			return err
		}
		opened, err := s.Store.OpenBranches(r.Context(), d.Who.ID, menusLines)
		if err != nil {
			return err
		}
		from := -1
		if n, err := strconv.Atoi(r.FormValue("from")); err == nil {
			from = max(0, n)
		}
		view.Ladder = s.ladders.of(d, closed, opened).window(from, desk.WindowRows)
		d.Item = desk.ReadItem(view.Ladder.Selected)
	}
	if r.Header.Get("X-Part") == "rows" {
		s.Render(w, r, "item-rows", view)
		return nil
	}
	var err error
	if view.Screen, err = s.Screen(r, d, "menus"); err != nil {
		return err
	}
	if err := s.fillMenus(r, d, &view); err != nil {
		return err
	}
	if view.Wrong, err = s.ProblemsOn(r, d, wrongOf(d)...); err != nil {
		return err
	}
	if r.Header.Get("X-Part") != "" {
		s.Render(w, r, "menu-parts", view)
		return nil
	}
	s.Render(w, r, "menus", view)
	return nil
}

// wrongOf gives the things of which the sheet tells what is wrong: the item and, where none is chosen, the menu.
func wrongOf(d *desk.Desk) []site.Thing {
	switch {
	case d.Item.Entry != 0:
		return []site.Thing{{Family: site.FamilyEntry, ID: int64(d.Item.Entry)}}
	case d.Menu != nil:
		return []site.Thing{site.MenuThing(d.Menu.ID)}
	}
	return nil
}

func (s *Area) fillMenus(r *http.Request, d *desk.Desk, view *menusView) error {
	view.Tabs, view.Choices = view.menuTabs()
	view.OnPage, view.May = d.Site.Page(d.Selected), mayLink(d)
	view.Locked = d.State == "now" || !view.May.Yes
	view.Skin = append(view.Skin, skin.ThemePath(d.Site.Theme()))
	if path := skin.PairsPath(d.Site); path != "" {
		view.Skin = append(view.Skin, path)
	}
	for _, region := range d.Site.Theme().Regions {
		if region.Key != site.ContentRegion {
			view.Regions = append(view.Regions, region)
		}
	}
	if d.Menu == nil {
		return nil
	}
	viewers, err := s.Viewers(r, d)
	if err != nil {
		return err
	}
	view.Shows, view.Where = blockChoices(d, d.Menu)
	if d.Block != nil {
		view.Window = windowFormOf(d, s.depths.of(d.Site, d.Menu))
	}
	view.Item = s.itemSheet(d)
	view.Result = resultOf(d, viewers)
	return nil
}

// blockChoices gives the blocks that show a menu, and says on how many pages it renders and through which of them
// (rules 5.7).
func blockChoices(d *desk.Desk, m *site.Menu) (choices []blockChoice, where string) {
	var parts []string
	for i := range d.Site.Blocks() {
		b := &d.Site.Blocks()[i]
		shows, window, isMenu := b.Menu()
		if !isMenu || shows != m.ID {
			continue
		}
		made := blockChoice{
			Block:  b,
			On:     d.Block != nil && d.Block.ID == b.ID,
			Places: len(d.Site.PlacementsOf(b.ID)),
		}
		made.Pages = region.Pages(d.Site, b, d.Lens)
		on := "on " + count.Pages(made.Pages)
		made.Words = d.WindowWordsOf(m, window)
		if made.Places == 0 {
			made.Words += ", in no region"
		}
		if made.Pages > 0 {
			parts = append(parts, fmt.Sprintf("%s through “%s”", on, b.Name))
		}
		choices = append(choices, made)
	}
	switch len(parts) {
	case 0:
		return choices, ""
	default:
		where = strings.Join(parts, ", ")
		return choices, strings.ToUpper(where[:1]) + where[1:]
	}
}

// windowForm lays out the window of the chosen block; levels is the number of levels that the menu has.
func windowFormOf(d *desk.Desk, levels int) *windowForm {
	_, w, _ := d.Block.Menu()
	form := &windowForm{Block: d.Block, Window: w, Labels: map[site.EntryID]string{}}
	first := w.First
	for level := 1; level <= max(levels, 3, first+w.Levels-1); level++ {
		in := level >= first && (w.Levels == 0 || level < first+w.Levels)
		form.Heads = append(form.Heads, head{level, in && w.From != site.FromEntry})
	}
	for i := range d.Menu.Entries {
		e := &d.Menu.Entries[i]
		if _, generated := e.Shows.(site.ItemBranch); generated || len(d.Menu.Below(e.ID)) > 0 {
			form.From = append(form.From, *e)
			form.Labels[e.ID] = d.Site.EntryLabel(e)
		}
	}
	return form
}

// Last is the last level that the bracket holds.
func (f *windowForm) Last() int {
	if f.Window.Levels == 0 {
		return len(f.Heads)
	}
	return f.Window.First + f.Window.Levels - 1
}

// result is what visitors get of the menu: what the chosen block shows on the page at hand, who sees which item, and
// why.
type result struct {
	Placed  bool // the block stands on that page
	Why     string
	Nodes   []menu.Node
	Viewers []string
	Matrix  []matrixRow
}

// A matrixRow says of an item who sees it. A cell is "sees" or "not"; with an arrow where the draft changes it.
type matrixRow struct {
	Level   int
	Label   string
	Cells   []string
	Differs bool
}

func resultOf(d *desk.Desk, viewers consequence.Viewers) result {
	made := result{Matrix: matrix(d, viewers)}
	for i, name := range viewers.Names {
		if i < 2 {
			name = []string{"Signed out", "Signed in"}[i]
		}
		made.Viewers = append(made.Viewers, say.Capital(name))
	}
	if d.Block == nil {
		made.Why = "No block shows this menu."
		return made
	}
	_, window, _ := d.Block.Menu()
	made.Nodes = menu.NewView(d.Site, d.Menu, d.Lens).Window(window, d.Selected)
	made.Placed, made.Why = stands(d, d.Block)
	return made
}

// stands says whether a block stands on the page at hand, and if not, why.
func stands(d *desk.Desk, b *site.Block) (bool, string) {
	placements := d.Site.PlacementsOf(b.ID)
	if len(placements) == 0 {
		return false, "“" + b.Name + "” stands in no region."
	}
	why := ""
	for _, p := range placements {
		reason := region.Ask(d.Site, p, d.Selected, d.Lens)
		if reason == "" {
			return true, ""
		}
		why = cmp.Or(why, d.WhyNotThere(p, reason))
	}
	return false, "On this page “" + b.Name + "” does not show: " + why + "."
}

// matrix says who sees each item, and of what is automatic each line at the top of its run. What the draft changes is
// said with what is public now.
func matrix(d *desk.Desk, viewers consequence.Viewers) []matrixRow {
	base := d.Draft.Base.Site
	shown, before := menu.Shown(d.Site, d.Menu, viewers.Panel), map[site.EntryID]reach.Mask{}
	if was := base.Menu(d.Menu.ID); was != nil {
		before = menu.Shown(base, was, viewers.Panel)
	}
	if d.State == "now" {
		before = shown
	}
	var rows []matrixRow
	add := func(label string, level int, was, is reach.Mask) {
		row := matrixRow{Level: level, Label: label, Differs: is != 0 && is != viewers.Panel.All() || was != is}
		for i := range viewers.Names {
			row.Cells = append(row.Cells, cell(was.Has(i), is.Has(i)))
		}
		rows = append(rows, row)
	}
	var list func(parent site.EntryID, level int)
	list = func(parent site.EntryID, level int) {
		for _, id := range d.Menu.Below(parent) {
			e := d.Menu.Entry(id)
			add(d.Site.EntryLabel(e), level, before[id], shown[id])
			is, stood := menu.Lines(
				d.Site,
				d.Menu,
				id,
				viewers.Panel,
			), menu.Lines(
				base,
				base.Menu(d.Menu.ID),
				id,
				viewers.Panel,
			)
			for _, page := range is.Or(stood, itemLimit) {
				add(menu.LabelOf(d.Site, e, page), level+1, stood.Shown[page]&before[id], is.Shown[page]&shown[id])
			}
			list(id, level+1)
		}
	}
	list(0, 1)
	return rows
}

func cell(was, is bool) string {
	words := map[bool]string{true: "sees", false: "not"}
	if was != is {
		return words[was] + " → " + words[is]
	}
	return words[is]
}

// PageAddress is the address of the page at hand.
func (v menusView) PageAddress() string { return desk.AddressOf(v.Site, v.Selected) }

// Zone names the zone of the site's times.
func (v menusView) Zone() string { return v.Site.Settings().Zone.String() }

// TreeLink is the address of a page in the tree.
func (v menusView) TreeLink(id site.PageID) string {
	return v.Link("/tree", "page", strconv.FormatInt(int64(id), 10))
}

// RegionName names a region by its key.
func (v menusView) RegionName(key string) string { return v.Site.Theme().Region(key).Name }

// Pairs are the theme's pairs of colours for badges.
func (v menusView) Pairs() []site.Pair { return v.Site.Theme().Pairs }

// MenuLink is the address of the area with another menu.
func (v menusView) MenuLink(id site.MenuID) string {
	return v.Here("menu", strconv.FormatInt(int64(id), 10))
}

// BlockLink is the address of the area that looks through another block.
func (v menusView) BlockLink(id site.BlockID) string {
	return v.Here("block", strconv.FormatInt(int64(id), 10))
}

// mayLink says whether the person may edit the menu at hand; without one, make it.
func mayLink(d *desk.Desk) grant.Answer {
	if d.Menu == nil {
		return d.May(string(site.ActionLink))
	}
	return d.MayOn(string(site.ActionLink), site.MenuThing(d.Menu.ID))
}

// MaySettle says whether the menus' blocks may be put into regions.
func (v menusView) MaySettle() grant.Answer { return v.MayAnywhere(string(site.ActionPlace)) }

// fieldsOf gives every field of an item as its sheet shows it.
func fieldsOf(e *site.Entry) map[string]string {
	fields := map[string]string{}
	for _, f := range edit.EntryFields() {
		fields[string(f)] = edit.EntryValue(e, f)
	}
	return fields
}
