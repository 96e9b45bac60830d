package menus

import (
	"cmp"
	"fmt"
	"strconv"
	"strings"

	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/piece"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// makeMenu makes a menu, and where the form says so puts it into a region in the same breath.
func (i *menuIntent) makeMenu(s *site.Site) ([]edit.Op, string, error) {
	name := strings.TrimSpace(i.form("name"))
	ops := []edit.Op{edit.OpMakeMenu{Menu: i.newMenu, Name: name}}
	words := "made the menu “" + desk.Short(name) + "”"
	if i.newBlock == 0 {
		return ops, words, nil
	}
	block, where, err := i.blockOf(s, i.newMenu, name)
	return append(ops, block...), words + where, err
}

// placeMenu puts a menu into a region, through a block that it makes.
func (i *menuIntent) placeMenu(s *site.Site, m *site.Menu) ([]edit.Op, string, error) {
	if b := s.Block(desk.Number[site.BlockID](i.form("block"))); b != nil {
		op := edit.OpPutPlacement{Placement: i.newPlacement, Block: b.ID, Slot: i.slot(s), Fields: i.layoutField()}
		return []edit.Op{op}, "put “" + desk.Short(b.Name) + "” into a region", nil
	}
	ops, where, err := i.blockOf(s, m.ID, m.Name)
	return ops, "placed the menu “" + desk.Short(m.Name) + "”" + where, err
}

// blockOf makes a block that shows a menu and puts it into the region that the form names.
func (i *menuIntent) blockOf(s *site.Site, m site.MenuID, name string) ([]edit.Op, string, error) {
	of := s.Theme().Region(i.form("region"))
	if of == nil {
		return nil, "", &edit.Refusal{Sentence: "Choose the region in which the menu should stand."}
	}
	window, err := i.window()
	if err != nil {
		return nil, "", err
	}
	title := strings.TrimSpace(i.form("title"))
	fields := map[edit.Field]string{
		edit.FieldName:  name,
		edit.FieldTitle: cmp.Or(title, name),
		edit.FieldPiece: piece.Text(site.BlockMenu{Menu: m, Window: window}),
	}
	if title != "" {
		fields[edit.FieldTitled] = "yes"
	}
	return []edit.Op{
		edit.OpMakeBlock{Block: i.newBlock, Fields: fields},
		edit.OpPutPlacement{Placement: i.newPlacement, Block: i.newBlock, Slot: i.slot(s), Fields: i.layoutField()},
	}, ", in the region “" + of.Name + "”", nil
}

// layoutField says in which layout alone a placement stands, where the form says so.
func (i *menuIntent) layoutField() map[edit.Field]string {
	fields := map[edit.Field]string{}
	if key := i.form("layout"); key != "" {
		fields[edit.FieldLayout] = key
	}
	return fields
}

// slot is the place in the region that the form names: at a position from 1, else last.
func (i *menuIntent) slot(s *site.Site) edit.Slot {
	return desk.SlotAt(s, i.form("region"), i.form("position"), 0)
}

// window reads the sentence of a window.
func (i *menuIntent) window() (site.Window, error) {
	first, err := strconv.Atoi(cmp.Or(i.form("first"), "1"))
	if err != nil {
		return site.Window{}, &edit.Refusal{Sentence: "The first level is a number."}
	}
	levels, err := strconv.Atoi(cmp.Or(i.form("levels"), "0"))
	if err != nil {
		return site.Window{}, &edit.Refusal{Sentence: "The number of levels is a number, or all of them."}
	}
	return site.Window{
		First: first, Levels: levels, From: site.From(cmp.Or(i.form("from"),
			string(site.FromTrail))), Entry: desk.Number[site.EntryID](i.form("entry")),
		Unfold: site.Unfold(cmp.Or(i.form("unfold"), string(site.UnfoldAll))),
	}, nil
}

// setWindow sets what a block shows of its menu.
func (i *menuIntent) setWindow(s *site.Site, m *site.Menu) ([]edit.Op, string, error) {
	b := s.Block(desk.Number[site.BlockID](i.form("block")))
	if b == nil {
		return nil, "", &edit.Conflict{Sentence: "The block is not there any more."}
	}
	shows, was, _ := b.Menu()
	if shows != m.ID {
		return nil, "", &edit.Conflict{Sentence: fmt.Sprintf("“%s” shows another menu by now.", b.Name)}
	}
	window, err := i.window()
	if err != nil {
		return nil, "", err
	}
	if window.From == site.FromEntry && window.Entry == 0 {
		for _, e := range m.Entries {
			if len(m.BelowLine(e.ID, 0)) > 0 {
				window.Entry = e.ID
				break
			}
		}
	}
	if window.From != site.FromEntry {
		window.Entry = 0
	}
	return []edit.Op{edit.OpEditBlock{Block: b.ID, Fields: []edit.FieldChange{{
		Field: edit.FieldPiece, Old: piece.Text(site.BlockMenu{Menu: m.ID, Window: was}),
		New: piece.Text(site.BlockMenu{Menu: m.ID, Window: window}),
	}}}}, "changed what “" + desk.Short(b.Name) + "” shows: " + desk.LevelsWords(window), nil
}

// copyMenu makes a menu with copies of the items of another.
func (i *menuIntent) copyMenu(_ *site.Site, m *site.Menu) ([]edit.Op, string, error) {
	if len(m.Entries) != len(i.newEntries) {
		return nil, "", &edit.Conflict{Sentence: "The menu has changed meanwhile; copy it once more."}
	}
	name := cmp.Or(strings.TrimSpace(i.form("name")), m.Name+" (copy)")
	ids := make([]site.EntryID, len(m.Entries))
	for n := range m.Entries {
		ids[n] = m.Entries[n].ID
	}
	op := edit.OpMakeMenu{Menu: i.newMenu, Name: name, Entries: edit.CopyEntries(m, ids, i.newEntries)}
	return []edit.Op{op}, "copied the menu “" + desk.Short(m.Name) + "”", nil
}

// takeMenu takes a menu away, with the blocks that show it and stand nowhere. A menu that stands somewhere is refused,
// with where.
func (i *menuIntent) takeMenu(s *site.Site, m *site.Menu) ([]edit.Op, string, error) {
	var ops []edit.Op
	for bi := range s.Blocks() {
		b := &s.Blocks()[bi]
		if shows, _, isMenu := b.Menu(); !isMenu || shows != m.ID {
			continue
		}
		if n := len(s.PlacementsOf(b.ID)); n > 0 {
			return nil, "", &edit.Refusal{
				Sentence: fmt.Sprintf(
					"“%s” shows this menu and stands in %s; take it out there first.",
					b.Name,
					count.Of(n, "place", "places"),
				),
			}
		}
		ops = append(ops, edit.OpTakeBlock{Was: edit.OpMakeBlock{Block: b.ID}})
	}
	return append(
			ops,
			edit.OpTakeMenu{Was: edit.OpMakeMenu{Menu: m.ID}},
		), "took the menu “" + desk.Short(
			m.Name,
		) + "” away", nil
}
