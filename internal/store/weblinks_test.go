package store_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/check"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/weblink"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
)

// What a site links to is gathered from everywhere that can link, looked at when it is due, and told once it failed
// several times; what answers again is no problem any more.
func TestWebAddressesAreLookedAt(t *testing.T) {
	url := storetest.URL(t)
	st := storetest.Open(t, url)
	texts, err := st.SaveTexts(ctx, `<p>See <a href="https://tides.example/a#today">tides</a></p>`,
		`<p><a href="https://ice.example/">ice</a></p>`)
	require.NoError(t, err)
	by := store.Account{Name: "Test"}
	_, err = st.PublishDirect(ctx, by, "made", []edit.Op{
		edit.OpMake{Page: 1, Fields: []edit.FieldChange{{Field: edit.FieldLabel, New: "Home"}}},
		edit.OpEdit{Page: 1, Fields: []edit.FieldChange{{Field: edit.FieldText, New: texts[0]}}},
		edit.OpMakeBlock{Block: 1, Fields: map[edit.Field]string{
			edit.FieldName: "Words", edit.FieldPiece: "text:" + texts[1],
		}},
		edit.OpMakeMenu{Menu: 1, Key: "main", Name: "Main", Entries: []edit.EntryForm{{ID: 1, Fields: map[edit.Field]string{
			edit.FieldShows: "web:http://boats.example/", edit.FieldLabel: "Boats",
		}}}},
		edit.OpEditSettings{Fields: []edit.FieldChange{{Field: edit.FieldLookAtLinks, Old: "no", New: "yes"}}},
	})
	require.NoError(t, err)
	on := st.Published().Site
	all := []string{"http://boats.example/", "https://ice.example/", "https://tides.example/a"}
	assert.Equal(t, all, weblink.Addresses(on))
	again := storetest.Open(t, url)
	assert.Equal(t, all, weblink.Addresses(again.Published().Site), "also where it is loaded")

	require.NoError(t, st.GatherLinks(ctx, all))
	answers := map[string]weblink.Try{"https://tides.example/a": {Fault: "it answers 404 Not Found"}}
	look := func(_ context.Context, address string) weblink.Try { return answers[address] }
	round := func() (asked int) {
		for {
			was, err := st.LookAtNext(ctx, look)
			require.NoError(t, err)
			if !was {
				return asked
			}
			asked++
		}
	}
	assert.Equal(t, 3, round())
	assert.Zero(t, round(), "all were put off")
	dead := func() map[string]weblink.Dead {
		known, err := st.DeadLinks(ctx)
		require.NoError(t, err)
		return known.Dead
	}
	for n := 2; n <= weblink.DeadAfter; n++ {
		assert.Empty(t, dead(), "once is not dead")
		_, err := st.DB().ExecContext(ctx, `UPDATE web_addresses SET next_at = '2000-01-01' WHERE failures > 0`)
		require.NoError(t, err)
		assert.Equal(t, 1, round())
	}
	require.Contains(t, dead(), "https://tides.example/a")
	known, err := st.DeadLinks(ctx)
	require.NoError(t, err)
	same, err := st.DeadLinks(ctx)
	require.NoError(t, err)
	assert.Same(t, known, same, "as long as nothing changes")
	found := check.Find(check.NewLook(on, time.Now(), "").With(check.Besides{Links: known})).WithFar().All()
	var says []string
	for _, p := range found {
		if p.Check == "link-dead" {
			says = append(says, p.Says)
			assert.Equal(t, site.PageThing(1), p.On)
		}
	}
	assert.Equal(t, []string{
		"The page “Home” leads to https://tides.example/a, which does not answer: it answers 404 Not Found.",
	}, says)

	answers = nil
	_, err = st.DB().ExecContext(ctx, `UPDATE web_addresses SET next_at = '2000-01-01' WHERE failures > 0`)
	require.NoError(t, err)
	assert.Equal(t, 1, round())
	assert.Empty(t, dead())
	require.NoError(t, st.GatherLinks(ctx, all[:1]))
	var left []string
	require.NoError(t, st.DB().SelectContext(ctx, &left, `SELECT address FROM web_addresses`))
	assert.Equal(t, all[:1], left)
}
