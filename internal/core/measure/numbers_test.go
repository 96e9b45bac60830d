package measure_test

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/measure"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// Every number is that of asking page by page.
func TestNumbersAreThoseOfAskingEachPage(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 40)
		lens := rapid.SampledFrom(testkit.Lenses()).Draw(t, "lens")
		n, w := measure.Count(s, lens, nil), measure.Walk(s, lens)
		in := map[string]map[site.PageID]bool{}
		for _, groups := range [][]measure.Group{n.Whole, n.Levels, n.Ages, n.Owners, w.Far, {w.Beyond}} {
			for _, g := range groups {
				in[g.Key] = map[site.PageID]bool{}
				for _, id := range g.Pages {
					in[g.Key][id] = true
				}
			}
		}
		pages, clicks := 0, measure.Clicks(s, lens)
		s.Walk(s.Home(), func(p *site.Page) bool {
			pages++
			sees := reach.Ask(s, p.ID, lens) == reach.Sees
			require.True(t, in["pages"][p.ID])
			require.Equal(t, sees, in["reached"][p.ID])
			require.Equal(t, sees && p.Listed, in["listed"][p.ID])
			require.Equal(t, reach.WhyOffline(s, p.ID, lens.At).Cause == nil, in["online"][p.ID])
			for level := range n.Levels {
				require.Equal(t, sees && s.Level(p.ID) == level, in[n.Levels[level].Key][p.ID])
			}
			far, come := clicks[p.ID]
			for k := range w.Far {
				require.Equal(t, sees && come && far == k, in[w.Far[k].Key][p.ID])
			}
			require.Equal(t, sees && !come, in["beyond"][p.ID])
			return true
		})
		require.Len(t, n.Whole[0].Pages, pages)
		require.GreaterOrEqual(t, w.Worst, w.Most)
		require.GreaterOrEqual(t, w.Most, w.Median)
	})
}
