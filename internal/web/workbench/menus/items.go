package menus

import (
	"fmt"
	"slices"
	"strings"

	"vineladder/internal/core/address"
	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/rise"
	"vineladder/internal/core/site"
	"vineladder/internal/web/skin"
	"vineladder/internal/web/workbench/desk"
)

// An itemRow is one row of the ladder of a menu.
type itemRow struct {
	ID        string
	Row       int // from 1, over all rows
	Level     int
	Stands    int // level of the menu at which its line stands; 0: it makes none
	Pos, Size int
	Rails     []struct{}
	Label     string
	Leads     string // where it leads, or what it makes
	Shape     string // "full": it shows to the lens; "stub": not
	Shows     string // "Yes", or why not
	Who       string // set here, in words; empty: everyone
	Icon      string
	Badge     site.Badge
	BadgeLook string // class of its pair of colours
	NewTab    bool
	Automatic bool
	Grown     string // by what, where that is not the tree
	Count     string // of the pages of a topic, where the line says it
	Set       string // what is set of a line that grows
	Lit       bool   // on the highlighted path of the page at hand
	Cut       bool   // in what the chosen block shows on that page
	Outside   string // why not, though it shows
	Change    string // New, Moved, Edited
	Ghost     string // a row that only marks an old place: what became of it
	Kids      bool
	Open      bool
	Selected  bool
}

// itemLadder is the ladder of a menu, of which one window is rendered.
type itemLadder struct {
	Rows     []itemRow
	From     int
	Total    int
	Index    int // of the selected row; -1 if it is not there
	Selected string
	Levels   int // of the deepest line
	Shown    int // rows that show to the lens
	Hidden   int // rows that do not
}

// itemLimit bounds the automatic lines that are listed below one line.
const itemLimit = 60

// items lays out a menu's rows and gives one window.
func items(d *desk.Desk, closed, opened map[site.PageID]bool, from, count int) itemLadder {
	return layItems(d, closed, opened).window(from, count)
}

// window cuts some rows out. A negative from puts the selected row into sight.
func (l itemLadder) window(from, count int) itemLadder {
	if from < 0 {
		from = max(0, l.Index-count/2)
	}
	l.From = min(from, l.Total)
	l.Rows = l.Rows[l.From:min(l.Total, l.From+count)]
	return l
}

// layItems lays out a menu's rows. Items are open unless they were closed, automatic lines closed unless they were
// opened.
func layItems(d *desk.Desk, closed, opened map[site.PageID]bool) itemLadder {
	l := &laying{
		d:       d,
		closed:  closed,
		opened:  opened,
		view:    menu.NewView(d.Site, d.Menu, d.Lens),
		panel:   reach.NewPanel(d.Lens),
		why:     menu.NewReasons(d.Site, d.Menu, d.Lens),
		changed: changedItems(d),
		cut:     map[desk.ItemID]menu.Node{},
	}
	if d.Block != nil {
		_, l.window, _ = d.Block.Menu()
		l.keep(l.view.Window(l.window, d.Selected))
	}
	l.below(0, 0, 1, nil)
	l.filter(question(d))
	made := l.ladder
	made.Index = slices.IndexFunc(made.Rows, func(r itemRow) bool { return r.Selected })
	made.Total, made.Selected = len(made.Rows), d.Item.String()
	if made.Index < 0 {
		if made.Index = slices.IndexFunc(made.Rows, func(r itemRow) bool { return r.Ghost == "" }); made.Index >= 0 {
			made.Selected, made.Rows[made.Index].Selected = made.Rows[made.Index].ID, true
		}
	}
	return made
}

type laying struct {
	d              *desk.Desk
	closed, opened map[site.PageID]bool // by number of an item, and of a page
	view           *menu.View
	panel          *reach.Panel // of the lens
	window         site.Window
	cut            map[desk.ItemID]menu.Node // what the chosen block shows
	changed        map[site.EntryID]string
	why            *menu.Reasons
	ladder         itemLadder
}

func (l *laying) keep(nodes []menu.Node) {
	for _, n := range nodes {
		l.cut[desk.ItemID{Entry: n.Entry, Page: n.Page}] = n
		l.keep(n.Children)
	}
}

// filter keeps the rows of one shape, with those above them.
func (l *laying) filter(shape string) {
	if shape == "" {
		return
	}
	var kept []itemRow
	level := 0 // rows of lesser levels stand above one that is kept
	for _, row := range slices.Backward(l.ladder.Rows) {
		if row.Shape == shape && row.Ghost == "" || row.Level < level {
			kept, level = append(kept, row), row.Level
		}
	}
	slices.Reverse(kept)
	for i := range kept {
		kept[i].Row = i + 1
	}
	l.ladder.Rows = kept
}

func (l *laying) add(row itemRow) {
	row.Row, row.Rails = len(l.ladder.Rows)+1, make([]struct{}, row.Level-1)
	row.Selected = row.ID == l.d.Item.String() && row.Ghost == ""
	l.ladder.Levels = max(l.ladder.Levels, row.Stands)
	switch {
	case row.Ghost != "":
	case row.Shape == "full":
		l.ladder.Shown++
	default:
		l.ladder.Hidden++
	}
	l.ladder.Rows = append(l.ladder.Rows, row)
}

// below lists the items below a line: of an item, for which page is 0, or of a page in its run.
func (l *laying) below(parent site.EntryID, page site.PageID, level int, path []menu.Line) {
	m := l.d.Menu
	ids := m.BelowLine(parent, page)
	gone := takenItems(l.d, parent, page)
	l.ghosts(gone[0], level)
	for i, id := range ids {
		e := m.Entry(id)
		row := l.row(e, level)
		row.Pos, row.Size = i+1, len(ids)
		run := l.view.RunOf(id)
		idle := l.idle(e)
		row.Kids = len(run)+len(idle) > 0 || len(m.Below(id)) > 0 || len(takenItems(l.d, id, 0)) > 0
		row.Open = row.Kids && !l.closed[site.PageID(id)]
		inside := path
		if own, shows := l.view.Own(id); shows {
			inside = append(slices.Clip(path), own)
			l.place(&row, inside)
		}
		l.add(row)
		if row.Open {
			if len(run) > 0 && run[0].Level <= level {
				inside = path // the run stands beside its own line, or without one
			}
			l.automatic(e, run, level+1, inside)
			l.notThere(e, idle, level+1)
			if e.IsGenerated() {
				l.below(id, e.Target(), level+1, inside)
			} else {
				l.below(id, 0, level+1, inside)
			}
		}
		l.ghosts(gone[id], level)
	}
}

// place says of a line that shows what the chosen block does with it on the page at hand.
func (l *laying) place(row *itemRow, path []menu.Line) {
	line := path[len(path)-1]
	row.Stands = line.Level
	if l.d.Block == nil {
		return
	}
	node, in := l.cut[desk.ItemID{Entry: line.Entry, Page: line.Page}]
	row.Cut, row.Lit = in, node.Trail
	if !in {
		row.Outside = l.outside(path)
	}
}

func (l *laying) outside(path []menu.Line) string {
	switch l.view.OutsideOf(l.window, l.d.Selected, path) {
	case menu.OutsideAbove:
		return fmt.Sprintf("the block begins at level %d", l.window.First)
	case menu.OutsideBelow:
		return "the block ends above this level"
	case menu.OutsideEntry:
		return "the block shows what is below another item"
	case menu.OutsideTrail:
		return "the highlighted path of this page does not reach down here"
	case menu.OutsideBranch:
		return "the visitor is in another branch"
	case menu.OutsideShut:
		return "sub-levels are open only where the visitor is"
	}
	return ""
}

// automatic lists the lines of a run, each with those below it, and with the items that were put there.
func (l *laying) automatic(e *site.Entry, lines []menu.Line, level int, path []menu.Line) {
	for i, line := range lines {
		if i == itemLimit {
			l.add(itemRow{
				ID: desk.ItemID{Entry: line.Entry, Page: -1}.String(), Level: level,
				Label: count.Number(len(lines)-i) + " more", Shape: "full", Shows: "Yes", Automatic: true,
				Pos: i + 1, Size: len(lines),
			})
			return
		}
		kids := slices.DeleteFunc(l.view.Children(line), func(kid menu.Line) bool { return kid.Own || kid.Entry != e.ID })
		row := l.grown(e, line.Page, level)
		row.Label, row.Pos, row.Size = line.Label, i+1, len(lines)
		if line.Counted {
			row.Count = count.Number(line.Count)
		}
		items := len(l.d.Menu.BelowLine(e.ID, line.Page)) + len(takenItems(l.d, e.ID, line.Page))
		row.Kids = len(kids)+items > 0
		row.Open = row.Kids && (l.opened[line.Page] || items > 0 && !l.closed[-line.Page])
		inside := append(slices.Clip(path), line)
		l.place(&row, inside)
		l.add(row)
		if row.Open {
			l.automatic(e, kids, level+1, inside)
			l.below(e.ID, line.Page, level+1, inside)
		}
	}
}

// grown is the row of a line that an item grows.
func (l *laying) grown(e *site.Entry, page site.PageID, level int) itemRow {
	row := itemRow{
		ID: desk.ItemID{Entry: e.ID, Page: page}.String(), Level: level, Leads: l.leads(e, page),
		Shape: "full", Shows: "Yes", Automatic: true,
	}
	to, _ := e.Shows.(site.ItemBranch)
	switch p := l.d.Site.Page(page); {
	case to.Hits > 0:
		row.Grown = "listed"
	case p.IsTopic():
		row.Grown = "topic"
	}
	var set []string
	switch line := e.Line(page); {
	case line.Pin == "" && line.Label == "":
	case line.Pin == "":
		set = append(set, "own label")
	default:
		set = append(set, "pinned "+string(line.Pin))
	}
	row.Change = l.lineChange(e, page)
	row.Set = strings.Join(set, ", ")
	return row
}

// leads is where a line that grows leads.
func (l *laying) leads(e *site.Entry, page site.PageID) string {
	to, query := menu.Leads(l.d.Site, e, page)
	if query != "" {
		return address.Of(l.d.Site, to) + "?" + query
	}
	return address.Of(l.d.Site, to)
}

// lineChange says whether the draft sets something else of a line than what is public.
func (l *laying) lineChange(e *site.Entry, page site.PageID) string {
	was, _ := desk.Holding(l.d.Draft.Base.Site, e.ID)
	if l.d.State == "now" || was == nil || was.Line(page) == e.Line(page) {
		return ""
	}
	return "Edited"
}

// idle gives the lines that an item does not grow now, though something is set of them or stands below them.
func (l *laying) idle(e *site.Entry) (pages []site.PageID) {
	for page := range e.Lines() {
		pages = append(pages, page)
	}
	for _, id := range l.d.Menu.Below(e.ID) {
		if under := l.d.Menu.Entry(id).Under; under != 0 {
			pages = append(pages, under)
		}
	}
	slices.Sort(pages)
	pages = slices.DeleteFunc(slices.Compact(pages), func(page site.PageID) bool {
		return l.d.Site.Page(page) == nil || menu.WhyNoLine(l.d.Site, l.d.Menu, e, page, l.panel) == ""
	})
	l.d.Site.SortByTree(pages)
	return pages
}

// notThere lists lines that an item does not grow now, with why, and the items that wait below them.
func (l *laying) notThere(e *site.Entry, pages []site.PageID, level int) {
	for i, page := range pages {
		row := l.grown(e, page, level)
		row.Label, row.Pos, row.Size = menu.LabelOf(l.d.Site, e, page), i+1, len(pages)
		row.Shape, row.Shows = "stub", "No: "+noLineWords(l.d, l.panel, e, page)
		row.Kids = len(l.d.Menu.BelowLine(e.ID, page))+len(takenItems(l.d, e.ID, page)) > 0
		row.Open = row.Kids && !l.closed[-page]
		l.add(row)
		if row.Open {
			l.below(e.ID, page, level+1, nil)
		}
	}
}

func (l *laying) ghosts(gone []*site.Entry, level int) {
	for _, e := range gone {
		words := "taken out"
		if _, m := desk.Holding(l.d.Site, e.ID); m != nil && m.ID == l.d.Menu.ID {
			words = "moved within this menu"
		} else if m != nil {
			words = "moved to “" + m.Name + "”"
		}
		l.add(
			itemRow{
				ID:    desk.ItemID{Entry: e.ID}.String(),
				Level: level,
				Label: l.d.Draft.Base.Site.EntryLabel(e),
				Shape: "stub",
				Ghost: words,
				Shows: words,
			},
		)
	}
}

func (l *laying) row(e *site.Entry, level int) itemRow {
	d := l.d
	row := itemRow{
		ID: desk.ItemID{
			Entry: e.ID,
		}.String(), Level: level, Label: d.Site.EntryLabel(e), Leads: d.Leads(e), Who: d.Site.AudienceWords(e.Audience),
		Shape: "full", Shows: "Yes", Icon: e.Icon, Badge: e.Badge, BadgeLook: skin.Pair(e.Badge.Pair), NewTab: e.NewTab,
		Change: l.changed[e.ID],
	}
	if why := l.why.WhyNot(e.ID); why.Entry != 0 {
		row.Shape, row.Shows = "stub", d.WhyWords(d.Menu, e, why)
	}
	return row
}

// changedItems says of each item of the menu what the draft did to it.
func changedItems(d *desk.Desk) map[site.EntryID]string {
	changed := map[site.EntryID]string{}
	base := d.Draft.Base.Site
	if d.State == "now" || base.Menu(d.Menu.ID) == d.Menu {
		return changed
	}
	moved := map[desk.ItemID][]site.EntryID{} // below each item, as far as they are asked for
	isMoved := func(stood *site.Menu, e *site.Entry) bool {
		below := desk.ItemID{Entry: e.Parent, Page: e.Under}
		among, known := moved[below]
		if !known {
			among = rise.Moved(stood.BelowLine(e.Parent, e.Under), d.Menu.BelowLine(e.Parent, e.Under))
			moved[below] = among
		}
		return slices.Contains(among, e.ID)
	}
	for i := range d.Menu.Entries {
		e := &d.Menu.Entries[i]
		was, stood := desk.Holding(base, e.ID)
		switch {
		case was == nil:
			changed[e.ID] = "New"
		case stood.ID != d.Menu.ID || was.Parent != e.Parent || was.Under != e.Under || isMoved(stood, e):
			changed[e.ID] = "Moved"
		case *was != *e && slices.ContainsFunc(edit.EntryFields(), func(f edit.Field) bool {
			return edit.EntryValue(was,
				f) != edit.EntryValue(e, f)
		}):
			changed[e.ID] = "Edited"
		}
	}
	return changed
}

// takenItems gives the items that stood below a line in public and do not in the draft, by the item after which they
// stood.
func takenItems(d *desk.Desk, parent site.EntryID, page site.PageID) map[site.EntryID][]*site.Entry {
	was := d.Draft.Base.Site.Menu(d.Menu.ID)
	if was == nil || was == d.Menu || d.State == "now" {
		return nil
	}
	gone := map[site.EntryID][]*site.Entry{}
	after := site.EntryID(0)
	for _, id := range was.BelowLine(parent, page) {
		if e := d.Menu.Entry(id); e != nil && e.Parent == parent && e.Under == page {
			after = id
		} else {
			gone[after] = append(gone[after], was.Entry(id))
		}
	}
	return gone
}
