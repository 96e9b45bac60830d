package store_test

import (
	"context"
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/clock"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/demo"
	"vineladder/internal/laws"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
)

// sameWhole asks two Sites for everything that they hold.
func sameWhole(t require.TestingT, want, got *site.Site, what string) {
	require.Equal(t, want.Settings(), got.Settings(), what)
	require.Equal(t, want.Roles(), got.Roles(), what)
	require.Equal(t, want.Kinds(), got.Kinds(), what)
	require.Equal(t, want.AllDetails(), got.AllDetails(), what)
	require.Equal(t, len(want.ConditionSets()), len(got.ConditionSets()), what)
	for _, set := range want.ConditionSets() {
		require.Equal(t, set, *got.ConditionSet(set.ID), what)
	}
	require.Equal(t, len(want.Menus()), len(got.Menus()), what)
	for i := range want.Menus() {
		require.Equal(t, want.Menus()[i].Name, got.Menus()[i].Name, what)
		a, b := &want.Menus()[i], &got.Menus()[i]
		require.Equal(t, len(a.Entries), len(b.Entries), what)
		for k := range a.Entries {
			require.Equal(t, &a.Entries[k], b.Entry(a.Entries[k].ID), what)
			require.Equal(t, a.Below(a.Entries[k].ID), b.Below(a.Entries[k].ID), what)
		}
		require.Equal(t, a.Below(0), b.Below(0), what)
	}
	require.Equal(t, want.Blocks(), got.Blocks(), what)
	require.ElementsMatch(t, want.Placements(), got.Placements(), what)
	for _, r := range want.Theme().Regions {
		require.Equal(t, region.In(want, r.Key), region.In(got, r.Key), what)
	}
	require.Equal(t, want.Binned(), got.Binned(), what)
	require.Equal(t, want.Count(), got.Count(), what)
	for _, c := range site.Changes(want, got) {
		require.NotNil(t, c.Was, "%s: page %v was not there", what, c.Is)
		require.NotNil(t, c.Is, "%s: page %v is missing", what, c.Was)
		require.Equal(t, edit.Values(c.Was), edit.Values(c.Is), what)
		a, b := *c.Was, *c.Is
		for _, p := range []*site.Page{&a, &b} { // equal moments have equal values in one zone
			for _, at := range []*time.Time{
				&p.LiveFrom, &p.LiveUntil, &p.FirstOnline, &p.Since, &p.Changed, &p.Worded, &p.BinnedAt,
			} {
				*at = at.UTC()
			}
			p.Spells = nil
		}
		require.Equal(t, a, b, what)
		require.Equal(t, len(c.Was.Spells), len(c.Is.Spells), what)
		for i := range c.Was.Spells {
			require.True(t, c.Was.Spells[i].Until.Equal(c.Is.Spells[i].Until), what)
			require.Equal(t, c.Was.Spells[i].Parent, c.Is.Spells[i].Parent, what)
		}
	}
}

// A past Site is the one that was public at that publication, whole.
func TestThePastIsAsItWas(t *testing.T) {
	ctx := context.Background()
	st := storetest.New(t)
	require.NoError(t, demo.Load(ctx, st))
	by := store.Account{Name: "somebody"}
	ids, err := st.NewPageIDs(ctx, 1000)
	require.NoError(t, err)
	draw := testkit.Edits{Page: ids[0], Entry: 1_000_000, Thing: 1_000_000}
	on := st.Published().Site
	kept := map[int64]*site.Site{st.Published().Revision: on}
	published, seed := 0, rand.New(rand.NewPCG(laws.Seed(), 0))
	for len(kept) < 60 {
		var ops []edit.Op
		for range 1 + seed.IntN(4) {
			op := draw.Draw(on, seed.Int())
			if made, settled, err := edit.Apply(on, op, clock.Now()); err == nil {
				on, ops = made, append(ops, settled)
			}
		}
		if made, err := st.PublishDirect(ctx, by, "edited", ops); err == nil {
			kept[made.Revision] = made.Site
			published++
		}
		on = st.Published().Site
	}
	for revision, want := range kept {
		past, err := st.PastAt(ctx, revision)
		require.NoError(t, err)
		sameWhole(t, want, past.Site, fmt.Sprint("revision ", revision))
	}
	assert.Greater(t, published, 50)
}

func TestThePastSaysWhereItBeginsAndWhatIsGone(t *testing.T) {
	ctx := context.Background()
	st := storetest.New(t)
	require.NoError(t, demo.Load(ctx, st))
	_, err := st.Then(ctx, clock.Now().AddDate(-50, 0, 0))
	require.ErrorIs(t, err, store.ErrNoPast)

	on := st.Published()
	var page *site.Page
	on.Site.Walk(on.Site.Home(), func(p *site.Page) bool {
		if p.Label == "Rates until 2024" {
			page = p
		}
		return page == nil
	})
	by, err := st.AccountByLogin(ctx, "keeper")
	require.NoError(t, err)
	renamed, err := st.PublishDirect(ctx, by, "renamed “Rates until 2024” to “Rates \\ \"of old\"”", []edit.Op{
		edit.OpEdit{Page: page.ID, Fields: []edit.FieldChange{
			{Field: edit.FieldLabel, Old: page.Label, New: `Rates \ "of old"`},
			{Field: edit.FieldSummary, Old: page.Summary, New: "All that nobody pays"},
		}},
	})
	require.NoError(t, err)
	on = renamed
	bin := edit.OpBin{Page: page.ID, Seen: on.Revision, From: edit.PlaceOf(on.Site, page.ID)}
	_, err = st.PublishDirect(ctx, by, "put it in the bin", []edit.Op{bin})
	require.NoError(t, err)
	past, err := st.PastAt(ctx, on.Revision)
	require.NoError(t, err)
	assert.True(t, past.Site.InTree(page.ID))
	assert.Zero(t, past.Gone)

	_, err = st.DB().Exec(`UPDATE pages SET binned_at = now() - interval '10 years' WHERE id = $1`, page.ID)
	require.NoError(t, err)
	require.NoError(t, st.Reload(ctx))
	require.NoError(t, st.EmptyBin(ctx, by, []site.PageID{page.ID}))
	past, err = st.PastAt(ctx, on.Revision)
	require.NoError(t, err)
	assert.False(t, past.Site.InTree(page.ID), "what it said is gone for good")
	assert.Equal(t, 1, past.Gone)
	var left int
	require.NoError(
		t,
		st.DB().Get(&left, `SELECT count(*) FROM past_pages p WHERE p::text LIKE '%Rates until 2024%'`),
	)
	assert.Zero(t, left, "nowhere in the past")
	for _, words := range []string{"Rates until 2024", "of old", "nobody pays"} {
		require.NoError(t, st.DB().Get(&left, `SELECT count(*) FROM publication_ops WHERE ops::text LIKE $1`,
			"%"+words+"%"))
		assert.Zero(t, left, "nowhere in the operations: %s", words)
		require.NoError(t, st.DB().Get(&left, `SELECT count(*) FROM publications
			WHERE sentences::text LIKE $1 OR array_to_string(said, ' ') LIKE $1`, "%"+words+"%"))
		assert.Zero(t, left, "nowhere in what publications say: %s", words)
	}
	var said string
	require.NoError(t, st.DB().Get(&said, `SELECT array_to_string(said, ' ') FROM publications WHERE revision = $1`,
		on.Revision))
	assert.Equal(t, "renamed “…” to “…”", said)
	_, err = st.Inverses(ctx, on.Revision)
	require.NoError(t, err, "what is left can still be read")
}

// What pages have, the past has too, in the same order: a column that comes later is given to both.
func TestThePastHasTheColumnsOfToday(t *testing.T) {
	st := storetest.New(t)
	for today, past := range map[string]string{"pages": "past_pages", "page_spells": "past_spells"} {
		columns := func(table string) (names []string) {
			require.NoError(
				t,
				st.DB().Select(&names, `SELECT column_name || ' ' || data_type FROM information_schema.columns
				WHERE table_name = $1 AND column_name NOT LIKE 'past\_%' ORDER BY ordinal_position`, table),
			)
			return names
		}
		assert.Equal(t, columns(today), columns(past))
	}
}
