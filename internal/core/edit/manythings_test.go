package edit_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// Where blocks stood another one stands, under the same conditions and between the same others; the rest is as it was.
func TestABlockStandsWhereOthersStood(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s, next := testkit.Random(t, 6), int64(100)
		for range 12 {
			if after, _, err := edit.Apply(s, testkit.RandomBlockOp(t, s, &next), testkit.Now); err == nil {
				s = after
			}
		}
		if len(s.Blocks()) < 2 {
			return
		}
		ids := rapid.Permutation(s.Blocks()).Draw(t, "blocks")
		by, gone := ids[0].ID, []site.BlockID{}
		for _, b := range ids[1:rapid.IntRange(2, len(ids)).Draw(t, "replaced")] {
			gone = append(gone, b.ID)
		}
		var made []site.PlacementID
		for range edit.PlacesOf(s, gone) {
			next++
			made = append(made, site.PlacementID(next))
		}
		after, _, err := edit.ApplyAll(s, edit.Replace(s, gone, by, made), testkit.Now)
		require.NoError(t, err)
		var want, is []site.Placement
		for _, p := range s.Placements() {
			if slices.Contains(gone, p.Block) {
				p.Block = by
			}
			want = append(want, p)
		}
		for i, p := range after.Placements() {
			if slices.Contains(made, p.ID) && i < len(want) {
				p.ID = want[i].ID
			}
			is = append(is, p)
		}
		require.Equal(t, want, is)
		require.Equal(t, s.Blocks(), after.Blocks())
	})
}

// Items that lead to the same place, in whatever menu, lead to another together.
func TestItemsLeadElsewhereInEveryMenu(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings\n  Harbours\n  Rates")
	item := func(id int64, shows string) edit.EntryForm {
		fields := map[edit.Field]string{edit.FieldShows: shows, edit.FieldLabel: "Item"}
		return edit.EntryForm{ID: site.EntryID(id), Fields: fields}
	}
	s, _, err := edit.ApplyAll(s, []edit.Op{
		edit.OpMakeMenu{Menu: 7, Key: "one", Name: "One", Entries: []edit.EntryForm{
			item(71, "page:2"), item(72, "heading"), item(73, "page:3"), item(74, "web:https://tides.example/"),
		}},
		edit.OpMakeMenu{Menu: 8, Key: "two", Name: "Two", Entries: []edit.EntryForm{
			item(81, "page:2"), item(82, "heading"), item(83, "branch:2:1:not"), item(84, "web:https://tides.example/"),
		}},
	}, testkit.Now)
	require.NoError(t, err)
	one := s.Menu(7)
	chosen := []*site.Entry{one.Entry(71), one.Entry(72), one.Entry(74)}
	after, _, err := edit.ApplyAll(s, edit.LeadElsewhere(s, chosen, "page:4"), testkit.Now)
	require.NoError(t, err)
	shows := func(menu site.MenuID) (all []string) {
		for _, e := range after.Menu(menu).Entries {
			all = append(all, edit.EntryValue(&e, edit.FieldShows))
		}
		return all
	}
	assert.Equal(t, []string{"page:4", "heading", "page:3", "page:4"}, shows(7))
	assert.Equal(t, []string{"page:4", "heading", "branch:2:1:not", "page:4"}, shows(8))
}

// What is set for several is set for each that differs, and for no other.
func TestSeveralPlacesAndItemsAreSetTogether(t *testing.T) {
	s := exampleSite(t)
	places := []site.PlacementID{1, 2, 99}
	values := map[edit.Field]string{edit.FieldOn: "no", edit.FieldLiveUntil: "2027-01-01T00:00:00Z"}
	ops := edit.SetPlaces(s, places, values)
	require.Len(t, ops, 2)
	after, _, err := edit.ApplyAll(s, ops, testkit.Now)
	require.NoError(t, err)
	for _, id := range places[:2] {
		assert.True(t, after.Placement(id).Off)
		assert.Equal(t, 2027, after.Placement(id).LiveUntil.Year())
	}
	assert.Empty(t, edit.SetPlaces(after, places, values))
	m := s.Menu(1)
	ops = edit.SetItems(m, []site.EntryID{1, 99}, map[edit.Field]string{edit.FieldOn: "no", edit.FieldAudience: "staff"})
	require.Len(t, ops, 1)
	assert.Len(t, edit.FieldsSet(ops[0]), 2)
}
