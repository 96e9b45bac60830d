package menus

import (
	"cmp"
	"net/http"
	"slices"
	"strings"
	"time"

	"vineladder/internal/core/colour"
	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/region"
	"vineladder/internal/core/say"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// A menuIntent is what a form of the menus area asks for, before it is known what stands in the draft.
type menuIntent struct {
	do    string
	menu  site.MenuID
	items []desk.ItemID // of a selection; else the one item
	form  func(string) string

	now          time.Time
	newMenu      site.MenuID
	newEntries   []site.EntryID
	newBlock     site.BlockID
	newPlacement site.PlacementID
}

// menuEdit does one thing with a menu, its items, or the window of a block that shows it.
func (s *Area) menuEdit(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	i, err := readMenuIntent(r, d)
	if err != nil {
		return err
	}
	if err := s.readyMenu(r, d, i); err != nil {
		return err
	}
	made, words, err := s.InDraft(r, d, i.operations)
	if err != nil {
		return err
	}
	s.Say(w, http.StatusOK, i.reply(d, made.Site, say.Capital(words)))
	return nil
}

// reply says what was done and where to go.
func (i *menuIntent) reply(d *desk.Desk, s *site.Site, said string) desk.Reply {
	made := desk.Reply{Said: said + ".", Menu: int64(i.menu), Item: i.item().String()}
	switch {
	case i.newMenu != 0:
		made.Menu, made.Item = int64(i.newMenu), ""
	case len(i.newEntries) > 0:
		made.Item = desk.ItemID{Entry: i.newEntries[0]}.String()
	case i.do == "take":
		made.Item = desk.ItemID{Entry: besideItem(d.Menu, i.item().Entry)}.String()
	case i.do == "take-menu":
		made.Menu = 0
	}
	if e, m := desk.Holding(s, desk.ReadItem(made.Item).Entry); e != nil && m != nil {
		made.Menu = int64(m.ID)
		if slices.Contains([]string{"put", "move", "nudge", "position", "copy"}, i.do) {
			where, _, _ := d.ItemPlace(s, m, e)
			made.Said = said + ": " + where + "."
		}
	}
	return made
}

// besideItem is where to go when an item goes: the next one, the one before, the one above.
func besideItem(m *site.Menu, id site.EntryID) site.EntryID {
	if m == nil || m.Entry(id) == nil {
		return 0
	}
	gap := edit.GapOf(m, id)
	return cmp.Or(gap.Before, gap.After, gap.Parent)
}

// menuTry says what an edit of a menu would do and leaves everything as it is.
func (s *Area) menuTry(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	i, err := readMenuIntent(r, d)
	if err != nil {
		return err
	}
	i.pretend(d.Draft.Site)
	next, changes, err := s.Tried(r, d, i.operations)
	if err != nil {
		return err
	}
	s.Say(w, http.StatusOK, desk.Reply{Facts: &desk.TryFacts{Place: i.place(d, next), Changes: changes}})
	return nil
}

// place says where what the edit is about would stand.
func (i *menuIntent) place(d *desk.Desk, next *site.Site) string {
	id := i.item().Entry
	if pair, ok := colour.ParsePair(i.form("new")); ok && edit.Field(i.form("field")) == edit.FieldBadgePair {
		if pair.Contrast() < colour.Enough {
			return pair.Ratio() + " to 1, less than the 4.5 to 1 that text needs"
		}
		return pair.Ratio() + " to 1"
	}
	if len(i.newEntries) > 0 {
		id = i.newEntries[0]
	}
	if block := next.Block(cmp.Or(i.newBlock, desk.Number[site.BlockID](i.form("block")))); block != nil &&
		(i.do == "window" || i.do == "place" || i.do == "make-menu") {
		return "“" + block.Name + "” would show on " + count.Pages(region.Pages(next, block, d.Lens))
	}
	e, m := desk.Holding(next, id)
	if e == nil {
		return ""
	}
	where, _, _ := d.ItemPlace(next, m, e)
	return where
}

func readMenuIntent(r *http.Request, d *desk.Desk) (*menuIntent, error) {
	i := &menuIntent{do: r.FormValue("do"), form: r.FormValue, now: d.Now}
	if d.Menu != nil {
		i.menu = d.Menu.ID
	}
	for part := range strings.SplitSeq(cmp.Or(r.FormValue("items"), r.FormValue("item")), ",") {
		if id := desk.ReadItem(part); id.Entry != 0 {
			i.items = append(i.items, id)
		}
	}
	var err error
	if i.do == "field" {
		i.form, err = desk.WithMoment(r, d)
	}
	return i, err
}

func (i *menuIntent) item() desk.ItemID {
	if len(i.items) == 0 {
		return desk.ItemID{}
	}
	return i.items[0]
}

// readyMenu takes the numbers that the operations need for what they make.
func (s *Area) readyMenu(r *http.Request, d *desk.Desk, i *menuIntent) (err error) {
	ctx := r.Context()
	if i.do == "make-menu" || i.do == "copy-menu" {
		if i.newMenu, err = s.Store.NewMenuID(ctx); err != nil {
			return err
		}
	}
	if n := i.entriesToMake(d.Draft.Site); n > 0 {
		if i.newEntries, err = s.Store.NewEntryIDs(ctx, n); err != nil {
			return err
		}
	}
	if i.do == "place" || i.do == "make-menu" && i.form("region") != "" {
		if i.newBlock, err = s.Store.NewBlockID(ctx); err != nil {
			return err
		}
		i.newPlacement, err = s.Store.NewPlacementID(ctx)
	}
	return err
}

// pretend gives numbers that nothing has, for an edit that is only tried.
func (i *menuIntent) pretend(s *site.Site) {
	if i.do == "make-menu" || i.do == "copy-menu" {
		i.newMenu = desk.TryEntry
	}
	for n := range i.entriesToMake(s) {
		i.newEntries = append(i.newEntries, site.EntryID(desk.TryEntry+n))
	}
	if i.do == "place" || i.do == "make-menu" && i.form("region") != "" {
		i.newBlock, i.newPlacement = desk.TryEntry, desk.TryEntry
	}
}

// entriesToMake is the number of items that an edit makes.
func (i *menuIntent) entriesToMake(s *site.Site) int {
	m := s.Menu(i.menu)
	if of, holds := desk.Holding(s, i.item().Entry); i.do == "copy" && of != nil { // they may come from another menu
		m = holds
	}
	switch {
	case i.do == "put":
		return 1
	case m == nil:
		return 0
	case i.do == "copy":
		n := 0
		for _, top := range topItems(m, i.entries()) {
			n += len(m.Branch(top))
		}
		return n
	case i.do == "copy-menu":
		return len(m.Entries)
	}
	return 0
}

func (i *menuIntent) entries() []site.EntryID {
	var ids []site.EntryID
	for _, id := range i.items {
		if id.Page == 0 {
			ids = append(ids, id.Entry)
		}
	}
	return ids
}

// topItems gives the items of a selection that have none of it above them, in the menu's order.
func topItems(m *site.Menu, chosen []site.EntryID) []site.EntryID {
	var tops []site.EntryID
	var look func(parent site.EntryID)
	look = func(parent site.EntryID) {
		for _, id := range m.Below(parent) {
			if slices.Contains(chosen, id) {
				tops = append(tops, id)
			} else {
				look(id)
			}
		}
	}
	look(0)
	return tops
}

// operations turns the intent into operations on a Site, with what was done in words.
func (i *menuIntent) operations(s *site.Site) ([]edit.Op, string, error) {
	if i.do == "make-menu" {
		return i.makeMenu(s)
	}
	m := s.Menu(i.menu)
	if m == nil {
		return nil, "", &edit.Conflict{Sentence: "The menu is not there any more."}
	}
	name := "“" + desk.Short(m.Name) + "”"
	switch i.do {
	case "menu-field":
		field := edit.Field(i.form("field"))
		return []edit.Op{
			edit.OpEditMenu{
				Menu:   m.ID,
				Fields: []edit.FieldChange{{Field: field, Old: i.form("old"), New: strings.TrimSpace(i.form("new"))}},
			},
		}, "changed the " + field.Words() + " of the menu " + name, nil
	case "copy-menu":
		return i.copyMenu(s, m)
	case "take-menu":
		return i.takeMenu(s, m)
	case "window":
		return i.setWindow(s, m)
	case "place":
		return i.placeMenu(s, m)
	case "put":
		return i.put(s, m)
	}
	return i.onItems(s, m)
}

// onItems is what is done with items that are there.
func (i *menuIntent) onItems(s *site.Site, m *site.Menu) ([]edit.Op, string, error) {
	first := i.item()
	e := m.Entry(first.Entry)
	if e == nil {
		if e, m = desk.Holding(s, first.Entry); e == nil {
			return nil, "", &edit.Conflict{Sentence: "The item is not in this menu any more."}
		}
	}
	if first.Page != 0 && i.do == "line" {
		return i.line(s, m, e, first.Page)
	}
	if first.Page != 0 {
		return nil, "", desk.AutomaticRefusal(s, e)
	}
	what := "“" + desk.Short(s.EntryLabel(e)) + "”"
	if n := len(i.items); n > 1 {
		what = count.Number(n) + " items"
	}
	switch i.do {
	case "field":
		field := edit.Field(i.form("field"))
		value := strings.TrimSpace(i.form("new"))
		fields := []edit.FieldChange{{Field: field, Old: i.form("old"), New: value}}
		if label := i.form("label"); field == edit.FieldShows && label != "" && e.Label == "" {
			fields = append(fields, edit.FieldChange{Field: edit.FieldLabel, New: label})
		}
		op := edit.OpEditEntry{Menu: m.ID, Entry: e.ID, Fields: fields}
		return []edit.Op{op}, setItem(field, value) + " " + what, nil
	case "set":
		field, value := edit.Field(i.form("field")), i.form("new")
		ops := edit.SetItems(m, i.entries(), map[edit.Field]string{field: value})
		return ops, setItem(field, value) + " " + what, nil
	case "dates":
		window, err := desk.TypedWindow(s, i.now, i.form)
		return edit.SetItems(m, i.entries(), window), "set from when until when to show " + what, err
	case "lead":
		return i.leadElsewhere(s, m)
	case "grow":
		return i.grow(s, m, e, what)
	case "take":
		var ops []edit.Op
		for _, id := range topItems(m, i.entries()) {
			ops = append(ops, edit.OpTakeEntry{Entry: id})
		}
		stays := "; its page stays"
		if e.Target() == 0 {
			stays = ""
		}
		return ops, "took " + what + " out of “" + desk.Short(m.Name) + "”" + stays, nil
	case "nudge", "position":
		return i.shifted(s, m, what)
	case "move":
		return i.move(s, m, what)
	case "copy":
		return i.copy(s, m, what)
	}
	return nil, "", &edit.Refusal{Sentence: "This edit is not known."}
}

// gap reads where: "into", "before" or "after" an item, or with no item the end of the menu that "to" names.
func (i *menuIntent) gap(s *site.Site, m *site.Menu) (edit.Gap, error) {
	to := m.ID
	if other := s.Menu(desk.Number[site.MenuID](i.form("to"))); other != nil {
		to = other.ID
	}
	return desk.GapAt(s, to, desk.ReadItem(i.form("target")), i.form("way"))
}

func (i *menuIntent) put(s *site.Site, m *site.Menu) ([]edit.Op, string, error) {
	to, err := i.gap(s, m)
	if err != nil {
		return nil, "", err
	}
	form := edit.EntryForm{
		ID:     i.newEntries[0],
		Fields: map[edit.Field]string{edit.FieldShows: cmp.Or(i.form("shows"), "heading")},
	}
	if label := strings.TrimSpace(i.form("label")); label != "" {
		form.Fields[edit.FieldLabel] = label
	}
	name := m.Name
	if other := s.Menu(to.Menu); other != nil {
		name = other.Name
	}
	op := edit.OpPutEntries{Gap: to, Entries: []edit.EntryForm{form}}
	return []edit.Op{op}, "put an item into “" + desk.Short(name) + "”", nil
}

// move takes the items of a selection to one gap, each after the one before.
func (i *menuIntent) move(s *site.Site, m *site.Menu, what string) ([]edit.Op, string, error) {
	to, err := i.gap(s, m)
	if err != nil {
		return nil, "", err
	}
	var ops []edit.Op
	for _, id := range topItems(m, i.entries()) {
		ops = append(ops, edit.OpMoveEntry{Entry: id, From: edit.GapOf(m, id), To: to})
		to.After = id
	}
	if to.Menu != m.ID {
		what += " to “" + desk.Short(s.Menu(to.Menu).Name) + "”"
	}
	return ops, "moved " + what, nil
}

// copy puts copies of the items of a selection, with what is below them, into one gap.
func (i *menuIntent) copy(s *site.Site, m *site.Menu, what string) ([]edit.Op, string, error) {
	to, err := i.gap(s, m)
	if err != nil {
		return nil, "", err
	}
	ids := i.newEntries
	var ops []edit.Op
	for _, top := range topItems(m, i.entries()) {
		branch := m.Branch(top)
		if len(branch) > len(ids) {
			return nil, "", &edit.Conflict{Sentence: "What is to be copied has changed; copy it once more."}
		}
		ops = append(ops, edit.OpPutEntries{Gap: to, Entries: edit.CopyEntries(m, branch, ids[:len(branch)])})
		to.After, ids = ids[0], ids[len(branch):]
	}
	return ops, "copied " + what, nil
}

// shifted gives the moves that take the items of a selection a step, or to a typed position.
func (i *menuIntent) shifted(s *site.Site, m *site.Menu, what string) ([]edit.Op, string, error) {
	kin := edit.Kin[desk.ItemID]{
		Above: func(id desk.ItemID) desk.ItemID {
			e := m.Entry(id.Entry)
			return desk.ItemID{Entry: e.Parent, Page: e.Under}
		},
		Below: func(parent desk.ItemID) []desk.ItemID { return itemIDs(m.BelowLine(parent.Entry, parent.Page)) },
		Out: func(parent desk.ItemID) (desk.ItemID, bool) {
			return desk.ItemID{Entry: parent.Entry}, parent.Entry != 0
		},
		Name: func(id desk.ItemID) string { return menu.LabelOf(s, m.Entry(id.Entry), id.Page) },
	}
	tops := itemIDs(topItems(m, i.entries()))
	shifts, err := edit.Shifts(kin, tops, i.form("way"), i.form("position"))
	var ops []edit.Op
	for _, to := range shifts {
		gap := edit.Gap{
			Menu: m.ID, Parent: to.Parent.Entry, Under: to.Parent.Page, After: to.After.Entry, Before: to.Before.Entry,
		}
		ops = append(ops, edit.OpMoveEntry{Entry: to.ID.Entry, From: edit.GapOf(m, to.ID.Entry), To: gap})
	}
	return ops, "moved " + what, err
}

func itemIDs(entries []site.EntryID) []desk.ItemID {
	ids := make([]desk.ItemID, len(entries))
	for i, id := range entries {
		ids[i] = desk.ItemID{Entry: id}
	}
	return ids
}
