package menus

import (
	"reflect"
	"strings"

	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// A menuTab leads to a menu. In a list it says what the menu is besides, by the keys of filters and in words.
type menuTab struct {
	Name, Link string
	On         bool
	Kinds      string
	Words      string
}

// tabLimit is how many menus stand beside each other; more are a list that can be searched.
const tabLimit = 7

// A menuFilter is something that menus can be, by which a long list is cut down.
type menuFilter struct {
	Key, Words string
	holds      func(d *desk.Desk, m *site.Menu) bool
}

func menuFilters() []menuFilter {
	return []menuFilter{
		{"off", "with items off", func(_ *desk.Desk, m *site.Menu) bool {
			return hasEntry(m, func(e *site.Entry) bool { return e.Off })
		}},
		{"nowhere", "standing nowhere", func(d *desk.Desk, m *site.Menu) bool { return !placed(d.Site, m.ID) }},
		{"programs", "for programs", func(_ *desk.Desk, m *site.Menu) bool { return m.Programs }},
		{"grown", "following the tree", func(_ *desk.Desk, m *site.Menu) bool {
			return hasEntry(m, func(e *site.Entry) bool { _, grown := e.Shows.(site.ItemBranch); return grown })
		}},
		{"draft", "changed in this draft", func(d *desk.Desk, m *site.Menu) bool {
			return !reflect.DeepEqual(m, d.Draft.Base.Site.Menu(m.ID))
		}},
	}
}

func hasEntry(m *site.Menu, is func(*site.Entry) bool) bool {
	for i := range m.Entries {
		if is(&m.Entries[i]) {
			return true
		}
	}
	return false
}

// placed says whether a block with the menu has a place.
func placed(s *site.Site, id site.MenuID) bool {
	for i := range s.Blocks() {
		b := &s.Blocks()[i]
		if shows, _, isMenu := b.Menu(); isMenu && shows == id && len(s.PlacementsOf(b.ID)) > 0 {
			return true
		}
	}
	return false
}

// Filters are what the list of menus can be cut down to.
func (v menusView) Filters() []menuFilter { return menuFilters() }

// menuTabs gives a tab for each menu, or, where they are many, a line of a list.
func (v menusView) menuTabs() (tabs, choices []menuTab) {
	d, menus := v.Desk, v.Site.Menus()
	for i := range menus {
		m := &menus[i]
		tab := menuTab{Name: m.Name, Link: v.MenuLink(m.ID), On: d.Menu != nil && m.ID == d.Menu.ID}
		if len(menus) > tabLimit {
			var kinds, words []string
			for _, f := range menuFilters() {
				if f.holds(d, m) {
					kinds, words = append(kinds, f.Key), append(words, f.Words)
				}
			}
			tab.Kinds, tab.Words = strings.Join(kinds, " "), strings.Join(words, ", ")
			choices = append(choices, tab)
			continue
		}
		tabs = append(tabs, tab)
	}
	return tabs, choices
}

// Asks says whether the ladder is cut down.
func (v menusView) Asks() bool { return question(v.Desk) != "" }
