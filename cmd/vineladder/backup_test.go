package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/blob"
	"vineladder/internal/clock"
	"vineladder/internal/core/address"
	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/demo"
	"vineladder/internal/formats/redirects"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
	"vineladder/internal/web/public"
)

// exported is all that the program writes out of a site.
func exported(t *testing.T, url string) string {
	t.Setenv("VINELADDER_DATABASE_URL", url)
	var all strings.Builder
	for _, args := range [][]string{
		{"export", "pages"},
		{"export", "menus", "--format", "json"},
		{"export", "redirects"},
		{"user", "list"},
		{"role", "list"},
	} {
		out, err := command(t, "", args...)
		require.NoError(t, err, args)
		all.WriteString(out)
	}
	return all.String()
}

// answered is what the public site answers at every address of a page and menu, new, old, short and unknown, to every
// kind of visitor.
func answered(t *testing.T, st *store.Store, at time.Time) string {
	renderer, err := public.NewRenderer(
		st,
		func(name string) string { return "/assets/" + name },
		"https://harbour.example",
	)
	require.NoError(t, err)
	on := st.Published().Site
	paths := []string{"/nowhere", "/sign-in", "/register", "/my-details"}
	on.Walk(on.Home(), func(p *site.Page) bool { paths = append(paths, address.Of(on, p.ID)); return true })
	for _, old := range redirects.Of(on, at) {
		paths = append(paths, old.From)
	}
	for _, fixed := range on.Fixed() {
		paths = append(paths, fixed.Address)
	}
	for i := range on.Menus() {
		paths = append(paths, "/api/menus/"+on.Menus()[i].Key+".json")
	}
	var all strings.Builder
	for _, lens := range consequence.ViewersOf(on, nil, at).Panel.Lenses() {
		kept := public.NewKept()
		for _, path := range paths {
			answer, err := renderer.Answer(t.Context(), public.Request{Site: on, Lens: lens, Path: path, Kept: kept})
			require.NoError(t, err)
			fmt.Fprintf(
				&all,
				"%s %v %d %s %s\n%s\n",
				path,
				lens,
				answer.Status,
				answer.Location,
				answer.Type,
				answer.Body,
			)
		}
	}
	require.Greater(t, len(paths), 100)
	return all.String()
}

// A backup of the demo, with a draft that is planned and files, comes back the same; damage, a wrong place and a
// missing file are refused, and leave nothing behind.
func TestABackupComesBackTheSame(t *testing.T) {
	ctx := context.Background()
	url := storetest.URL(t)
	st := storetest.Open(t, url)
	require.NoError(t, demo.Load(ctx, st))
	keeper, err := st.AccountByLogin(ctx, "keeper")
	require.NoError(t, err)
	draft, err := st.DraftNamed(ctx, keeper.ID, "Spring")
	require.NoError(t, err)
	home := st.Published().Site.Home()
	_, err = st.AddStep(ctx, draft, keeper, "wrote a summary", func(d *store.Draft) ([]edit.Op, error) {
		old := edit.Value(d.Site.Page(home), edit.FieldSummary)
		return []edit.Op{
			edit.OpEdit{
				Page:   home,
				Fields: []edit.FieldChange{{Field: edit.FieldSummary, Old: old, New: "Other words"}},
			},
		}, nil
	})
	require.NoError(t, err)
	require.NoError(t, st.Plan(ctx, draft, keeper, clock.Now().Add(time.Hour)))
	dir := t.TempDir()
	const name = "map.txt"
	require.NoError(t, os.WriteFile(filepath.Join(dir, name), []byte("a map"), 0o600))
	bytes, err := blob.Open(ctx, blob.InDir(dir))
	require.NoError(t, err)
	require.NoError(t, demo.Papers(ctx, st, bytes))
	now := clock.Now()
	before, answers := exported(t, url), answered(t, st, now)
	file := filepath.Join(t.TempDir(), "site.backup")
	_, err = command(t, "", "backup", file, "--files-dir", dir)
	require.NoError(t, err)
	info, err := os.Stat(file)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())
	_, err = command(t, "", "restore", file, "--files-dir", dir)
	assert.ErrorContains(t, err, "there is a site in this database")

	whole, err := os.ReadFile(file)
	require.NoError(t, err)
	other, into := storetest.Bare(t), t.TempDir()
	for what, damaged := range map[string][]byte{"cut short": whole[:len(whole)*2/3], "no backup": []byte("words")} {
		broken := filepath.Join(t.TempDir(), "broken")
		require.NoError(t, os.WriteFile(broken, damaged, 0o600))
		t.Setenv("VINELADDER_DATABASE_URL", other)
		_, err = command(t, "", "restore", broken, "--files-dir", into)
		assert.ErrorContains(t, err, "nothing was restored", what)
		left, err := os.ReadDir(into)
		require.NoError(t, err)
		assert.Empty(t, left, what)
	}
	_, err = command(t, "", "restore", file, "--files-dir", into)
	require.NoError(t, err)
	assert.Equal(t, before, exported(t, other))
	kept, err := os.ReadFile(filepath.Join(into, name))
	require.NoError(t, err)
	assert.Equal(t, "a map", string(kept))
	back, err := blob.Open(ctx, blob.InDir(into))
	require.NoError(t, err)
	had, err := bytes.Names(ctx)
	require.NoError(t, err)
	has, err := back.Names(ctx)
	require.NoError(t, err)
	assert.Equal(t, had, has)
	assert.Greater(t, len(has), 20)

	again := storetest.Open(t, other)
	for _, one := range []*store.Store{st, again} {
		found, err := one.FindPages(ctx, "en", "pennant", 0, 5)
		require.NoError(t, err)
		assert.Len(t, found, 1, "pages are found by their words")
	}
	assert.True(t, answers == answered(t, again, now), "every public answer is the same")
	d, err := again.Draft(ctx, draft)
	require.NoError(t, err)
	assert.True(t, d.Planned.IsZero())
	assert.Contains(t, d.Trouble, "the site was restored from a backup since")
	assert.Len(t, d.Steps, 1, "nothing that waited is lost")
	ids, err := again.NewPageIDs(ctx, 1)
	require.NoError(t, err)
	assert.Nil(t, again.Published().Site.Page(ids[0]), "numbers go on where they were")
	_, err = again.Authenticate(ctx, "keeper", demo.Accounts[0].Password)
	assert.NoError(t, err)
}
