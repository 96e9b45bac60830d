package edit_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// An operation on blocks and places, then its inverse, gives back what stood; and its JSON is the same operation.
func TestBlockOperationsUndoThemselves(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s, next := testkit.Random(t, 8), int64(100)
		for range 6 {
			op := testkit.RandomBlockOp(t, s, &next)
			after, settled, err := edit.Apply(s, op, testkit.Now)
			if err != nil {
				continue
			}
			data, err := edit.Encode(settled)
			require.NoError(t, err)
			again, err := edit.Decode(data)
			require.NoError(t, err)
			redone, _, err := edit.Apply(s, again, testkit.Now)
			require.NoError(t, err)
			assert.Equal(t, after.Blocks(), redone.Blocks())
			assert.Equal(t, after.Placements(), redone.Placements())
			back, _, err := edit.Apply(after, settled.Inverse(), testkit.Now)
			require.NoError(t, err, "undo %#v", settled)
			assert.Equal(t, s.Blocks(), back.Blocks())
			assert.Equal(t, s.Placements(), back.Placements())
			assert.Equal(t, s.Settings(), back.Settings())
			assert.Equal(t, s.ConditionSets(), back.ConditionSets())
			assert.Equal(t, after.ConditionSets(), redone.ConditionSets())
			for _, p := range after.Placements() {
				if set := after.ConditionSet(p.Set); p.Set != 0 {
					want := p
					want.Take(set)
					assert.Equal(t, want, p, "a place has what its set says")
				}
			}
			s = after
		}
	})
}

// A set is edited once for all its places; two who change it and who takes it up meet without a conflict.
func TestAConditionSetIsOneForAllItsPlaces(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings\n    Fares\n  Harbours")
	apply := func(on *site.Site, ops ...edit.Op) (*site.Site, []edit.Op) {
		next, settled, err := edit.ApplyAll(on, ops, testkit.Now)
		require.NoError(t, err)
		return next, settled
	}
	change := func(field edit.Field, was, is string) []edit.FieldChange {
		return []edit.FieldChange{{Field: field, Old: was, New: is}}
	}
	place := site.PlacementID(testkit.Side)
	s, _ = apply(s, edit.OpMakeSet{Set: 1, Fields: map[edit.Field]string{
		edit.FieldName: "All of Sailings", edit.FieldWhere: "branch:2",
	}}, edit.OpEditPlacement{Placement: place, Fields: change(edit.FieldExcept, "", "page:3")})
	has, ops := apply(s, edit.OpEditPlacement{Placement: place, Fields: change(edit.FieldSet, "", "1")})
	assert.Equal(t, "branch:2", edit.PlacementValue(has.Placement(place), edit.FieldWhere))
	assert.Empty(t, has.Placement(place).Except, "its own conditions give way")

	wider, _ := apply(has, edit.OpEditSet{Set: 1, Fields: change(edit.FieldWhere, "branch:2", "branch:4|branch:2")})
	assert.Equal(t, "branch:4|branch:2", edit.PlacementValue(wider.Placement(place), edit.FieldWhere))
	refused := func(on *site.Site, op edit.Op, says string) {
		_, _, err := edit.Apply(on, op, testkit.Now)
		require.ErrorContains(t, err, says)
	}
	refused(wider, edit.OpEditPlacement{Placement: place, Fields: change(edit.FieldWhere, "branch:4|branch:2", "")},
		"Where it stands is said by the condition set “All of Sailings”")
	refused(wider, edit.OpTakeSet{Was: edit.OpMakeSet{Set: 1}}, "“All of Sailings” is the condition set of one place")
	refused(s, edit.OpMakeSet{Set: 2}, "needs a name")
	refused(s, edit.OpEditPlacement{Placement: place, Fields: change(edit.FieldSet, "", "7")}, "not there any more")

	changed, _ := apply(s, edit.OpEditSet{Set: 1, Fields: change(edit.FieldWhere, "branch:2", "branch:4")})
	rebased := edit.NewRebase(changed, testkit.Now)
	_, held := rebased.Add(ops)
	require.Empty(t, held)
	where := func(on *site.Site) string { return edit.PlacementValue(on.Placement(place), edit.FieldWhere) }
	assert.Equal(t, "branch:4", where(rebased.Site), "as the set is by now")

	own, _ := apply(wider, edit.OpEditPlacement{Placement: place, Fields: change(edit.FieldSet, "1", "")})
	assert.Equal(t, "branch:4|branch:2", where(own), "it keeps them as its own")
	apply(own, edit.OpTakeSet{Was: edit.OpMakeSet{Set: 1}})
}

func TestWhatBlocksAndPlacesRefuse(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings\n    Fares\n  Missing\n  Staff | audience=staff")
	missing, staff := testkit.Find(t, s, "Missing"), testkit.Find(t, s, "Staff")
	s, _, err := edit.Apply(
		s,
		edit.OpEditSettings{
			Fields: []edit.FieldChange{
				{Field: edit.FieldNotFoundPage, New: edit.Value(s.Page(missing), edit.FieldLeadsTo) + "4"},
			},
		},
		testkit.Now,
	)
	require.NoError(t, err)
	require.Equal(t, missing, s.Settings().NotFound)
	change := func(field edit.Field, was, is string) []edit.FieldChange {
		return []edit.FieldChange{{Field: field, Old: was, New: is}}
	}
	for _, c := range []struct {
		name string
		op   edit.Op
		says string
	}{
		{
			"a block without a name",
			edit.OpMakeBlock{Block: 9, Fields: map[edit.Field]string{edit.FieldPiece: "account"}},
			"needs a name",
		},
		{"a block without anything to show", edit.OpMakeBlock{
			Block:  9,
			Fields: map[edit.Field]string{edit.FieldName: "Empty"},
		}, "something to show"},
		{"a menu that is not there", edit.OpMakeBlock{Block: 9, Fields: map[edit.Field]string{
			edit.FieldName:  "A",
			edit.FieldPiece: "menu:7:1:0:trail:0:all",
		}}, "not there any more"},
		{"levels from nowhere", edit.OpEditBlock{
			Block:  testkit.Header,
			Fields: change(edit.FieldPiece, "menu:1:1:2:whole:0:all", "menu:1:0:2:whole:0:all"),
		}, "first level"},
		{"from an item that is not there", edit.OpEditBlock{
			Block:  testkit.Header,
			Fields: change(edit.FieldPiece, "menu:1:1:2:whole:0:all", "menu:1:1:2:entry:77:all"),
		}, "Choose the item"},
		{
			"a block that stands somewhere is taken away",
			edit.OpTakeBlock{Was: edit.OpMakeBlock{Block: testkit.Header}},
			"stands in 1 places",
		},
		{"the content has its region for itself", edit.OpPutPlacement{
			Placement: 9, Block: testkit.Header,
			Slot: edit.Slot{Region: "content"},
		}, "no region"},
		{"a layout without the region", edit.OpPutPlacement{
			Placement: 9, Block: testkit.Header,
			Slot: edit.Slot{Region: "side"}, Fields: map[edit.Field]string{edit.FieldLayout: "wide"},
		}, "no such region"},
		{"a pattern that is none", edit.OpEditPlacement{
			Placement: 1,
			Fields:    change(edit.FieldWhere, "", "pattern:harbours"),
		}, "begins with"},
		{"a window that ends before it begins", edit.OpEditPlacement{
			Placement: 1,
			Fields: []edit.FieldChange{
				{Field: edit.FieldLiveFrom, New: "2026-12-02T00:00:00Z"},
				{Field: edit.FieldLiveUntil, New: "2026-12-01T00:00:00Z"},
			},
		}, "before it comes"},
		{
			"a placement beside itself",
			edit.OpMovePlacement{Placement: 1, To: edit.Slot{Region: "side", After: 1}},
			"beside itself",
		},
		{
			"somebody else was faster",
			edit.OpEditPlacement{Placement: 1, Fields: change(edit.FieldOn, "no", "no")},
			"changed by somebody else",
		},
		{
			"a layout that the theme does not have",
			edit.OpEdit{Page: missing, Fields: change(edit.FieldLayout, "", "attic")},
			"no layout",
		},
		{
			"a page for all that only some reach",
			edit.OpEditSettings{Fields: change(edit.FieldNoAccessPage, "", "5")},
			"not everyone reaches it",
		},
		{
			"the page for all goes offline",
			edit.OpEdit{Page: missing, Fields: change(edit.FieldStatus, "live", "offline")},
			"everyone must be able to reach",
		},
		{
			"the page for all moves out of reach",
			edit.OpMove{Page: missing, To: edit.Place{Parent: staff}},
			"everyone must be able to reach",
		},
		{"the page for all is binned", edit.OpBin{Page: missing}, "everyone must be able to reach"},
	} {
		_, _, err := edit.Apply(s, c.op, testkit.Now)
		assert.ErrorContains(t, err, c.says, c.name)
	}
}

func TestAPlacementMovesAmongTheOthersOfItsRegion(t *testing.T) {
	s := testkit.Outline(t, "Home")
	var err error
	for id := range 3 {
		s, _, err = edit.Apply(
			s,
			edit.OpPutPlacement{
				Placement: site.PlacementID(11 + id),
				Block:     testkit.Header,
				Slot:      edit.Slot{Region: "footer"},
			},
			testkit.Now,
		)
		require.NoError(t, err)
	}
	s, settled, err := edit.Apply(
		s,
		edit.OpMovePlacement{Placement: 13, To: edit.Slot{Region: "footer", Before: 12}},
		testkit.Now,
	)
	require.NoError(t, err)
	assert.Equal(
		t,
		edit.OpMovePlacement{
			Placement: 13,
			From:      edit.Slot{Region: "footer", After: 12},
			To:        edit.Slot{Region: "footer", After: 11, Before: 12},
		},
		settled,
	)
	var order []site.PlacementID
	for _, p := range s.Placements() {
		if p.Region == "footer" {
			order = append(order, p.ID)
		}
	}
	assert.Equal(t, []site.PlacementID{11, 13, 12}, order)
}
