package edit

import (
	"fmt"
	"slices"

	"vineladder/internal/core/address"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// OpMakeMenu makes a menu without entries; OpTakeMenu takes one away that no block shows, with its entries.
type OpMakeMenu struct {
	Menu     site.MenuID `json:"menu"`
	Key      string      `json:"key"`
	Name     string      `json:"name"`
	Programs bool        `json:"programs,omitempty"`
	Entries  []EntryForm `json:"entries,omitempty"`
}

func (OpMakeMenu) name() string { return "make-menu" }

func (OpMakeMenu) Subject() site.PageID { return 0 }

func (o OpMakeMenu) About(s *site.Site) About { return aboutMenu(s, o.Menu, o.Name) }

// Needs asks for the right on the site: nobody is given a menu that is not there yet.
func (o OpMakeMenu) Needs(*site.Site) []Need { return needsOfForms(site.SiteThing, o.Entries) }

func (o OpMakeMenu) Inverse() Op { return OpTakeMenu{o} }

func (o OpMakeMenu) ties() ties {
	var used []tie
	for _, form := range o.Entries {
		used = append(used, entryFields.named(form.Fields)...)
	}
	return ties{makes: append(made(o.Entries), menuTie(o.Menu)), uses: used}
}

func (o OpMakeMenu) insist(*site.Site, int64) (Op, error) { return nil, errNoInsisting }

func (o OpMakeMenu) apply(st *state) (Op, error) {
	if st.Peek().Menu(o.Menu) != nil {
		return nil, refuse("There is a menu with the number %d already.", o.Menu)
	}
	name, err := typed.Line(o.Name, "A menu's name", 80)
	if err != nil {
		return nil, err
	}
	if name == "" {
		return nil, refuse("A menu needs a name.")
	}
	menus := st.menus()
	if o.Key == "" {
		o.Key = address.Segment(name)
	}
	for stem, n := o.Key, 2; slices.ContainsFunc(menus, func(m site.Menu) bool { return m.Key == o.Key }); n++ {
		o.Key = address.Suffixed(stem, n)
	}
	o.Name = name
	m := site.Menu{ID: o.Menu, Key: o.Key, Name: name, Programs: o.Programs}
	for _, form := range o.Entries {
		e, err := form.entry(st.Peek())
		if err != nil {
			return nil, err
		}
		m.Entries = append(m.Entries, e)
	}
	if err := st.standBelow(m.Entries); err != nil {
		return nil, err
	}
	st.SetMenus(append(menus, m))
	return o, nil
}

type OpTakeMenu struct {
	Was OpMakeMenu `json:"was"`
}

func (OpTakeMenu) name() string { return "take-menu" }

func (OpTakeMenu) Subject() site.PageID { return 0 }

func (o OpTakeMenu) About(s *site.Site) About { return aboutMenu(s, o.Was.Menu, o.Was.Name) }

func (o OpTakeMenu) Needs(*site.Site) []Need {
	return []Need{{Action: site.ActionLink, On: site.MenuThing(o.Was.Menu)}}
}

func (o OpTakeMenu) Inverse() Op { return o.Was }

func (o OpTakeMenu) ties() ties { return ties{uses: []tie{menuTie(o.Was.Menu)}} }

func (o OpTakeMenu) insist(*site.Site, int64) (Op, error) {
	o.Was = OpMakeMenu{Menu: o.Was.Menu}
	return o, nil
}

func (o OpTakeMenu) apply(st *state) (Op, error) {
	menus := st.menus()
	m, err := menuIn(menus, o.Was.Menu)
	if err != nil {
		return nil, err
	}
	for _, block := range st.Peek().Blocks() {
		if shown, _, isMenu := block.Menu(); isMenu && shown == m.ID {
			return nil, refuse(
				"The menu “%s” is shown by “%s”; it can be taken away when no block shows it.",
				m.Name,
				block.Name,
			)
		}
	}
	is := OpMakeMenu{Menu: m.ID, Key: m.Key, Name: m.Name, Programs: m.Programs, Entries: formsOf(m.Entries, 0)}
	if o.Was.Name != "" &&
		(o.Was.Name != is.Name || o.Was.Programs != is.Programs || !sameForms(o.Was.Entries, is.Entries)) {
		return nil, &Conflict{
			Mine:     "taken away",
			Theirs:   "changed, or with other items",
			Sentence: fmt.Sprintf("Somebody else changed the menu “%s”.", m.Name),
		}
	}
	o.Was = is
	st.SetMenus(slices.DeleteFunc(menus, func(other site.Menu) bool { return other.ID == o.Was.Menu }))
	return o, nil
}

// OpEditMenu sets fields of a menu: its name, and whether programs may read it.
type OpEditMenu struct {
	Menu   site.MenuID   `json:"menu"`
	Fields []FieldChange `json:"fields"`
}

func (OpEditMenu) name() string { return "edit-menu" }

func (o OpEditMenu) edits() []FieldChange { return o.Fields }

func (OpEditMenu) Subject() site.PageID { return 0 }

func (o OpEditMenu) About(s *site.Site) About { return aboutMenu(s, o.Menu, "") }

func (o OpEditMenu) Needs(*site.Site) []Need {
	return []Need{{Action: site.ActionLink, On: site.MenuThing(o.Menu)}}
}

func (o OpEditMenu) Inverse() Op { return OpEditMenu{o.Menu, turned(o.Fields)} }

func (o OpEditMenu) ties() ties {
	return ties{uses: []tie{menuTie(o.Menu)}, sets: fieldTies(menuTie(o.Menu), o.Fields)}
}

func (o OpEditMenu) insist(s *site.Site, _ int64) (Op, error) {
	m := s.Menu(o.Menu)
	if m == nil {
		return nil, errNoInsisting
	}
	o.Fields = menuFields.onTop(m, o.Fields)
	return o, nil
}

func (o OpEditMenu) apply(st *state) (Op, error) {
	menus := st.menus()
	m, err := menuIn(menus, o.Menu)
	if err != nil {
		return nil, err
	}
	was := m.Name
	if o.Fields, err = menuFields.change(st.Peek(), m, o.Fields, func(field Field, mine, theirs string) error {
		return &Conflict{
			Field: field, Mine: mine, Theirs: theirs,
			Sentence: fmt.Sprintf("The %s of the menu “%s” was changed by somebody else.", field.Words(), was),
		}
	}); err != nil {
		return nil, err
	}
	if m.Name == "" {
		return nil, refuse("A menu needs a name.")
	}
	st.SetMenus(menus)
	return o, nil
}

// menus gives the menus for writing: a copy, since the Site's own never change.
func (st *state) menus() []site.Menu { return slices.Clone(st.Peek().Menus()) }

// menuIn finds a menu among those for writing, its entries copied.
func menuIn(menus []site.Menu, id site.MenuID) (*site.Menu, error) {
	for i := range menus {
		if menus[i].ID == id {
			menus[i] = menus[i].Rewrite()
			return &menus[i], nil
		}
	}
	return nil, &Conflict{Sentence: "The menu is not there any more."}
}
