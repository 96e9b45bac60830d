package store_test

import (
	"os"
	"testing"

	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
)

// Migrations go back to the first one and forth again with the history and the pages whole.
func TestMigrationsKeepWhatIsThere(t *testing.T) {
	st, url, by := founded(t, "Home\n  A\n    A1\n  B")
	_, err := st.PublishDirect(
		ctx,
		by,
		"two things",
		[]edit.Op{rename(st.Published().Site, "A", "Sailings"), edit.OpMove{Page: 3, To: edit.Place{Parent: 4}}},
	)
	require.NoError(t, err)
	want, err := st.Inverses(ctx, st.Published().Revision)
	require.NoError(t, err)
	db, err := sqlx.Open("pgx", url)
	require.NoError(t, err)
	defer db.Close()
	provider, err := goose.NewProvider(goose.DialectPostgres, db.DB, os.DirFS("migrations"))
	require.NoError(t, err)
	_, err = provider.DownTo(ctx, 1)
	require.NoError(t, err)
	require.NoError(t, store.Migrate(ctx, url))
	again := storetest.Open(t, url)
	assert.Equal(t, labels(st.Published().Site), labels(again.Published().Site))
	got, err := again.Inverses(ctx, again.Published().Revision)
	require.NoError(t, err)
	assert.Equal(t, want, got, "what was published can still be taken back")
	assert.Equal(
		t,
		site.ItemBranch{Root: 1, Self: site.SelfNot},
		again.Published().Site.MenuByKey("main").Entries[0].Shows,
	)
	_, err = again.PublishDirect(ctx, by, "goes on", []edit.Op{rename(again.Published().Site, "B", "Harbours")})
	require.NoError(t, err)
	assert.NotZero(t, again.Published().Site.Page(2).Since, testkit.Now)
}
