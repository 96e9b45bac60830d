package workbench

import (
	"fmt"
	"net/http"
	"strconv"
	"strings"

	"vineladder/internal/core/address"
	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// menusView is the menus area: one menu with its entries, who sees each, and what its blocks show on a page.
type menusView struct {
	*desk
	Area    string
	Name    string
	Roles   []site.Role
	Menus   []site.Menu
	Menu    *site.Menu
	Rows    []entryRow
	Blocks  []blockResult
	Viewers []string // columns of the matrix
	On      string   // address of the page that the blocks are looked at on
	Fault   string   // why that page was not found
	Item    *itemSheet
	MayEdit grant.Answer
	Others  []site.Menu // to which an item can go
	Shown   bool        // a block shows the menu
}

// An itemSheet is the item that is selected, with its fields as the form writes them.
type itemSheet struct {
	*site.Entry
	Label   string // as visitors read it
	Fields  map[string]string
	Sort    string
	Leads   string
	Levels  int
	Self    site.Self
	From    string
	Until   string
	Several string // the audience in words, where it is more than one role
	NoKids  bool   // it is generated, so none can be put below it
}

// An entryRow is one entry in the ladder of a menu, or an automatic line below it.
type entryRow struct {
	Level     int
	Rails     []rail
	Label     string
	Leads     string
	Shape     string // "full": it shows to the lens; "stub": not
	Words     string // shows, or why not
	Who       string // set here; "" is everyone
	Marks     []string
	Automatic bool
	ID        site.EntryID
	On        bool   // it is the selected one
	Sees      []bool // for each viewer; nil for automatic lines
	Differs   bool   // some see it and some do not
}

// A blockResult is what one block of the menu shows.
type blockResult struct {
	site.MenuBlock
	Sentence string // what it shows, in words
	Pages    int    // on which it renders a line, for the lens
	Result   []menu.Node
}

func (s *Server) menus(w http.ResponseWriter, r *http.Request, d *desk) error {
	view := menusView{desk: d, Area: "menus", Name: d.Site.Settings().Name, Roles: d.Site.Roles(), Menus: d.Site.Menus()}
	id, _ := strconv.ParseInt(r.FormValue("menu"), 10, 64)
	if view.Menu = d.Site.Menu(site.MenuID(id)); view.Menu == nil && len(view.Menus) > 0 {
		view.Menu = &view.Menus[0]
	}
	if on := strings.TrimSpace(strings.TrimPrefix(strings.TrimSpace(r.FormValue("on")), s.settings.Site)); on != "" {
		path, err := address.Normal("/" + strings.TrimLeft(on, "/"))
		found := address.Resolve(d.Site, path, s.now())
		if err != nil || found.Page == 0 || found.Gone {
			view.Fault = "There is no page at " + on + "; you see the menu on “" + d.Site.Page(d.Selected).Label + "”."
		} else {
			d.Selected = found.Page
		}
	}
	view.On, view.MayEdit = addressOf(d.Site, d.Selected), d.May(string(site.Link))
	if view.Menu != nil {
		viewers, err := s.viewers(r, d)
		if err != nil {
			return err
		}
		item, _ := strconv.ParseInt(r.FormValue("item"), 10, 64)
		if e := view.Menu.Entry(site.EntryID(item)); e != nil {
			view.Item = d.itemSheet(e)
		}
		for _, other := range view.Menus {
			if other.ID != view.Menu.ID {
				view.Others = append(view.Others, other)
			}
		}
		view.Viewers = viewers.Names
		view.Rows = d.entryRows(view.Menu, viewers)
		for i := range view.Rows {
			view.Rows[i].On = view.Item != nil && view.Rows[i].ID == view.Item.ID
		}
		for _, block := range d.Site.Blocks() {
			if block.Menu == view.Menu.ID {
				view.Shown = true
				view.Blocks = append(view.Blocks, d.blockResult(view.Menu, block))
			}
		}
	}
	s.render(w, r, "menus", view)
	return nil
}

// automaticLimit bounds the automatic lines that the area lists below their entry.
const automaticLimit = 40

// entryRows lays the entries out in their tree, each followed by the first automatic lines that it makes for the lens.
func (d *desk) entryRows(m *site.Menu, viewers consequence.Viewers) []entryRow {
	admitted := menu.Shown(d.Site, m, viewers.Panel)
	view := menu.NewView(d.Site, m, d.Lens)
	var rows []entryRow
	var list func(parent site.EntryID, level int)
	list = func(parent site.EntryID, level int) {
		for i := range m.Entries {
			e := &m.Entries[i]
			if e.Parent != parent {
				continue
			}
			rows = append(rows, d.entryRow(m, e, level, viewers, admitted[e.ID]))
			if _, generated := e.Shows.(site.ToBranch); generated {
				rows = append(rows, automatic(view.RunOf(e.ID), level+1)...)
			}
			list(e.ID, level+1)
		}
	}
	list(0, 1)
	return rows
}

func automatic(lines []menu.Line, level int) []entryRow {
	var rows []entryRow
	for i, line := range lines {
		if i == automaticLimit {
			return append(rows, entryRow{Level: level, Rails: make([]rail, level), Label: fmt.Sprintf("%d more", len(lines)-i), Shape: "full", Automatic: true})
		}
		rows = append(rows, entryRow{Level: level, Rails: make([]rail, level), Label: line.Label, Shape: "full", Words: "Automatic", Automatic: true})
	}
	return rows
}

func (d *desk) entryRow(m *site.Menu, e *site.Entry, level int, viewers consequence.Viewers, admitted reach.Mask) entryRow {
	row := entryRow{ID: e.ID, Level: level, Rails: make([]rail, level), Label: d.Site.EntryLabel(e), Who: audienceWords(d.Site, e.Audience), Shape: "full", Words: "Shows"}
	row.Leads = d.leads(e)
	if why := menu.WhyNot(d.Site, m, e.ID, d.Lens); why.Entry != 0 {
		row.Shape, row.Words = "stub", d.whyWords(m, e, why)
	}
	if e.Badge.Text != "" {
		row.Marks = append(row.Marks, "badge “"+e.Badge.Text+"”")
	}
	if e.Icon != "" {
		row.Marks = append(row.Marks, "icon")
	}
	if e.NewTab {
		row.Marks = append(row.Marks, "new tab")
	}
	for i := range viewers.Names {
		row.Sees = append(row.Sees, admitted.Has(i))
	}
	row.Differs = admitted != 0 && admitted != viewers.Panel.All()
	return row
}

// itemSheet lays out the fields of an item.
func (d *desk) itemSheet(e *site.Entry) *itemSheet {
	sheet := &itemSheet{Entry: e, Label: d.Site.EntryLabel(e), Fields: map[string]string{}, From: formMoment(d.Site, e.LiveFrom), Until: formMoment(d.Site, e.LiveUntil), Self: site.SelfNot}
	for _, f := range []edit.Field{edit.Shows, edit.Label, edit.Hint, edit.On, edit.Audience, edit.LiveFrom, edit.LiveUntil, edit.NewTab, edit.BadgeText, edit.BadgePair, edit.BadgeBefore, edit.Icon} {
		sheet.Fields[string(f)] = edit.EntryValue(e, f)
	}
	switch to := e.Shows.(type) {
	case site.ToPage:
		sheet.Sort, sheet.Leads = "page", addressOf(d.Site, to.Page)
	case site.ToBranch:
		sheet.Sort, sheet.Leads, sheet.Levels, sheet.Self, sheet.NoKids = "branch", addressOf(d.Site, to.Root), to.Depth, to.Self, true
	case site.ToWeb:
		sheet.Sort, sheet.Leads = "web", to.Address
	case site.ToAccount:
		sheet.Sort = string(to.Does)
	case site.ToFile:
		sheet.Sort, sheet.Leads = "file", to.File
	default:
		sheet.Sort = "heading"
	}
	if len(e.Audience.Roles()) > 1 {
		sheet.Several = audienceWords(d.Site, e.Audience)
	}
	return sheet
}

// leads says where an entry leads, or what it makes.
func (d *desk) leads(e *site.Entry) string {
	switch to := e.Shows.(type) {
	case site.ToPage:
		return addressOf(d.Site, to.Page)
	case site.ToBranch:
		levels := "all levels"
		if to.Depth > 0 {
			levels = fmt.Sprintf("%d levels", to.Depth)
		}
		return fmt.Sprintf("the listed pages in “%s”, %s", d.Site.Page(to.Root).Label, levels)
	case site.ToWeb:
		return to.Address
	case site.ToFile:
		return "file " + to.File
	case site.ToAccount:
		return map[site.AccountLink]string{site.SignInLink: "sign in", site.SignOutLink: "sign out"}[to.Does]
	}
	return "a heading, no link"
}

// whyWords says why an entry does not show; the reason names the highest one that fails.
func (d *desk) whyWords(m *site.Menu, e *site.Entry, why menu.Why) string {
	words := map[menu.Reason]string{
		menu.ReasonOff:      "it is switched off",
		menu.ReasonWindow:   "it is outside its time",
		menu.ReasonAudience: "it is for others",
		menu.ReasonTarget:   "this visitor does not reach the page",
		menu.ReasonAccount:  "it depends on who is signed in",
		menu.ReasonChildren: "nothing below it shows",
	}[why.Reason]
	if why.Entry == e.ID {
		return "Not: " + words
	}
	return "Not: “" + d.Site.EntryLabel(m.Entry(why.Entry)) + "” above it does not show (" + words + ")"
}

func (d *desk) blockResult(m *site.Menu, block site.MenuBlock) blockResult {
	b := blockResult{MenuBlock: block, Sentence: windowSentence(m, block.Window), Pages: menu.Pages(d.Site, block, d.Lens)}
	if block.StandsOn(d.Site, d.Selected) {
		b.Result = menu.NewView(d.Site, m, d.Lens).Window(block.Window, d.Selected)
	}
	return b
}

// windowSentence says what a block shows as the sentence of its fields.
func windowSentence(m *site.Menu, w site.Window) string {
	levels := "all levels"
	if w.Levels == 1 {
		levels = "1 level"
	} else if w.Levels > 1 {
		levels = fmt.Sprintf("%d levels", w.Levels)
	}
	from := fmt.Sprintf("level %d of the whole menu", w.First)
	switch {
	case w.From == site.FromEntry:
		from = "what is below one item"
		if e := m.Entry(w.Entry); e != nil && e.Label != "" {
			from = "what is below “" + e.Label + "”"
		}
	case w.From == site.FromTrail && w.First > 1:
		from = fmt.Sprintf("level %d of where the visitor is", w.First)
	}
	open := "sub-levels all open"
	if w.Unfold == site.UnfoldTrail {
		open = "sub-levels open where the visitor is"
	}
	return fmt.Sprintf("Shows %s from %s, %s.", levels, from, open)
}

// Where says on how many pages the menu renders; "" if it has no block.
func (v menusView) Where() string {
	if len(v.Blocks) == 0 {
		return ""
	}
	var parts []string
	for _, b := range v.Blocks {
		parts = append(parts, fmt.Sprintf("%s: on %s", b.Name, pagesWords(b.Pages)))
	}
	return strings.Join(parts, "; ")
}

// Column names a viewer in the head of the matrix.
func (v menusView) Column(name string) string {
	first := []rune(name)
	return strings.ToUpper(string(first[:1])) + string(first[1:])
}

// ItemLink is the address of the area with an item selected.
func (v menusView) ItemLink(id site.EntryID) string {
	return v.Link("/menus", "menu", strconv.FormatInt(int64(v.Menu.ID), 10)) + "&item=" + strconv.FormatInt(int64(id), 10)
}

// NewItem is what the form of a new item begins with.
func (v menusView) NewItem() itemSheet { return itemSheet{Self: site.SelfNot} }

// A way is a step by which an item can be moved.
type way struct{ Key, Words string }

// Ways are the steps that an item can be moved by.
func (v menusView) Ways() []way {
	return []way{{"up", "Up"}, {"down", "Down"}, {"in", "In"}, {"out", "Out"}}
}

// Pairs are the theme's pairs of colours for badges.
func (v menusView) Pairs() []string { return []string{"deep", "sand", "buoy"} }
