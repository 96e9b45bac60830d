package outline

import (
	"slices"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/rise"
	"vineladder/internal/core/site"
	"vineladder/internal/core/target"
	"vineladder/internal/core/typed"
)

// Bring gives the operations that bring a menu to what forms say: items that are there are kept, edited and moved
// where they differ, others are put in or taken out. An item is known again among those beside it by where it leads
// and its label, else by one of them. The forms are those of the outline, parents first; what an export says gives no
// operation.
func (m Menu) Bring(standing *site.Menu, forms []edit.EntryForm) []edit.Op {
	b := &bringing{menu: standing, below: map[site.EntryID][]edit.EntryForm{}}
	for _, form := range forms {
		b.below[form.Parent] = append(b.below[form.Parent], form)
	}
	var changes []edit.FieldChange
	if standing.Name != m.Name && m.Name != "" {
		changes = append(changes, edit.FieldChange{Field: edit.FieldName, Old: standing.Name, New: m.Name})
	}
	if was, is := typed.Yes(standing.Programs), typed.Yes(m.Programs); was != is && !m.isOPML {
		changes = append(changes, edit.FieldChange{Field: edit.FieldPrograms, Old: was, New: is})
	}
	if len(changes) > 0 {
		b.ops = append(b.ops, edit.OpEditMenu{Menu: standing.ID, Fields: changes})
	}
	b.level(edit.Gap{Menu: standing.ID}, 0)
	return slices.Concat(b.ops, b.taken)
}

type bringing struct {
	menu  *site.Menu
	below map[site.EntryID][]edit.EntryForm // by the number that a form gives its parent
	ops   []edit.Op
	taken []edit.Op
}

// levels brings the items below one that stands, and below lines of its run, to what is written below its form.
func (b *bringing) levels(standing, written site.EntryID) {
	under := []site.PageID{0}
	for _, id := range b.menu.Below(standing) {
		under = append(under, b.menu.Entry(id).Under)
	}
	for _, form := range b.below[written] {
		under = append(under, form.Under)
	}
	slices.Sort(under)
	for _, page := range slices.Compact(under) {
		b.level(edit.Gap{Menu: b.menu.ID, Parent: standing, Under: page}, written)
	}
}

// level brings the items below one line to what is written below it.
func (b *bringing) level(at edit.Gap, written site.EntryID) {
	kids := at.Beside(b.menu)
	forms := slices.DeleteFunc(slices.Clone(b.below[written]), func(f edit.EntryForm) bool { return f.Under != at.Under })
	known := b.match(kids, forms)
	kept := map[site.EntryID]bool{}
	var order []int // of those that are kept, where they stand
	for _, id := range known {
		if id != 0 {
			kept[id] = true
			order = append(order, slices.Index(kids, id))
		}
	}
	moves := map[site.EntryID]bool{}
	stays := slices.DeleteFunc(slices.Clone(known), func(id site.EntryID) bool { return id == 0 })
	for _, i := range rise.Outside(order) {
		moves[stays[i]] = true
	}
	now := slices.Clone(kids)
	var after site.EntryID
	for i, form := range forms {
		id := known[i]
		gap := edit.Gap{Menu: at.Menu, Parent: at.Parent, Under: at.Under, After: after}
		if at := slices.Index(now, after) + 1; at < len(now) {
			gap.Before = now[at]
		}
		switch {
		case id == 0:
			b.ops = append(b.ops, edit.OpPutEntries{Gap: gap, Entries: b.branch(form)})
			id = form.ID
			now = slices.Insert(now, slices.Index(now, after)+1, id)
		case moves[id]:
			now = slices.DeleteFunc(now, func(other site.EntryID) bool { return other == id })
			if at := slices.Index(now, after) + 1; at < len(now) {
				gap.Before = now[at]
			} else {
				gap.Before = 0
			}
			b.ops = append(b.ops, edit.OpMoveEntry{Entry: id, From: edit.GapOf(b.menu, id), To: gap})
			now = slices.Insert(now, slices.Index(now, after)+1, id)
			fallthrough
		default:
			b.edit(b.menu.Entry(id), form)
			b.levels(id, form.ID)
		}
		after = id
	}
	for _, id := range kids {
		if !kept[id] {
			b.taken = append(b.taken, edit.OpTakeEntry{Entry: id})
		}
	}
}

// match finds for each form the item that it means among those that stand there; 0 where it is a new one.
func (b *bringing) match(kids []site.EntryID, forms []edit.EntryForm) []site.EntryID {
	known, used := make([]site.EntryID, len(forms)), map[site.EntryID]bool{}
	label := edit.FieldLabel
	for _, same := range []func(e *site.Entry, f edit.EntryForm) bool{
		func(e *site.Entry, f edit.EntryForm) bool {
			return target.Text(e.Shows) == f.Fields[edit.FieldShows] && e.Label == f.Fields[label]
		},
		func(e *site.Entry, f edit.EntryForm) bool {
			_, heading := e.Shows.(site.ItemHeading)
			return !heading && target.Text(e.Shows) == f.Fields[edit.FieldShows]
		},
		func(e *site.Entry, f edit.EntryForm) bool { return e.Label != "" && e.Label == f.Fields[label] },
	} {
		for i, form := range forms {
			if known[i] != 0 {
				continue
			}
			at := slices.IndexFunc(kids, func(id site.EntryID) bool { return !used[id] && same(b.menu.Entry(id), form) })
			if at >= 0 {
				known[i], used[kids[at]] = kids[at], true
			}
		}
	}
	return known
}

// edit gives an item the fields of its form where they differ.
func (b *bringing) edit(e *site.Entry, form edit.EntryForm) {
	var changes []edit.FieldChange
	for _, field := range edit.EntryFields() {
		value, said := form.Fields[field]
		if !said {
			value = edit.EntryValue(&site.Entry{}, field)
		}
		if was := edit.EntryValue(e, field); was != value {
			changes = append(changes, edit.FieldChange{Field: field, Old: was, New: value})
		}
	}
	if len(changes) > 0 {
		b.ops = append(b.ops, edit.OpEditEntry{Menu: b.menu.ID, Entry: e.ID, Fields: changes})
	}
}

// branch gives a form with all below it, as they are put into a gap.
func (b *bringing) branch(top edit.EntryForm) []edit.EntryForm {
	top.Parent, top.Under = 0, 0
	all := []edit.EntryForm{top}
	for i := 0; i < len(all); i++ {
		all = append(all, b.below[all[i].ID]...)
	}
	return all
}
