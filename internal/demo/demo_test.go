package demo_test

import (
	"context"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/clock"
	"vineladder/internal/core/address"
	"vineladder/internal/core/consequence"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/demo"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

func TestTheDemoAtSize(t *testing.T) {
	ctx := context.Background()
	st := storetest.New(t)
	require.NoError(t, demo.Load(ctx, st, "127.0.0.1:8080"))
	written := st.Published().Site.Count()
	assert.Greater(t, written, 100)
	require.NoError(t, demo.Grow(ctx, st))
	s := st.Published().Site
	assert.InDelta(t, 2400, s.Count()-written, 200)
	home := 0
	for _, id := range s.Children(s.Home()) {
		assert.NotContains(t, s.Page(id).Label, "Berth", "a page that found no parent stands at the top")
		home++
	}
	assert.Equal(t, 17, home)
	for old, label := range map[string]string{
		"/harbours/great-hallin/parking-at-the-pier": "Parking at the pier",
		"/documents/policies":                        "Policies",
		"/sailings/when-sailings-are-cancelled":      "When sailings are cancelled",
	} {
		found := address.Resolve(s, old, clock.Now())
		require.NotZero(t, found.Page, old)
		assert.True(t, found.Old)
		assert.Equal(t, label, s.Page(found.Page).Label)
	}
	editor, err := st.AccountByLogin(ctx, "structure")
	require.NoError(t, err)
	drafts, err := st.DraftsOf(ctx, editor.ID)
	require.NoError(t, err)
	require.Equal(t, "Winter changeover", drafts[0].Name)
	draft, err := st.Draft(ctx, drafts[0].ID)
	require.NoError(t, err)
	assert.Len(t, draft.Steps, 23)
	assert.Empty(t, draft.Held)
}

func TestASyntheticSiteHasItsSizeAndIsTheSameForASeed(t *testing.T) {
	ctx := context.Background()
	shape := func() (*site.Site, int) {
		st := storetest.New(t)
		defer st.Close()
		told := 0
		require.NoError(t, demo.Generate(ctx, st, demo.Synthetic{Pages: 3000, Seed: 7}, func(demo.Progress) { told++ }))
		return st.Published().Site, told
	}
	one, told := shape()
	two, _ := shape()
	assert.Equal(t, 3000, one.Count())
	assert.Greater(t, told, 2)
	deepest, widest, moved := 0, 0, 0
	one.Walk(one.Home(), func(p *site.Page) bool {
		other := two.Page(p.ID)
		require.NotNil(t, other)
		assert.Equal(
			t,
			[]any{p.Label, p.Parent, p.Audience, p.Status},
			[]any{other.Label, other.Parent, other.Audience, other.Status},
		)
		deepest, widest = max(deepest, one.Level(p.ID)), max(widest, len(one.Children(p.ID)))
		if len(p.Spells) > 0 {
			moved++
		}
		return true
	})
	assert.GreaterOrEqual(t, deepest, 4)
	assert.LessOrEqual(t, deepest, 9)
	assert.Greater(t, widest, 100)
	assert.Positive(t, moved, "there is a history of moves")
	var st *store.Store = storetest.New(t)
	require.NoError(t, demo.Generate(ctx, st, demo.Synthetic{Pages: 10, Seed: 1}, func(demo.Progress) {}))
	assert.ErrorContains(
		t,
		demo.Generate(ctx, st, demo.Synthetic{Pages: 10, Seed: 1}, func(demo.Progress) {}),
		"not empty",
	)
}

// Source: WAI-ARIA Authoring Practices, navigation landmark, from memory: landmarks of one page have names of their
// own, unless they have the same links. Every page of the demo, for every kind of visitor.
func TestLandmarksHaveNamesOfTheirOwn(t *testing.T) {
	ctx := context.Background()
	st := storetest.New(t)
	require.NoError(t, demo.Load(ctx, st, "127.0.0.1:8080"))
	require.NoError(t, demo.Grow(ctx, st))
	s := st.Published().Site
	sets, err := st.RoleSets(ctx)
	require.NoError(t, err)
	checked := 0
	for _, lens := range consequence.ViewersOf(s, sets, clock.Now()).Panel.Lenses() {
		frame := region.NewFrame(s, lens)
		s.Walk(s.Home(), func(p *site.Page) bool {
			if reach.Ask(s, p.ID, lens) != reach.Sees {
				return true
			}
			named := map[string][]menu.Node{}
			_, areas := frame.On(p.ID)
			for _, area := range areas {
				for _, st := range area.Standings {
					if st.Why != "" || st.Landmark == "" {
						continue
					}
					lines, taken := named[st.Landmark]
					if taken && !assert.Equal(t, lines, st.Lines, "two landmarks “%s” on “%s”", st.Landmark, p.Label) {
						return false
					}
					named[st.Landmark] = st.Lines
					checked++
				}
			}
			return true
		})
	}
	assert.Greater(t, checked, 20_000)
}
