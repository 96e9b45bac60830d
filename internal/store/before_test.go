package store_test

import (
	"bytes"
	"encoding/json"
	"os"
	"testing"

	"github.com/jmoiron/sqlx"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/piece"
	"vineladder/internal/files"
	"vineladder/internal/formats/outline"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
)

// A backup of the line of versions before, as its last program made it of the demo, is restored: menus come out as that
// program wrote them, blocks show what they showed.
func TestABackupOfTheLineBeforeIsRestored(t *testing.T) {
	file, err := os.ReadFile("testdata/version-9.backup")
	require.NoError(t, err)
	want, err := os.ReadFile("testdata/version-9.menus.json")
	require.NoError(t, err)
	url, dir := storetest.Bare(t), files.Dir(t.TempDir())
	require.NoError(t, store.Restore(ctx, url, bytes.NewReader(file), dir))
	st := storetest.Open(t, url)
	s := st.Published().Site
	assert.Equal(t, 2420, s.Count())
	var menus []outline.Menu
	for i := range s.Menus() {
		menus = append(menus, outline.Of(s, &s.Menus()[i], ""))
	}
	var all []json.RawMessage
	require.NoError(t, json.Unmarshal(want, &all))
	require.Len(t, menus, len(all))
	for i, menu := range menus {
		got, err := json.Marshal(menu)
		require.NoError(t, err)
		assert.JSONEq(t, string(all[i]), string(got))
	}
	var shows []string
	for i := range s.Blocks() {
		shows = append(shows, piece.Text(s.Blocks()[i].Shows))
	}
	assert.Contains(t, shows, "image:pier.jpg:The pier: old")
	assert.Contains(t, shows, "menu:1002:1:2:entry:1003:all")
	assert.Subset(t, shows, []string{"breadcrumb", "account", "name", "children"})
}

// A database of the line before is refused by name, and told what to do; nothing is changed in it.
func TestTablesOfTheLineBeforeAreRefused(t *testing.T) {
	url := storetest.Bare(t)
	db, err := sqlx.Open("pgx", url)
	require.NoError(t, err)
	defer db.Close()
	db.MustExec(`CREATE TABLE goose_db_version (id int, version_id bigint, is_applied bool)`)
	db.MustExec(`INSERT INTO goose_db_version VALUES (1, 0, true), (2, 9, true)`)
	found, err := store.SchemaOf(ctx, url)
	require.NoError(t, err)
	assert.Equal(t, store.SchemaBefore, found)
	assert.ErrorIs(t, store.Migrate(ctx, url), store.ErrSchemaBefore)
	assert.ErrorContains(t, store.ErrSchemaBefore, "make a backup with the program that made them")
	var tables int
	require.NoError(t, db.Get(&tables, `SELECT count(*) FROM pg_tables WHERE schemaname = 'public'`))
	assert.Equal(t, 1, tables)
}
