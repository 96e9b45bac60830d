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

func (o OpEditEntry) edits() []FieldChange { return o.Fields }

func (OpEditEntry) Subject() site.PageID { return 0 }

func (o OpEditEntry) About(s *site.Site) About { return aboutEntry(s, o.Entry, EntryForm{}) }

func (o OpEditEntry) Needs(*site.Site) []Need {
	return needsOf(site.MenuThing(o.Menu), site.ActionLink, entryFields, o.Fields)
}

func (o OpEditEntry) Inverse() Op { return OpEditEntry{o.Menu, o.Entry, turned(o.Fields)} }

func (o OpEditEntry) ties() ties {
	thing := itemTie(o.Entry)
	used := append(entryFields.namedAnew(o.Fields), lineTies(o.Fields)...)
	return ties{uses: append(used, thing), sets: fieldTies(thing, o.Fields)}
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
	if err := keepsItems(m, e); err != nil {
		return nil, err
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
	return []Need{
		{Action: site.ActionLink, On: menuOf(s, o.Entry)},
		{Action: site.ActionLink, On: site.MenuThing(o.To.Menu)},
	}
}

func (o OpMoveEntry) Inverse() Op {
	return OpMoveEntry{Entry: o.Entry, From: o.To, To: o.From, Keeps: turned(o.Keeps), Was: o.Is, Is: o.Was, Back: true}
}

func (o OpMoveEntry) ties() ties {
	return ties{
		uses: append([]tie{itemTie(o.Entry)}, o.To.ties()...),
		sets: []tie{itemTie(o.Entry).of(fieldPlace)},
	}
}

func (o OpMoveEntry) insist(*site.Site, int64) (Op, error) { o.From = Gap{}; return o, nil }

func (o OpMoveEntry) apply(st *state) (Op, error) {
	stands, err := holder(st.Peek(), o.Entry)
	if err != nil {
		return nil, err
	}
	if o.From.Menu != 0 && (o.From.Menu != stands.ID || !o.From.holds(stands.Entry(o.Entry))) {
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
	Under  site.PageID  `json:"under,omitempty"` // the line of the parent's run, by its page
	After  site.EntryID `json:"after,omitempty"`
	Before site.EntryID `json:"before,omitempty"`
}

// ties gives what a gap is in.
func (g Gap) ties() []tie {
	return append([]tie{menuTie(g.Menu), itemTie(g.Parent)}, lineTie(g.Under)...)
}

// lineTie is the page of a line below which an entry stands, if it does.
func lineTie(under site.PageID) []tie {
	if under == 0 {
		return nil
	}
	return []tie{pageTie(under)}
}

// GapOf gives the gap in which an entry stands.
func GapOf(m *site.Menu, id site.EntryID) Gap {
	e := m.Entry(id)
	gap := Gap{Menu: m.ID, Parent: e.Parent, Under: e.Under}
	siblings := gap.Beside(m)
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

// Beside gives the entries among which a gap is, in order.
func (g Gap) Beside(m *site.Menu) []site.EntryID { return slices.Clone(m.BelowLine(g.Parent, g.Under)) }

// holds says whether an entry stands where the gap is, before or after any neighbour.
func (g Gap) holds(e *site.Entry) bool { return g.Parent == e.Parent && g.Under == e.Under }

// keepsItems refuses to let an entry show something below which the entries below it can't stand: those below a line of
// a run need one, the others none.
func keepsItems(m *site.Menu, e *site.Entry) error {
	grown := func(id site.EntryID) bool { return m.Entry(id).Under != 0 }
	switch below := m.Below(e.ID); {
	case len(below) == 0, e.IsGenerated() && !slices.ContainsFunc(below, func(id site.EntryID) bool { return !grown(id) }):
		return nil
	case e.IsGenerated():
		return refuse("There are items below this one; take them elsewhere before its items become automatic.")
	case slices.ContainsFunc(below, grown):
		return refuse("There are items below its automatic lines; take them elsewhere before it shows something else.")
	}
	return nil
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
		if err := st.mayStandBelow(above, gap.Under); err != nil {
			return err
		}
	}
	branch[0].Parent, branch[0].Under = gap.Parent, gap.Under
	siblings := gap.Beside(m)
	settleGap(siblings, &gap.After, &gap.Before)
	place := len(m.Entries)
	if gap.Before != 0 {
		place = slices.IndexFunc(m.Entries, func(e site.Entry) bool { return e.ID == gap.Before })
	}
	m.Entries = slices.Insert(m.Entries, place, branch...)
	return nil
}

// mayStandBelow says whether entries can stand below an entry, or below the line of a page in its run.
func (st *state) mayStandBelow(above *site.Entry, under site.PageID) error {
	s := st.Peek()
	p := s.Page(under)
	switch {
	case !above.IsGenerated() && under != 0:
		return &Conflict{Sentence: fmt.Sprintf("“%s” makes no lines by itself any more.", s.EntryLabel(above))}
	case above.IsGenerated() && under == 0:
		const among = "The items below “%s” are automatic; none can be put among them by hand, but below one of them."
		return refuse(among, s.EntryLabel(above))
	case under != 0 && (p == nil || p.Purged):
		return &Conflict{Page: under, Sentence: "The page of the line to put it below is not there any more."}
	}
	return nil
}

// remove takes a branch out of a menu.
func remove(m *site.Menu, branch []site.Entry) {
	m.Entries = slices.DeleteFunc(m.Entries, func(e site.Entry) bool {
		return slices.ContainsFunc(branch, func(gone site.Entry) bool { return gone.ID == e.ID })
	})
}
