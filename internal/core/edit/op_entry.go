package edit

import (
	"fmt"
	"slices"

	"vineladder/internal/core/site"
)

// OpEditEntry sets fields of an entry.
type OpEditEntry struct {
	Menu   site.MenuID   `json:"menu"`
	Entry  site.EntryID  `json:"entry"`
	Fields []FieldChange `json:"fields"`
}

func (OpEditEntry) name() string { return "edit-entry" }

func (OpEditEntry) Subject() site.PageID { return 0 }

func (o OpEditEntry) About(s *site.Site) About { return aboutEntry(s, o.Entry, EntryForm{}) }

func (o OpEditEntry) Needs(*site.Site) []Need {
	return needsOf(MenuThing(o.Menu), site.ActionLink, entryFields, o.Fields)
}

func (o OpEditEntry) Inverse() Op { return OpEditEntry{o.Menu, o.Entry, turned(o.Fields)} }

func (o OpEditEntry) ties() ties {
	thing := itemTie(o.Entry)
	return ties{uses: append(entryFields.namedAnew(o.Fields), thing), sets: fieldTies(thing, o.Fields)}
}

func (o OpEditEntry) insist(s *site.Site, _ int64) (Op, error) {
	m, err := holder(s, o.Entry)
	if err != nil {
		return nil, errNoInsisting
	}
	o.Fields = entryFields.onTop(m.Entry(o.Entry), o.Fields)
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
	settled.Fields, err = entryFields.change(st.Peek(), e, o.Fields, func(field Field, mine, theirs string) error {
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

// OpMoveEntry takes an entry and all below it to another place, in its menu or another one.
type OpMoveEntry struct {
	Entry site.EntryID `json:"entry"`
	From  Gap          `json:"from"`
	To    Gap          `json:"to"`
	// Keeps is the audience that the item takes from above where it stood, if its new place would open it.
	Keeps []FieldChange `json:"keeps,omitempty"`
	// Was and Is are the audiences above it before and after, its own first. An inverse goes back to what was, as
	// long as both still hold.
	Was  []site.Audience `json:"was,omitempty"`
	Is   []site.Audience `json:"is,omitempty"`
	Back bool            `json:"back,omitempty"`
}

func (OpMoveEntry) name() string { return "move-entry" }

func (OpMoveEntry) Subject() site.PageID { return 0 }

func (o OpMoveEntry) About(s *site.Site) About { return aboutEntry(s, o.Entry, EntryForm{}) }

func (o OpMoveEntry) Needs(s *site.Site) []Need {
	return []Need{{site.ActionLink, menuOf(s, o.Entry)}, {site.ActionLink, MenuThing(o.To.Menu)}}
}

func (o OpMoveEntry) Inverse() Op {
	return OpMoveEntry{Entry: o.Entry, From: o.To, To: o.From, Keeps: turned(o.Keeps), Was: o.Is, Is: o.Was, Back: true}
}

func (o OpMoveEntry) ties() ties {
	return ties{
		uses: []tie{itemTie(o.Entry), menuTie(o.To.Menu), itemTie(o.To.Parent)},
		sets: []tie{itemTie(o.Entry).of(fieldPlace)},
	}
}

func (o OpMoveEntry) insist(*site.Site, int64) (Op, error) { o.From = Gap{}; return o, nil }

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

// A Gap is a place among the entries of a menu, named by neighbours as a Place is.
type Gap struct {
	Menu   site.MenuID  `json:"menu"`
	Parent site.EntryID `json:"parent,omitempty"`
	After  site.EntryID `json:"after,omitempty"`
	Before site.EntryID `json:"before,omitempty"`
}

// GapOf gives the gap in which an entry stands.
func GapOf(m *site.Menu, id site.EntryID) Gap {
	e := m.Entry(id)
	gap := Gap{Menu: m.ID, Parent: e.Parent}
	siblings := Siblings(m, e.Parent)
	at := slices.Index(siblings, id)
	if at > 0 {
		gap.After = siblings[at-1]
	}
	if at+1 < len(siblings) {
		gap.Before = siblings[at+1]
	}
	return gap
}

// ItemOf gives the entry that an operation is about; 0 if it is about something else.
func ItemOf(op Op) site.EntryID {
	switch o := op.(type) {
	case OpPutEntries:
		return o.Entries[0].ID
	case OpTakeEntry:
		return o.Entry
	case OpEditEntry:
		return o.Entry
	case OpMoveEntry:
		return o.Entry
	}
	return 0
}

// Siblings gives the entries below one, in order; 0 gives the top ones.
func Siblings(m *site.Menu, parent site.EntryID) []site.EntryID {
	return slices.Clone(m.Below(parent))
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
