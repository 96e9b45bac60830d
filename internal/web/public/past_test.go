package public_test

import (
	"context"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"vineladder/internal/clock"
	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/demo"
	"vineladder/internal/laws"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
	"vineladder/internal/web/public"
)

// The past answers as it did: what each address answered, to who is signed out, to staff and to operators, when a
// publication was new, the site as it was at that publication answers today.
func TestThePastAnswersAsItDid(t *testing.T) {
	ctx := context.Background()
	st := storetest.New(t)
	require.NoError(t, demo.Load(ctx, st))
	renderer, err := public.NewRenderer(st, func(name string) string { return "/" + name }, "https://harbour.example")
	require.NoError(t, err)
	now, seed := clock.Now(), rand.New(rand.NewPCG(laws.Seed(), 1))
	lenses := []reach.Lens{
		{At: now},
		{At: now, Visitor: reach.As(st.Published().Site, []string{"staff"})},
		{At: now, Visitor: reach.As(st.Published().Site, []string{"operators"})},
	}
	answers := func(s *site.Site, paths []string) (all []string) {
		for _, lens := range lenses {
			kept := public.NewKept()
			for _, path := range paths {
				q := public.Request{Site: s, Lens: lens, Path: path, Kept: kept}
				if lens.SignedIn {
					q.Name, q.Login = "somebody", "somebody"
				}
				answer, err := renderer.Answer(ctx, q)
				require.NoError(t, err, path)
				all = append(all, path+" "+answer.Location+"\n"+string(answer.Body))
			}
		}
		return all
	}
	type then struct{ paths, answers []string }
	recorded := map[int64]then{}
	ids, err := st.NewPageIDs(ctx, 1000)
	require.NoError(t, err)
	draw := testkit.Edits{Page: ids[0], Entry: 1_000_000, Thing: 1_000_000}
	for len(recorded) < 8 {
		on, ops := st.Published().Site, []edit.Op(nil)
		for range 6 {
			op := draw.Draw(on, seed.Int())
			if made, settled, err := edit.Apply(on, op, now); err == nil {
				on, ops = made, append(ops, settled)
			}
		}
		made, err := st.PublishDirect(ctx, store.Account{Name: "somebody"}, "edited", ops)
		if err != nil {
			continue
		}
		var paths []string
		made.Site.Walk(made.Site.Home(), func(p *site.Page) bool {
			if seed.IntN(3) == 0 {
				paths = append(paths, address.Of(made.Site, p.ID))
			}
			return true
		})
		paths = append(paths, "/never-there", "/robots.txt", "/sitemap.xml")
		recorded[made.Revision] = then{paths, answers(made.Site, paths)}
	}
	for revision, was := range recorded {
		past, err := st.PastAt(ctx, revision)
		require.NoError(t, err)
		is := answers(past.Site, was.paths)
		for i := range was.answers {
			require.Equal(t, was.answers[i], is[i], "revision %d", revision)
		}
	}
}
