package edit

import (
	"slices"

	"vineladder/internal/core/site"
)

// CanInsist says whether a held operation can be done all the same, on what others published: where its conflict is
// about a field's value, a place, or what was taken away while others changed it.
func CanInsist(held Held) bool {
	conflict, ok := held.Why.(*Conflict)
	return ok && (conflict.Field != "" || conflict.Theirs != "")
}

// Insist gives a held operation with what it presumes made true again on a Site: an edit takes today's values as the
// old ones, a move today's place, what takes something away has seen what others changed.
func Insist(s *site.Site, op Op, revision int64) (Op, error) {
	switch o := op.(type) {
	case OpEdit:
		if page := s.Page(o.Page); page != nil {
			o.Fields = onTop(o.Fields, func(f Field) string { return Value(page, f) })
			return o, nil
		}
	case OpMove:
		if page := s.Page(o.Page); page != nil {
			o.From, o.Chosen = Place{Parent: page.Parent}, nil
			return o, nil
		}
	case OpBin:
		o.Seen = revision
		return o, nil
	case OpEditEntry:
		if m, err := holder(s, o.Entry); err == nil {
			o.Fields = onTop(o.Fields, func(f Field) string { return EntryValue(m.Entry(o.Entry), f) })
			return o, nil
		}
	case OpMoveEntry:
		o.From = Gap{}
		return o, nil
	case OpTakeEntry:
		o.Was = OpPutEntries{}
		return o, nil
	case OpTakeMenu:
		o.Was = OpMakeMenu{Menu: o.Was.Menu}
		return o, nil
	case OpEditMenu:
		if m := s.Menu(o.Menu); m != nil {
			o.Fields = onTop(o.Fields, func(f Field) string { return menuTable.value(m, f) })
			return o, nil
		}
	case OpEditBlock:
		if b := s.Block(o.Block); b != nil {
			o.Fields = onTop(o.Fields, func(f Field) string { return BlockValue(b, f) })
			return o, nil
		}
	case OpTakeBlock:
		o.Was = OpMakeBlock{Block: o.Was.Block}
		return o, nil
	case OpEditPlacement:
		if p := s.Placement(o.Placement); p != nil {
			o.Fields = onTop(o.Fields, func(f Field) string { return PlacementValue(p, f) })
			return o, nil
		}
	case OpMovePlacement:
		o.From = Slot{}
		return o, nil
	case OpTakePlacement:
		o.Was = OpPutPlacement{}
		return o, nil
	case OpEditSettings:
		o.Fields = onTop(o.Fields, func(f Field) string { return SettingValue(s.Settings(), f) })
		return o, nil
	case OpEditKind:
		kind := s.Kind(o.Kind)
		o.Fields = onTop(o.Fields, func(f Field) string { return kindTable.value(&kind, f) })
		return o, nil
	}
	return nil, refuse("This edit can't be brought forward; leave it out and do it again as things are now.")
}

// onTop gives changes that start from the values of now.
func onTop(changes []FieldChange, now func(Field) string) []FieldChange {
	changes = slices.Clone(changes)
	for i, c := range changes {
		changes[i].Old = now(c.Field)
	}
	return changes
}
