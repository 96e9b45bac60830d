package edit

import (
	"cmp"
	"fmt"
	"maps"
	"slices"

	"vineladder/internal/core/site"
	"vineladder/internal/core/target"
)

// OpPutEntries puts entries into a menu: one that is made or copied, or a whole branch that comes back.
type OpPutEntries struct {
	Gap     Gap         `json:"gap"`
	Entries []EntryForm `json:"entries"`
}

func (OpPutEntries) name() string { return "put-entries" }

func (OpPutEntries) Subject() site.PageID { return 0 }

func (o OpPutEntries) About(s *site.Site) About {
	if len(o.Entries) == 0 {
		return About{What: "Menu item"}
	}
	return aboutEntry(s, o.Entries[0].ID, o.Entries[0])
}

func (o OpPutEntries) Needs(*site.Site) []Need {
	return needsOfForms(site.MenuThing(o.Gap.Menu), o.Entries)
}

func (o OpPutEntries) Inverse() Op { return OpTakeEntry{o.Entries[0].ID, o} }

func (o OpPutEntries) ties() ties {
	used := o.Gap.ties()
	for _, form := range o.Entries {
		used = append(used, lineTie(form.Under)...)
		used = append(used, entryFields.named(form.Fields)...)
	}
	return ties{makes: made(o.Entries), uses: used}
}

func (o OpPutEntries) insist(*site.Site, int64) (Op, error) { return nil, errNoInsisting }

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
	if err := st.standBelow(branch); err != nil {
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

// OpTakeEntry takes an entry and all below it out of its menu. The pages that they lead to stay (rules 2.10).
type OpTakeEntry struct {
	Entry site.EntryID `json:"entry"`
	Was   OpPutEntries `json:"was"`
}

func (OpTakeEntry) name() string { return "take-entry" }

func (OpTakeEntry) Subject() site.PageID { return 0 }

func (o OpTakeEntry) About(s *site.Site) About { return aboutEntry(s, o.Entry, EntryForm{}) }

func (o OpTakeEntry) Needs(s *site.Site) []Need {
	return []Need{{Action: site.ActionLink, On: menuOf(s, o.Entry)}}
}

func (o OpTakeEntry) Inverse() Op { return o.Was }

func (o OpTakeEntry) ties() ties { return ties{uses: []tie{itemTie(o.Entry)}} }

func (o OpTakeEntry) insist(*site.Site, int64) (Op, error) { o.Was = OpPutEntries{}; return o, nil }

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

// An EntryForm is an entry written down: its fields in their canonical form, those that are unset left out.
type EntryForm struct {
	ID     site.EntryID     `json:"id"`
	Parent site.EntryID     `json:"parent,omitempty"` // 0: the gap's parent
	Under  site.PageID      `json:"under,omitempty"`  // the page of the line of the parent's run
	Fields map[Field]string `json:"fields"`
}

func (f EntryForm) entry(s *site.Site) (site.Entry, error) {
	e := site.Entry{ID: f.ID, Parent: f.Parent, Under: f.Under, Shows: site.ItemHeading{}}
	if err := entryFields.fill(s, &e, f.Fields); err != nil {
		return e, err
	}
	return e, checkEntry(&e)
}

func checkEntry(e *site.Entry) error {
	switch {
	case e.Label == "" && e.Target() == 0:
		return refuse("This item leads to no page of the site, so it needs a label of its own.")
	case e.Window().IsBackwards():
		return refuse("The item would end before it begins: the end must be after the beginning.")
	}
	return nil
}

// formOf writes an entry down. The parent is left out where it is the gap's.
func formOf(e *site.Entry, top site.EntryID) EntryForm {
	form := EntryForm{ID: e.ID, Fields: entryFields.written(e, site.Entry{})}
	form.Fields[FieldShows] = target.Text(e.Shows)
	if e.ID != top {
		form.Parent, form.Under = e.Parent, e.Under
	}
	return form
}

func formsOf(entries []site.Entry, top site.EntryID) []EntryForm {
	forms := make([]EntryForm, len(entries))
	for i := range entries {
		forms[i] = formOf(&entries[i], top)
	}
	return forms
}

// sameForms compares entries and where each stands below, not their order.
func sameForms(a, b []EntryForm) bool {
	byID := func(a, b EntryForm) int { return cmp.Compare(a.ID, b.ID) }
	return slices.EqualFunc(
		slices.SortedFunc(slices.Values(a), byID),
		slices.SortedFunc(slices.Values(b), byID),
		func(a, b EntryForm) bool {
			return a.ID == b.ID && a.Parent == b.Parent && a.Under == b.Under && maps.Equal(a.Fields, b.Fields)
		},
	)
}

// standBelow refuses entries that can't stand below those of them that they name.
func (st *state) standBelow(entries []site.Entry) error {
	by := map[site.EntryID]*site.Entry{}
	for i := range entries {
		by[entries[i].ID] = &entries[i]
	}
	for i := range entries {
		if above := by[entries[i].Parent]; above != nil {
			if err := st.mayStandBelow(above, entries[i].Under); err != nil {
				return err
			}
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

// PutBranches puts entries that are written down, parents first, at the end of a menu: one operation for each top entry
// with those below it.
func PutBranches(m site.MenuID, forms []EntryForm) []Op {
	var ops []Op
	of := map[site.EntryID]int{} // index of the operation that an entry is in
	for _, form := range forms {
		at, below := of[form.Parent]
		if !below || form.Parent == 0 {
			at = len(ops)
			ops = append(ops, OpPutEntries{Gap: Gap{Menu: m}})
		}
		of[form.ID] = at
		put := ops[at].(OpPutEntries)
		put.Entries = append(put.Entries, form)
		ops[at] = put
	}
	return ops
}

// CopyEntries writes copies of entries of a menu down, parents first, under new numbers in the same order. A copy whose
// original's parent is not among them stands in the gap.
func CopyEntries(m *site.Menu, ids, made []site.EntryID) []EntryForm {
	forms := make([]EntryForm, len(ids))
	for i, id := range ids {
		e := *m.Entry(id)
		forms[i] = formOf(&e, id)
		forms[i].ID = made[i]
		if above := slices.Index(ids, e.Parent); above >= 0 {
			forms[i].Parent, forms[i].Under = made[above], e.Under
		}
	}
	return forms
}
