package measure_test

import (
	"fmt"
	"slices"
	"strings"
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

// Every page that a visitor reaches is in one group of lengths, by the words of its text.
func TestEveryPageHasALength(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 12)
		b, words := s.Builder(), map[string]int{}
		s.Walk(s.Home(), func(p *site.Page) bool {
			worded := *p
			worded.Text = rapid.SampledFrom([]string{"", "a", "b", "c", "d"}).Draw(t, "text")
			b.Put(&worded)
			return true
		})
		for hash, n := range map[string]int{"a": 1, "b": 50, "c": 51, "d": 5000} {
			words[hash] = n
		}
		s = b.Site()
		lens := rapid.SampledFrom(testkit.Lenses()).Draw(t, "lens")
		in := map[site.PageID]string{}
		for _, g := range measure.Lengths(s, lens, words) {
			for _, id := range g.Pages {
				in[id] += g.Name
			}
		}
		names := map[string]string{
			"": "No text", "a": "Up to 50 words", "b": "Up to 50 words", "c": "Up to 300 words", "d": "Longer",
		}
		s.Walk(s.Home(), func(p *site.Page) bool {
			want := ""
			if reach.Ask(s, p.ID, lens) == reach.Sees {
				want = names[p.Text]
			}
			require.Equal(t, want, in[p.ID])
			return true
		})
	})
}

// The widest are those with the most right inside them; among equals the first in the tree.
func TestTheWidestAreTold(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 40)
		var all []site.PageID
		s.Walk(s.Home(), func(p *site.Page) bool {
			if len(s.Children(p.ID)) > 0 {
				all = append(all, p.ID)
			}
			return true
		})
		slices.SortStableFunc(all, func(a, b site.PageID) int { return len(s.Children(b)) - len(s.Children(a)) })
		var want, got []string
		for _, id := range all[:min(8, len(all))] {
			want = append(want, fmt.Sprint(id, s.Children(id)))
		}
		for _, g := range measure.Count(s, testkit.Lenses()[0], nil).Widths {
			got = append(got, strings.TrimPrefix(g.Key, "inside-")+fmt.Sprint(g.Pages))
		}
		require.Equal(t, strings.Join(want, " "), strings.ReplaceAll(strings.Join(got, " "), "[", " ["))
	})
}
