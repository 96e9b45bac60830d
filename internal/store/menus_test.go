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

// order gives a menu's entries by parent, which is all that their order in the list means.
func order(s *site.Site) map[site.MenuID]map[site.EntryID][]site.EntryID {
	all := map[site.MenuID]map[site.EntryID][]site.EntryID{}
	for i := range s.Menus() {
		m := &s.Menus()[i]
		all[m.ID] = map[site.EntryID][]site.EntryID{}
		for _, e := range m.Entries {
			all[m.ID][e.Parent] = edit.Siblings(m, e.Parent)
		}
	}
	return all
}

// Menus go into the tables and come back as they were, whatever was done to them, items that change their menu included.
func TestMenusComeBackAsTheyWerePublished(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		st := storetest.New(t)
		defer st.Close()
		require.NoError(t, st.Found(ctx, store.Foundation{Settings: testkit.Settings(), Roles: testkit.Roles()}))
		publishOutline(t, st, testkit.Random(rt, 10))
		s := st.Published().Site
		require.NoError(t, st.FoundMenus(ctx, []site.Menu{*testkit.RandomMenu(rt, s), {ID: 2, Key: "other", Name: "Other"}}, nil, 0, 0))
		next := site.EntryID(5000)
		for range rapid.IntRange(1, 8).Draw(rt, "ops") {
			_, _ = st.PublishDirect(ctx, store.Account{Name: "test"}, "random", []edit.Op{testkit.RandomMenuOp(rt, st.Published().Site, &next)})
		}
		id, err := st.NewMenuID(ctx)
		require.NoError(t, err)
		_, err = st.PublishDirect(ctx, store.Account{Name: "test"}, "menus", []edit.Op{edit.MakeMenu{Menu: id, Name: "New"}, edit.TakeMenu{Was: edit.MakeMenu{Menu: 2}}})
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
