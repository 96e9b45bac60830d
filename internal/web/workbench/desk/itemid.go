package desk

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
)

// An itemID names a row of a menu's ladder: an item, or with a page one of the automatic lines that it makes.
type ItemID struct {
	Entry site.EntryID
	Page  site.PageID
}

// ReadItem reads what String wrote.
func ReadItem(typed string) ItemID {
	entry, page, _ := strings.Cut(typed, "-")
	return ItemID{Number[site.EntryID](entry), Number[site.PageID](page)}
}

func (id ItemID) String() string {
	switch {
	case id.Entry == 0:
		return ""
	case id.Page == 0:
		return strconv.FormatInt(int64(id.Entry), 10)
	}
	return fmt.Sprintf("%d-%d", id.Entry, id.Page)
}

// Holding finds an item and the menu that it is in; nil if it is in none.
func Holding(s *site.Site, id site.EntryID) (*site.Entry, *site.Menu) {
	for i := range s.Menus() {
		if e := s.Menus()[i].Entry(id); e != nil {
			return e, &s.Menus()[i]
		}
	}
	return nil, nil
}

// GapAt is the gap by an item, or the end of a menu where there is none.
func GapAt(s *site.Site, m site.MenuID, target ItemID, way string) (edit.Gap, error) {
	e, holds := Holding(s, target.Entry)
	switch {
	case target.Entry == 0:
		return edit.Gap{Menu: m}, nil
	case e == nil:
		return edit.Gap{}, &edit.Conflict{Sentence: "The item to put it by is not there any more."}
	case target.Page != 0 && way == "into":
		return edit.Gap{Menu: holds.ID, Parent: e.ID, Under: target.Page}, nil
	case target.Page != 0:
		return edit.Gap{}, AutomaticRefusal(s, e)
	case way == "into":
		return edit.Gap{Menu: holds.ID, Parent: e.ID}, nil
	}
	siblings := holds.BelowLine(e.Parent, e.Under)
	at := slices.Index(siblings, e.ID)
	if way == "before" {
		gap := edit.Gap{Menu: holds.ID, Parent: e.Parent, Under: e.Under, Before: e.ID}
		if at > 0 {
			gap.After = siblings[at-1]
		}
		return gap, nil
	}
	gap := edit.Gap{Menu: holds.ID, Parent: e.Parent, Under: e.Under, After: e.ID}
	if at+1 < len(siblings) {
		gap.Before = siblings[at+1]
	}
	return gap, nil
}

// SlotAt is the slot of a region at a typed position, from 1, leaving aside a placement that is to be moved there; last
// without one.
func SlotAt(s *site.Site, key, position string, moved site.PlacementID) edit.Slot {
	slot, beside := edit.Slot{Region: key}, region.In(s, key)
	var err error
	if slot.After, slot.Before, err = edit.Position(beside, moved, position); err != nil {
		last := len(beside) + 1
		if slices.Contains(beside, moved) {
			last--
		}
		slot.After, slot.Before, _ = edit.Position(beside, moved, strconv.Itoa(last)) // which there always is
	}
	return slot
}

// ItemPlace says where an item stands: position and neighbours, as for pages.
func (d *Desk) ItemPlace(s *site.Site, m *site.Menu, e *site.Entry) (words string, position, of int) {
	siblings := m.BelowLine(e.Parent, e.Under)
	at := slices.Index(siblings, e.ID)
	words = fmt.Sprintf("%d of %d in “%s”", at+1, len(siblings), m.Name)
	if above := lineAbove(s, m, e); above != "" {
		words = fmt.Sprintf(
			"%d of %d below “%s”, level %d of “%s”",
			at+1,
			len(siblings),
			above,
			menu.Level(s, m, e.ID),
			m.Name,
		)
	}
	if at > 0 {
		words += ", after “" + s.EntryLabel(m.Entry(siblings[at-1])) + "”"
	}
	if at+1 < len(siblings) {
		words += ", before “" + s.EntryLabel(m.Entry(siblings[at+1])) + "”"
	}
	return words, at + 1, len(siblings)
}

// lineAbove is what visitors read of the line below which an item stands; "" at the top.
func lineAbove(s *site.Site, m *site.Menu, e *site.Entry) string {
	above := m.Entry(e.Parent)
	switch {
	case above == nil:
		return ""
	case e.Under != 0 && s.Page(e.Under) != nil:
		return menu.LabelOf(s, above, e.Under)
	}
	return s.EntryLabel(above)
}

// AutomaticRefusal refuses to put something by hand below an item that makes its lines by itself.
func AutomaticRefusal(s *site.Site, e *site.Entry) error {
	return &edit.Refusal{
		Sentence: "This line is automatic: “" + s.EntryLabel(e) + "” makes it, and it follows the tree. " +
			"Move or unlist its page, or pin it as an item of its own.",
	}
}
