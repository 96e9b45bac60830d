package layouts

import (
	"fmt"
	"slices"
	"strings"

	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// A setsSheet is the condition sets of a site, or one of them.
type setsSheet struct {
	All []setLine
	One *setSheet
}

// A setLine is a set with where it counts.
type setLine struct {
	*site.ConditionSet
	Chip     string
	Sentence string
	Used     string
}

// A setSheet is all that is said of one.
type setSheet struct {
	setLine
	On     onPages
	Holds  int // pages on which it holds, for the lens
	Places []blockPlace
	Locked bool
}

// setsOf gives what is looked at of condition sets; nil for a chip that is none.
func setsOf(d *desk.Desk, chip chipID) *setsSheet {
	made := &setsSheet{}
	switch set := d.Site.ConditionSet(chip.Set); {
	case set != nil:
		made.One = setSheetOf(d, set)
	case chip.Sets || chip.Set != 0:
		for i := range d.Site.ConditionSets() {
			made.All = append(made.All, setLineOf(d, &d.Site.ConditionSets()[i]))
		}
	default:
		return nil
	}
	return made
}

func setLineOf(d *desk.Desk, set *site.ConditionSet) setLine {
	var on site.Conditions
	on.Take(set)
	blocks := map[site.BlockID]bool{}
	places := d.Site.PlacementsWith(set.ID)
	for _, p := range places {
		blocks[p.Block] = true
	}
	used := "No place has it."
	if len(places) > 0 {
		used = count.Of(len(places), "place", "places") + " of " + count.Of(len(blocks), "block", "blocks") + "."
	}
	return setLine{set, chipID{Set: set.ID}.String(), wordsOf(d, &on), used}
}

func setSheetOf(d *desk.Desk, set *site.ConditionSet) *setSheet {
	var on site.Conditions
	on.Take(set)
	made := &setSheet{setLine: setLineOf(d, set), On: onPagesOf(d, &on), Holds: region.PagesOn(d.Site, set, d.Lens)}
	made.Locked = made.On.Locked
	for _, p := range d.Site.PlacementsWith(set.ID) {
		words := d.Site.Block(p.Block).Name + ", " + d.PlaceWords(p)
		made.Places = append(made.Places, blockPlace{ID: chipID{Placement: p.ID}.String(), Words: words})
	}
	return made
}

// onSet is what is done with condition sets.
func (i *mapIntent) onSet(s *site.Site) ([]edit.Op, string, error) {
	name := strings.TrimSpace(i.form("name"))
	switch i.do {
	case "make-set":
		return []edit.Op{
			edit.OpMakeSet{Set: i.newSet, Fields: map[edit.Field]string{edit.FieldName: name}},
		}, "made the condition set “" + desk.Short(name) + "”", nil
	case "name-set":
		return i.nameSet(s, name)
	}
	set := s.ConditionSet(i.chip.Set)
	if set == nil {
		return nil, "", &edit.Conflict{Sentence: "The condition set is not there any more."}
	}
	called := "the condition set “" + desk.Short(set.Name) + "”"
	switch i.do {
	case "take-set":
		return []edit.Op{edit.OpTakeSet{Was: edit.OpMakeSet{Set: set.ID}}}, "took " + called + " away", nil
	case "set-field":
		change := edit.FieldChange{
			Field: edit.Field(i.form("field")), Old: i.form("old"), New: strings.TrimSpace(i.form("new")),
		}
		return []edit.Op{edit.OpEditSet{Set: set.ID, Fields: []edit.FieldChange{change}}}, "renamed " + called, nil
	case "add", "drop":
		change := i.changedList(func(field edit.Field) string { return edit.SetValue(set, field) })
		words := "changed " + called
		if n := len(s.PlacementsWith(set.ID)); n > 0 {
			words += ", for " + count.Of(n, "place", "places")
		}
		return []edit.Op{edit.OpEditSet{Set: set.ID, Fields: []edit.FieldChange{change}}}, words, nil
	}
	return nil, "", &edit.Refusal{Sentence: "This edit is not known."}
}

// nameSet makes a set of a place's own conditions on pages, and has the place stand by it.
func (i *mapIntent) nameSet(s *site.Site, name string) ([]edit.Op, string, error) {
	p := s.Placement(i.chip.Placement)
	if p == nil {
		return nil, "", &edit.Conflict{Sentence: "The block does not stand there any more."}
	}
	fields := map[edit.Field]string{edit.FieldName: name}
	for _, field := range []edit.Field{edit.FieldWhere, edit.FieldExcept, edit.FieldKinds, edit.FieldNotKinds} {
		if value := edit.PlacementValue(p, field); value != "" {
			fields[field] = value
		}
	}
	has := edit.FieldChange{
		Field: edit.FieldSet, Old: edit.PlacementValue(p, edit.FieldSet), New: fmt.Sprint(i.newSet),
	}
	return []edit.Op{
		edit.OpMakeSet{Set: i.newSet, Fields: fields},
		edit.OpEditPlacement{Placement: p.ID, Fields: []edit.FieldChange{has}},
	}, "named the conditions of “" + desk.Short(s.Block(p.Block).Name) + "”: “" + desk.Short(name) + "”", nil
}

// isOfSets says whether an intent is about condition sets.
func (i *mapIntent) isOfSets() bool {
	return i.chip.Set != 0 || slices.Contains([]string{"make-set", "name-set"}, i.do)
}
