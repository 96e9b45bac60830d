package edit

import (
	"maps"
	"slices"

	"vineladder/internal/core/site"
)

// changed gives the values in which a thing differs from those wanted, in the order of their fields.
func changed(values map[Field]string, stands func(Field) string) (changes []FieldChange) {
	for _, field := range slices.Sorted(maps.Keys(values)) {
		if was := stands(field); was != values[field] {
			changes = append(changes, FieldChange{Field: field, Old: was, New: values[field]})
		}
	}
	return changes
}

// SetPlaces gives the edits that set fields of several placements. Those that have the values already are left out.
func SetPlaces(s *site.Site, chosen []site.PlacementID, values map[Field]string) (ops []Op) {
	for _, id := range chosen {
		p := s.Placement(id)
		if p == nil {
			continue
		}
		if fields := changed(values, func(f Field) string { return PlacementValue(p, f) }); len(fields) > 0 {
			ops = append(ops, OpEditPlacement{Placement: id, Fields: fields})
		}
	}
	return ops
}

// SetItems does the same for items of a menu.
func SetItems(m *site.Menu, chosen []site.EntryID, values map[Field]string) (ops []Op) {
	for _, id := range chosen {
		e := m.Entry(id)
		if e == nil {
			continue
		}
		if fields := changed(values, func(f Field) string { return EntryValue(e, f) }); len(fields) > 0 {
			ops = append(ops, OpEditEntry{Menu: m.ID, Entry: id, Fields: fields})
		}
	}
	return ops
}

// PlacesOf gives the placements of several blocks, in order.
func PlacesOf(s *site.Site, blocks []site.BlockID) (places []site.PlacementID) {
	for i := range s.Placements() {
		if p := &s.Placements()[i]; slices.Contains(blocks, p.Block) {
			places = append(places, p.ID)
		}
	}
	return places
}

// Replace gives the edits after which a block stands wherever several others stand, under the same conditions; those
// are kept, and stand nowhere. made has a new number for each of PlacesOf.
func Replace(s *site.Site, blocks []site.BlockID, by site.BlockID, made []site.PlacementID) (ops []Op) {
	now := map[site.PlacementID]site.PlacementID{} // by the placement that gives way
	standing := func(id site.PlacementID) site.PlacementID {
		if next, gone := now[id]; gone {
			return next
		}
		return id
	}
	for i, id := range PlacesOf(s, blocks) {
		p := s.Placement(id)
		slot := SlotOf(s, p)
		slot.After = standing(slot.After)
		ops = append(ops, OpTakePlacement{Placement: id}, OpPutPlacement{
			Placement: made[i], Block: by, Slot: slot, Fields: placementFields.written(p, site.Placement{}),
		})
		now[id] = made[i]
	}
	return ops
}

// LeadElsewhere gives the edits after which every item of every menu that leads where several lead shows something
// else, as the field of an item has it.
func LeadElsewhere(s *site.Site, chosen []*site.Entry, shows string) (ops []Op) {
	was := map[string]bool{}
	for _, e := range chosen {
		if _, heads := e.Shows.(site.ItemHeading); !heads {
			was[EntryValue(e, FieldShows)] = true
		}
	}
	for i := range s.Menus() {
		m := &s.Menus()[i]
		for k := range m.Entries {
			e := &m.Entries[k]
			if stands := EntryValue(e, FieldShows); was[stands] && stands != shows {
				change := FieldChange{Field: FieldShows, Old: stands, New: shows}
				ops = append(ops, OpEditEntry{Menu: m.ID, Entry: e.ID, Fields: []FieldChange{change}})
			}
		}
	}
	return ops
}
