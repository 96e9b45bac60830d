package edit

import (
	"fmt"
	"slices"

	"vineladder/internal/core/address"
	"vineladder/internal/core/site"
)

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

// holder finds the menu that has an entry.
func holder(s *site.Site, id site.EntryID) (*site.Menu, error) {
	for i := range s.Menus() {
		if m := &s.Menus()[i]; m.Entry(id) != nil {
			return m, nil
		}
	}
	return nil, &Conflict{Sentence: "The item is not in a menu any more."}
}

// branchOf gives an entry and all below it, parents first.
func branchOf(m *site.Menu, id site.EntryID) []site.Entry {
	var branch []site.Entry
	for _, id := range m.Branch(id) {
		branch = append(branch, *m.Entry(id))
	}
	return branch
}

// insert puts a branch into a gap and settles the gap's neighbours.
func (st *state) insert(m *site.Menu, gap *Gap, branch []site.Entry) error {
	if gap.Parent != 0 {
		above := m.Entry(gap.Parent)
		if above == nil {
			return &Conflict{Sentence: "The item to put it into is not there any more."}
		}
		if _, generated := above.Shows.(site.ItemBranch); generated {
			return refuse(
				"The items below “%s” are automatic; none can be put among them by hand.",
				st.Peek().EntryLabel(above),
			)
		}
	}
	branch[0].Parent = gap.Parent
	siblings := Siblings(m, gap.Parent)
	settleGap(siblings, &gap.After, &gap.Before)
	place := len(m.Entries)
	if gap.Before != 0 {
		place = slices.IndexFunc(m.Entries, func(e site.Entry) bool { return e.ID == gap.Before })
	}
	m.Entries = slices.Insert(m.Entries, place, branch...)
	return nil
}

// remove takes a branch out of a menu.
func remove(m *site.Menu, branch []site.Entry) {
	m.Entries = slices.DeleteFunc(m.Entries, func(e site.Entry) bool {
		return slices.ContainsFunc(branch, func(gone site.Entry) bool { return gone.ID == e.ID })
	})
}

func (o OpPutEntries) apply(st *state) (Op, error) {
	menus := st.menus()
	m, err := menuIn(menus, o.Gap.Menu)
	if err != nil {
		return nil, err
	}
	if len(o.Entries) == 0 {
		return nil, refuse("There is no item to put there.")
	}
	branch := make([]site.Entry, len(o.Entries))
	for i, form := range o.Entries {
		if _, err := holder(st.Peek(), form.ID); err == nil {
			return nil, refuse("There is an item with the number %d already.", form.ID)
		}
		if branch[i], err = form.entry(st.Peek()); err != nil {
			return nil, err
		}
	}
	if err := st.noneBelowRuns(branch); err != nil {
		return nil, err
	}
	top := o.Entries[0].ID
	if err := st.insert(m, &o.Gap, branch); err != nil {
		return nil, err
	}
	o.Entries = formsOf(branch, top)
	st.SetMenus(menus)
	return o, nil
}

// noneBelowRuns refuses entries below one of them that makes its lines by itself: they would never show.
func (st *state) noneBelowRuns(entries []site.Entry) error {
	runs := map[site.EntryID]*site.Entry{}
	for i := range entries {
		if _, generated := entries[i].Shows.(site.ItemBranch); generated {
			runs[entries[i].ID] = &entries[i]
		}
	}
	for i := range entries {
		if run := runs[entries[i].Parent]; run != nil {
			s := st.Peek()
			return refuse(
				"“%s” can't stand below “%s”, whose items are automatic.",
				s.EntryLabel(&entries[i]),
				s.EntryLabel(run),
			)
		}
	}
	return nil
}

// notStartedFrom refuses to take entries out of a menu that a block of it starts from.
func (st *state) notStartedFrom(branch []site.Entry) error {
	for _, block := range st.Peek().Blocks() {
		_, window, _ := block.Menu()
		if window.From == site.FromEntry &&
			slices.ContainsFunc(branch, func(e site.Entry) bool { return e.ID == window.Entry }) {
			return refuse("“%s” shows what is below this item; let it show something else first.", block.Name)
		}
	}
	return nil
}

func (o OpTakeEntry) apply(st *state) (Op, error) {
	stands, err := holder(st.Peek(), o.Entry)
	if err != nil {
		return nil, err
	}
	branch := branchOf(stands, o.Entry)
	if err := st.notStartedFrom(branch); err != nil {
		return nil, err
	}
	is := OpPutEntries{Gap: GapOf(stands, o.Entry), Entries: formsOf(branch, o.Entry)}
	if o.Was.Entries != nil && !sameForms(o.Was.Entries, is.Entries) {
		return nil, &Conflict{
			Mine: "taken out", Theirs: "changed, or with other items below",
			Sentence: fmt.Sprintf(
				"Somebody else changed the item “%s”, or what is below it.",
				st.Peek().EntryLabel(stands.Entry(o.Entry)),
			),
		}
	}
	o.Was = is
	menus := st.menus()
	m, _ := menuIn(menus, stands.ID)
	remove(m, branch)
	st.SetMenus(menus)
	return o, nil
}

func (o OpEditEntry) apply(st *state) (Op, error) {
	stands, err := holder(st.Peek(), o.Entry)
	if err != nil {
		return nil, err
	}
	menus := st.menus()
	m, _ := menuIn(menus, stands.ID)
	e := m.Entry(o.Entry)
	settled := OpEditEntry{Menu: stands.ID, Entry: o.Entry}
	settled.Fields, err = entryTable.change(st.Peek(), e, o.Fields, func(field Field, mine, theirs string) error {
		return &Conflict{
			Field:  field,
			Mine:   mine,
			Theirs: theirs,
			Sentence: fmt.Sprintf(
				"The %s of the item “%s” was changed by somebody else.",
				field.Words(),
				st.Peek().EntryLabel(stands.Entry(o.Entry)),
			),
		}
	})
	if err != nil {
		return nil, err
	}
	if _, generated := e.Shows.(site.ItemBranch); generated && len(Siblings(m, e.ID)) > 0 {
		return nil, refuse("There are items below this one; take them elsewhere before its items become automatic.")
	}
	if err := checkEntry(e); err != nil {
		return nil, err
	}
	st.SetMenus(menus)
	return settled, nil
}

func (o OpMoveEntry) apply(st *state) (Op, error) {
	stands, err := holder(st.Peek(), o.Entry)
	if err != nil {
		return nil, err
	}
	if o.From.Menu != 0 && (o.From.Menu != stands.ID || o.From.Parent != stands.Entry(o.Entry).Parent) {
		return nil, &Conflict{
			Mine:     "moved",
			Theirs:   "moved elsewhere",
			Sentence: "The item was moved by somebody else.",
		}
	}
	branch := branchOf(stands, o.Entry)
	if slices.ContainsFunc(branch, func(e site.Entry) bool { return e.ID == o.To.Parent && o.To.Parent != 0 }) {
		return nil, refuse("An item can't move into itself or below itself.")
	}
	if o.To.Menu != stands.ID {
		if err := st.notStartedFrom(branch); err != nil {
			return nil, err
		}
	}
	if o.To.After == o.Entry || o.To.Before == o.Entry {
		return nil, refuse("An item can't stand beside itself.")
	}
	settled := OpMoveEntry{Entry: o.Entry, From: GapOf(stands, o.Entry), To: o.To}
	was := AudiencesOf(st.Peek(), o.Entry)
	menus := st.menus()
	from, _ := menuIn(menus, stands.ID)
	remove(from, branch)
	to := from
	if o.To.Menu != stands.ID {
		if to, err = menuIn(menus, o.To.Menu); err != nil {
			return nil, err
		}
	}
	if err := st.insert(to, &settled.To, branch); err != nil {
		return nil, err
	}
	st.keepItemClosed(to, o, was, &settled)
	st.SetMenus(menus)
	return settled, nil
}

func (o OpMakeMenu) apply(st *state) (Op, error) {
	if st.Peek().Menu(o.Menu) != nil {
		return nil, refuse("There is a menu with the number %d already.", o.Menu)
	}
	name, err := oneLine(o.Name, "A menu's name", 80)
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
	if err := st.noneBelowRuns(m.Entries); err != nil {
		return nil, err
	}
	st.SetMenus(append(menus, m))
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

func (o OpEditMenu) apply(st *state) (Op, error) {
	menus := st.menus()
	m, err := menuIn(menus, o.Menu)
	if err != nil {
		return nil, err
	}
	was := m.Name
	if o.Fields, err = menuTable.change(st.Peek(), m, o.Fields, func(field Field, mine, theirs string) error {
		return &Conflict{Field: field, Mine: mine, Theirs: theirs, Sentence: fmt.Sprintf("The %s of the menu “%s” was changed by somebody else.", field.Words(), was)}
	}); err != nil {
		return nil, err
	}
	if m.Name == "" {
		return nil, refuse("A menu needs a name.")
	}
	st.SetMenus(menus)
	return o, nil
}
