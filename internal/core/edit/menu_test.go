package edit_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// drawMenus writes menus as the tree that they are.
func drawMenus(s *site.Site) string {
	var out strings.Builder
	for i := range s.Menus() {
		m := &s.Menus()[i]
		fmt.Fprintf(&out, "%d %s %s\n", m.ID, m.Key, m.Name)
		var draw func(parent site.EntryID, level int)
		draw = func(parent site.EntryID, level int) {
			below := slices.Clone(m.Below(parent))
			slices.SortStableFunc(below, func(a, b site.EntryID) int { return int(m.Entry(a).Under - m.Entry(b).Under) })
			for _, id := range below {
				e := *m.Entry(id)
				fmt.Fprintf(&out, "%s%+v\n", strings.Repeat("  ", level), e)
				draw(id, level+1)
			}
		}
		draw(0, 1)
	}
	return out.String()
}

func TestAMenuOperationAndItsInverseGiveTheMenusBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 10)
		b := s.Builder()
		b.SetMenus([]site.Menu{*testkit.RandomMenu(t, s), {ID: 2, Key: "other", Name: "Other"}})
		s = b.Site()
		next := site.EntryID(100)
		for range rapid.IntRange(1, 10).Draw(t, "ops") {
			before := drawMenus(s)
			made, settled, err := edit.Apply(s, testkit.RandomMenuOp(t, s, &next), testkit.Now)
			require.Equal(t, before, drawMenus(s), "the Site given has changed")
			if err != nil {
				continue
			}
			data, err := edit.Encode(settled)
			require.NoError(t, err)
			decoded, err := edit.Decode(data)
			require.NoError(t, err)
			again, _, err := edit.Apply(s, decoded, testkit.Now)
			require.NoError(t, err)
			require.Equal(t, drawMenus(made), drawMenus(again), "what the log keeps can be done again")
			back, _, err := edit.Apply(made, settled.Inverse(), testkit.Now)
			require.NoError(t, err, "%#v", settled)
			require.Equal(t, before, drawMenus(back), "%#v", settled)
			s = made
		}
	})
}

func TestMenuOperationsAreRefusedWithAReason(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings\n  Contact")
	b := s.Builder()
	b.SetMenus([]site.Menu{{ID: 1, Key: "main", Name: "Main", Entries: []site.Entry{
		{
			ID:    1,
			Shows: site.ItemBranch{Root: 1, Self: site.SelfBeside},
		}, {ID: 2, Label: "Box", Shows: site.ItemHeading{}}, {ID: 3, Parent: 2, Shows: site.ItemPage{Page: 2}},
	}}},
	)
	b.SetBlocks([]site.Block{testkit.MenuBlock(1, "Header", 1, site.Window{From: site.FromEntry, Entry: 2})}, nil)
	s = b.Site()
	put := func(parent site.EntryID, fields map[edit.Field]string) edit.Op {
		return edit.OpPutEntries{
			Gap:     edit.Gap{Menu: 1, Parent: parent},
			Entries: []edit.EntryForm{{ID: 9, Fields: fields}},
		}
	}
	for _, c := range []struct {
		name string
		op   edit.Op
		says string
	}{
		{"nothing stands among automatic items", put(1, map[edit.Field]string{edit.FieldShows: "page:2"}), "are automatic"},
		{
			"an item without a page needs a label", put(0, map[edit.Field]string{edit.FieldShows: "web:https://tides.example/"}),
			"label of its own",
		},
		{
			"an address has a form", put(0, map[edit.Field]string{edit.FieldShows: "web:tides", edit.FieldLabel: "Tides"}),
			"write it as https://",
		},
		{"a script is no address", put(0, map[edit.Field]string{
			edit.FieldShows: "web:javascript:alert(1)",
			edit.FieldLabel: "x",
		}), "not with “javascript”"},
		{"a page must be there", put(0, map[edit.Field]string{edit.FieldShows: "page:77"}), "not there any more"},
		{"an item in itself", edit.OpMoveEntry{Entry: 2, To: edit.Gap{Menu: 1, Parent: 3}}, "into itself"},
		{"an item that a block starts from", edit.OpTakeEntry{Entry: 2}, "“Header” shows what is below"},
		{"a menu that a block shows", edit.OpTakeMenu{Was: edit.OpMakeMenu{Menu: 1}}, "is shown by “Header”"},
		{"a menu without a name", edit.OpMakeMenu{Menu: 5, Name: "  "}, "needs a name"},
		{"a run has no items of its own below", edit.OpEditEntry{
			Entry:  2,
			Fields: []edit.FieldChange{{Field: edit.FieldShows, Old: "heading", New: "branch:2:0:not"}},
		}, "items below"},
		{"a field that somebody else changed", edit.OpEditEntry{
			Entry:  2,
			Fields: []edit.FieldChange{{Field: edit.FieldLabel, Old: "Case", New: "Crate"}},
		}, "changed by somebody else"},
	} {
		_, _, err := edit.Apply(s, c.op, testkit.Now)
		assert.ErrorContains(t, err, c.says, c.name)
	}
	made, _, err := edit.Apply(s, edit.OpMakeMenu{Menu: 5, Name: "Main"}, testkit.Now)
	require.NoError(t, err)
	assert.Equal(t, "main-2", made.Menu(5).Key, "keys are made unique")
	taken, _, err := edit.Apply(s, edit.OpTakeEntry{Entry: 3}, testkit.Now)
	require.NoError(t, err)
	assert.NotNil(t, taken.Page(2), "the page stays")
}

func TestNothingStandsAmongTheLinesOfARun(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings")
	forms := []edit.EntryForm{
		{ID: 50, Fields: map[edit.Field]string{edit.FieldShows: "branch:2:0:above"}},
		{
			ID:     51,
			Parent: 50,
			Fields: map[edit.Field]string{edit.FieldShows: "web:https://tides.example/", edit.FieldLabel: "Tides"},
		},
	}
	for _, op := range []edit.Op{
		edit.OpMakeMenu{Menu: 9, Name: "New", Entries: forms},
		edit.OpPutEntries{Gap: edit.Gap{Menu: 1}, Entries: forms},
	} {
		_, _, err := edit.Apply(s, op, testkit.Now)
		assert.EqualError(t, err, "The items below “Sailings” are automatic; none can be put among them by hand, "+
			"but below one of them.")
	}
	_, _, err := edit.Apply(s, edit.OpMakeMenu{Menu: 1, Name: "Again"}, testkit.Now)
	assert.ErrorContains(t, err, "There is a menu with the number 1 already")
}
