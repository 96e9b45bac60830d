package edit

import (
	"slices"
	"time"

	"vineladder/internal/core/site"
)

// A Bringing is what makes things of a Site as they were in another one.
type Bringing struct {
	Ops  []Op
	Left []string // what could not be brought back, in words
	on   *site.Site
	then *site.Site
	now  time.Time
}

// notBrought are fields that say what became of a page, not what it is.
var notBrought = []Field{FieldLeadsTo, FieldMergedInto}

// BringBack gives the operations that make a page, or with below set its whole branch, as it was in another Site: out
// of the bin, to its place and with what was set on it. What can't be is left and said. Pages that came into the
// branch since stay.
func BringBack(is, then *site.Site, page site.PageID, below bool, now time.Time) Bringing {
	b := Bringing{on: is, then: then, now: now}
	then.Walk(page, func(p *site.Page) bool {
		b.page(p)
		return below
	})
	return b
}

func (b *Bringing) page(p *site.Page) {
	is := b.on.Page(p.ID)
	if is == nil || is.Purged {
		b.leave("“" + p.Label + "” is gone for good")
		return
	}
	if !b.on.InTree(p.ID) {
		if top := BinnedTop(b.on, p.ID); top != 0 {
			b.try(OpRestore{Page: top, Seen: b.on.Page(top).Revision, To: Place{Parent: b.on.Page(top).Parent}})
		}
		if !b.on.InTree(p.ID) {
			b.leave("“" + p.Label + "” stays in the bin")
			return
		}
	}
	if is = b.on.Page(p.ID); is.Parent != p.Parent && b.on.InTree(p.Parent) {
		b.try(OpMove{Page: p.ID, From: PlaceOf(b.on, p.ID), To: b.place(p)})
	}
	var fields []FieldChange
	for _, c := range pageFields {
		field := c.fact().Field
		was, stands := Value(p, field), Value(b.on.Page(p.ID), field)
		if was != stands && !slices.Contains(notBrought, field) {
			fields = append(fields, FieldChange{Field: field, Old: stands, New: was})
		}
	}
	if len(fields) == 0 || b.try(OpEdit{Page: p.ID, Fields: fields}) == nil {
		return
	}
	for _, c := range fields { // one by one, so that what is refused holds up nothing else
		if err := b.try(OpEdit{Page: p.ID, Fields: []FieldChange{c}}); err != nil {
			b.leave("the " + c.Field.Words() + " of “" + p.Label + "”: " + err.Error())
		}
	}
}

// place gives where a page stood, by what stands there today of what stood beside it.
func (b *Bringing) place(p *site.Page) Place {
	at := Place{Parent: p.Parent}
	kids := b.then.Children(p.Parent)
	own := slices.Index(kids, p.ID)
	for i := own - 1; i >= 0 && at.After == 0; i-- {
		if beside := b.on.Page(kids[i]); beside != nil && beside.Parent == p.Parent && b.on.InTree(kids[i]) {
			at.After = kids[i]
		}
	}
	for i := own + 1; at.After == 0 && i > 0 && i < len(kids); i++ {
		if beside := b.on.Page(kids[i]); beside != nil && beside.Parent == p.Parent && b.on.InTree(kids[i]) {
			at.Before = kids[i]
			break
		}
	}
	return at
}

// try does an operation on what those before it made, if it can be done.
func (b *Bringing) try(op Op) error {
	next, settled, err := Apply(b.on, op, b.now)
	if err == nil {
		b.on, b.Ops = next, append(b.Ops, settled)
	}
	return err
}

func (b *Bringing) leave(words string) { b.Left = append(b.Left, words) }

// BinnedTop gives the top of the binned branch in which a page is; 0 if it is in none.
func BinnedTop(s *site.Site, id site.PageID) site.PageID {
	for p := s.Page(id); p != nil; p = s.Page(p.Parent) {
		if p.Binned {
			return p.ID
		}
	}
	return 0
}

// BringMenuBack gives the operations that make a menu as it was in another Site, its items with their numbers.
// Nothing is done where one of them can't come back.
func BringMenuBack(is, then *site.Site, id site.MenuID, now time.Time) (Bringing, error) {
	b := Bringing{on: is, then: then, now: now}
	was := then.Menu(id)
	if was == nil {
		return b, refuse("There was no such menu then.")
	}
	if is.Menu(id) == nil {
		return b, b.try(OpMakeMenu{
			Menu: id, Key: was.Key, Name: was.Name, Programs: was.Programs, Entries: formsOf(was.Entries, 0),
		})
	}
	var fields []FieldChange
	for _, field := range []Field{FieldName, FieldPrograms} {
		if old, want := MenuValue(is.Menu(id), field), MenuValue(was, field); old != want {
			fields = append(fields, FieldChange{Field: field, Old: old, New: want})
		}
	}
	if len(fields) > 0 {
		if err := b.try(OpEditMenu{Menu: id, Fields: fields}); err != nil {
			return b, err
		}
	}
	for _, top := range slices.Clone(is.Menu(id).Below(0)) {
		if err := b.try(OpTakeEntry{Entry: top}); err != nil {
			return b, err
		}
	}
	last := site.EntryID(0)
	for _, top := range was.Below(0) {
		put := OpPutEntries{Gap: Gap{Menu: id, After: last}, Entries: formsOf(branchOf(was, top), top)}
		if err := b.try(put); err != nil {
			return b, err
		}
		last = top
	}
	return b, nil
}
