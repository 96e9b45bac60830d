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

// What is brought back is as it was: each page where it stood and with what was set on it, or it is said what is not.
func TestWhatIsBroughtBackIsAsItWas(t *testing.T) {
	whole := 0
	rapid.Check(t, func(t *rapid.T) {
		then, next := testkit.Random(t, 20), site.PageID(1000)
		is := then
		for range rapid.IntRange(1, 8).Draw(t, "edits") {
			if made, _, err := edit.Apply(is, testkit.RandomOp(t, is, &next), testkit.Now); err == nil {
				is = made
			}
		}
		b := edit.BringBack(is, then, then.Home(), true, testkit.Now)
		made, _, err := edit.ApplyAll(is, b.Ops, testkit.Now)
		require.NoError(t, err)
		if len(b.Left) > 0 {
			return
		}
		whole++
		then.Walk(then.Home(), func(p *site.Page) bool {
			require.True(t, made.InTree(p.ID), "%d", p.ID)
			require.Equal(t, p.Parent, made.Page(p.ID).Parent)
			require.Equal(t, edit.Values(p), edit.Values(made.Page(p.ID)))
			return true
		})
	})
	assert.Positive(t, whole)
}

// A menu comes back with its items in their order, and their numbers.
func TestAMenuIsBroughtBackAsItWas(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		then := testkit.Random(t, 12)
		b := then.Builder()
		m := testkit.RandomMenu(t, then)
		b.SetMenus([]site.Menu{*m})
		then = b.Site()
		is, next := then, site.EntryID(1000)
		for range rapid.IntRange(1, 6).Draw(t, "edits") {
			if made, _, err := edit.Apply(is, testkit.RandomMenuOp(t, is, &next), testkit.Now); err == nil {
				is = made
			}
		}
		back, err := edit.BringMenuBack(is, then, m.ID, testkit.Now)
		if err != nil {
			return // an item can't stand there any more, which is said
		}
		made, _, err := edit.ApplyAll(is, back.Ops, testkit.Now)
		require.NoError(t, err)
		was, got := then.Menu(m.ID), made.Menu(m.ID)
		require.Equal(t, was.Name, got.Name)
		require.Equal(t, len(was.Entries), len(got.Entries))
		for i := range was.Entries {
			e := &was.Entries[i]
			require.Equal(t, e, got.Entry(e.ID))
			require.Equal(t, was.Below(e.ID), got.Below(e.ID))
		}
		require.Equal(t, was.Below(0), got.Below(0))
	})
}
