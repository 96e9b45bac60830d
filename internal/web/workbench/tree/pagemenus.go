package tree

import (
	"fmt"
	"strings"

	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// A menuPlace is a place of a page in a menu: where visitors find it, or an item that does not show.
type menuPlace struct {
	Words string
	Way   string // "own item" or "follows the tree"
	Menu  site.MenuID
	Item  site.EntryID // of an own item: it can be taken out
	Row   string       // in the menu's ladder
	Shows bool
}

// pageMenus lists every menu in which a page shows to a lens, and where, by which way, and then the items that lead to
// it and do not show (rules 5.7). not says why it is in no menu.
func pageMenus(d *desk.Desk, id site.PageID) (places []menuPlace, not string) {
	shown, why := shownIn(d.Site, id, d.Lens)
	for _, at := range region.Where(d.Site, id, d.Lens) {
		place := menuPlace{
			Words: shown[len(places)],
			Way:   "follows the tree",
			Menu:  at.Menu.ID,
			Shows: true,
			Row:   desk.ItemID{Entry: at.Entry, Page: id}.String(),
		}
		if at.Own {
			place.Way, place.Item, place.Row = "own item", at.Entry, desk.ItemID{Entry: at.Entry}.String()
		}
		places = append(places, place)
	}
	if not = why; len(places) == 0 {
		not = why
	}
	for mi := range d.Site.Menus() {
		m := &d.Site.Menus()[mi]
		for ei := range m.Entries {
			e := &m.Entries[ei]
			if to, leads := e.Shows.(site.ItemPage); leads && to.Page == id && !holdsItem(places, e.ID) {
				places = append(
					places,
					menuPlace{
						Words: hiddenItem(d, m, e),
						Way:   "own item",
						Menu:  m.ID,
						Item:  e.ID,
						Row:   desk.ItemID{Entry: e.ID}.String(),
					},
				)
			}
		}
	}
	return places, not
}

func holdsItem(places []menuPlace, id site.EntryID) bool {
	for _, p := range places {
		if p.Item == id {
			return true
		}
	}
	return false
}

// hiddenItem says why an item of the page does not show.
func hiddenItem(d *desk.Desk, m *site.Menu, e *site.Entry) string {
	if why := menu.WhyNot(d.Site, m, e.ID, d.Lens); why.Entry != 0 {
		return "In “" + m.Name + "”, not shown. " + d.WhyWords(m, e, why)
	}
	level := menu.Level(d.Site, m, e.ID)
	if block := region.Shows(d.Site, m, e.ID, level, d.Lens); block != nil {
		return fmt.Sprintf("Also in “%s”, level %d, through “%s”", m.Name, level, block.Name)
	}
	return fmt.Sprintf("In “%s”, not shown: no block shows level %d of the menu", m.Name, level)
}

// shownIn says in which menu blocks a lens finds a page and where, or why in none.
func shownIn(s *site.Site, id site.PageID, lens reach.Lens) (shown []string, not string) {
	for _, showing := range region.Where(s, id, lens) {
		place := fmt.Sprintf("%s in %s, level %d", count.Ordinal(showing.Position), showing.Block.Name, showing.Level)
		if showing.Above != "" {
			place += ", in “" + showing.Above + "”"
		}
		shown = append(shown, place)
	}
	if len(shown) > 0 {
		return shown, ""
	}
	if reach.Ask(s, id, lens) != reach.Sees {
		return nil, "this visitor does not reach the page"
	}
	if cause := menu.WhyUnlisted(s, id); cause != nil {
		return nil, "“" + cause.Label + "” is not listed"
	}
	if not := grownNot(s, id, lens); not != "" {
		return nil, not
	}
	return nil, "no menu reaches this far"
}

// grownNot says why an item that grows what the page stands in makes no line for it, where that is not the item's own
// matter; "" if none could.
func grownNot(s *site.Site, id site.PageID, lens reach.Lens) string {
	panel := reach.NewPanel(lens)
	for mi := range s.Menus() {
		m := &s.Menus()[mi]
		reasons := menu.NewReasons(s, m, lens)
		for i := range m.Entries {
			e := &m.Entries[i]
			to, grows := e.Shows.(site.ItemBranch)
			if !grows || reasons.WhyNot(e.ID).Entry != 0 {
				continue
			}
			switch menu.WhyNoLine(s, m, e, id, panel) {
			case menu.NoLineFew:
				return "“" + s.EntryLabel(e) + "” in “" + m.Name + "” has lines for topics with at least " + count.Pages(to.Least)
			case menu.NoLineHidden:
				return "its line is hidden in “" + m.Name + "”"
			}
		}
	}
	return ""
}

// A menuGaps is a menu with the gaps into which an item can be put, as choices.
type menuGaps struct {
	Name string
	Gaps []gapChoice
}

type gapChoice struct{ Key, Words string }

// gapLimit bounds the gaps of one menu that are offered as choices; the menus area has the rest.
const gapLimit = 400

// menuGaps lists the gaps of every menu.
func menuGapsOf(d *desk.Desk) []menuGaps {
	var all []menuGaps
	for mi := range d.Site.Menus() {
		m := &d.Site.Menus()[mi]
		made := menuGaps{Name: m.Name, Gaps: []gapChoice{{fmt.Sprintf("menu:%d", m.ID), "last in " + m.Name}}}
		var list func(parent site.EntryID, indent string)
		list = func(parent site.EntryID, indent string) {
			for _, id := range m.Below(parent) {
				e := m.Entry(id)
				if len(made.Gaps) >= gapLimit {
					return
				}
				label := desk.Short(d.Site.EntryLabel(e))
				made.Gaps = append(made.Gaps, gapChoice{fmt.Sprintf("after:%d", id), indent + "after " + label})
				if _, generated := e.Shows.(site.ItemBranch); !generated {
					made.Gaps = append(made.Gaps, gapChoice{fmt.Sprintf("into:%d", id), indent + "below " + label})
				}
				list(id, indent+"· ")
			}
		}
		list(0, "")
		all = append(all, made)
	}
	return all
}

// readGap reads a choice of menuGaps.
func readGap(s *site.Site, choice string) (edit.Gap, error) {
	way, rest, _ := strings.Cut(choice, ":")
	if way == "menu" {
		id := desk.Number[site.MenuID](rest)
		if s.Menu(id) == nil {
			return edit.Gap{}, &edit.Conflict{Sentence: "The menu is not there any more."}
		}
		return edit.Gap{Menu: id}, nil
	}
	return desk.GapAt(s, 0, desk.ReadItem(rest), way)
}

// alsoInMenu adds the operation that puts a page, which is made in the same breath, into the menu that the form names.
func (i *intent) alsoInMenu(s *site.Site, ops []edit.Op, page site.PageID) ([]edit.Op, error) {
	choice := i.form("gap")
	if choice == "" {
		return ops, nil
	}
	gap, err := readGap(s, choice)
	put := edit.OpPutEntries{
		Gap: gap,
		Entries: []edit.EntryForm{
			{ID: i.newEntry, Fields: map[edit.Field]string{edit.FieldShows: fmt.Sprintf("page:%d", page)}},
		},
	}
	return append(ops, put), err
}
