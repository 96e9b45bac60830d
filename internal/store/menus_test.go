package store_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
)

// order gives a menu's entries by what they stand below, which is all that their order in the list means.
func order(s *site.Site) map[site.MenuID]map[edit.Gap][]site.EntryID {
	all := map[site.MenuID]map[edit.Gap][]site.EntryID{}
	for i := range s.Menus() {
		m := &s.Menus()[i]
		all[m.ID] = map[edit.Gap][]site.EntryID{}
		for _, e := range m.Entries {
			below := edit.Gap{Menu: m.ID, Parent: e.Parent, Under: e.Under}
			all[m.ID][below] = below.Beside(m)
		}
	}
	return all
}

// Menus go into the tables and come back as they were, whatever was done to them, items that change their menu
// included.
func TestMenusComeBackAsTheyWerePublished(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		st := storetest.New(t)
		defer st.Close()
		require.NoError(t, st.Found(ctx, store.Foundation{Settings: testkit.Settings(), Roles: testkit.Roles()}))
		publishOutline(t, st, testkit.Random(rt, 10))
		s := st.Published().Site
		foundMenus(t, st, testkit.RandomMenu(rt, s))
		next := site.EntryID(5000)
		for range rapid.IntRange(1, 8).Draw(rt, "ops") {
			publishRandom(rt, st, testkit.RandomMenuOp(rt, st.Published().Site, &next))
		}
		id, err := st.NewMenuID(ctx)
		require.NoError(t, err)
		_, err = st.PublishDirect(
			ctx,
			store.Account{Name: "test"},
			"menus",
			[]edit.Op{edit.OpMakeMenu{Menu: id, Name: "New"}, edit.OpTakeMenu{Was: edit.OpMakeMenu{Menu: 2}}},
		)
		require.NoError(t, err)
		kept := st.Published().Site
		require.NoError(t, st.Reload(ctx))
		read := st.Published().Site
		require.Equal(t, order(kept), order(read))
		for _, m := range kept.Menus() {
			require.Equal(t, m.Name, read.Menu(m.ID).Name)
			for _, e := range m.Entries {
				require.Equal(t, e, *read.Menu(m.ID).Entry(e.ID))
			}
		}
		assert.Nil(t, read.Menu(2))
	})
}

// foundMenus publishes a menu with its entries, and another one without any.
func foundMenus(t *testing.T, st *store.Store, m *site.Menu) {
	made := edit.OpMakeMenu{Menu: m.ID, Key: m.Key, Name: m.Name}
	for i := range m.Entries {
		e := &m.Entries[i]
		form := edit.EntryForm{ID: e.ID, Parent: e.Parent, Under: e.Under, Fields: map[edit.Field]string{}}
		for _, field := range edit.EntryFields() {
			form.Fields[field] = edit.EntryValue(&m.Entries[i], field)
		}
		made.Entries = append(made.Entries, form)
	}
	_, err := st.PublishDirect(
		ctx,
		store.Account{Name: "test"},
		"menus",
		[]edit.Op{made, edit.OpMakeMenu{Menu: 2, Key: "other", Name: "Other"}},
	)
	require.NoError(t, err)
}

// Blocks, their places and the settings go into the tables and come back as they were, whatever was done to them.
func TestBlocksComeBackAsTheyWerePublished(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		st := storetest.New(t)
		defer st.Close()
		require.NoError(t, st.Found(ctx, store.Foundation{Settings: testkit.Settings(), Roles: testkit.Roles()}))
		publishOutline(t, st, testkit.Random(rt, 6))
		foundMenus(t, st, &site.Menu{ID: 1, Key: "main", Name: "Main"})
		_, err := st.SaveTexts(ctx, "<p>words</p>")
		require.NoError(t, err)
		next, published := int64(100), 0
		for range rapid.IntRange(1, 12).Draw(rt, "ops") {
			op := testkit.RandomBlockOp(rt, st.Published().Site, &next)
			if made, isBlock := op.(edit.OpMakeBlock); isBlock && made.Fields[edit.FieldPiece] == "text:abc" {
				continue // a text that nobody saved
			}
			if _, isEdit := op.(edit.OpEditBlock); isEdit {
				continue
			}
			if _, err := st.PublishDirect(ctx, store.Account{Name: "test"}, "random", []edit.Op{op}); err == nil {
				published++
			}
		}
		kept := st.Published().Site
		require.NoError(t, st.Reload(ctx))
		read := st.Published().Site
		assert.Equal(t, len(kept.Blocks()), len(read.Blocks()))
		for i := range kept.Blocks() {
			assert.Equal(t, kept.Blocks()[i], read.Blocks()[i])
		}
		require.Equal(t, len(kept.Placements()), len(read.Placements()))
		for i := range kept.Placements() {
			a, b := kept.Placements()[i], read.Placements()[i]
			assert.Equal(t, edit.SpotsText(a.Where), edit.SpotsText(b.Where))
			assert.Equal(
				t,
				[]any{a.ID, a.Block, a.Region, a.Layout, a.Off, a.Audience},
				[]any{b.ID, b.Block, b.Region, b.Layout, b.Off, b.Audience},
			)
		}
		assert.Equal(t, kept.Settings().Layout, read.Settings().Layout)
	})
}
