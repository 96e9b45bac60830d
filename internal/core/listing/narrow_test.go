package listing_test

import (
	"net/url"
	"slices"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"vineladder/internal/core/listing"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// Whatever is offered leads to as many pages as it says, of the list and in its order, and not to none; and an address
// that asks for it is understood.
func TestWhatIsOfferedLeadsToSomething(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		s := testkit.RandomTopics(rt, testkit.Random(rt, 20), 6)
		lens := rapid.SampledFrom(testkit.Lenses()).Draw(rt, "lens")
		panel := reach.NewPanel(lens)
		reached := func(id site.PageID) bool { return panel.At(s, id).Reachable() != 0 }
		q := site.BlockListing{Sort: site.ListLabel, Most: 50}
		for _, list := range s.TopicLists() {
			q.Narrow += "|topic:" + itoa(list)
		}
		hits := listing.Hits(s, 0, q, panel)
		for _, f := range listing.Filters(s, q, hits, nil, reached) {
			for _, v := range f.Values {
				n, asks, ok := listing.Narrowed(s, q, url.Values{f.Key: {v.Value}}, hits, reached)
				assert.True(rt, asks && ok, "%s=%s", f.Key, v.Value)
				narrowed := n.Narrow(s, hits)
				assert.Len(rt, narrowed, v.Count)
				assert.NotEmpty(rt, narrowed)
				left := func(id site.PageID) bool { return !slices.Contains(narrowed, id) }
				inOrder := slices.DeleteFunc(slices.Clone(hits), left)
				assert.Equal(rt, inOrder, narrowed)
				for _, g := range listing.Filters(s, q, narrowed, n, reached) { // one respect more
					for _, w := range g.Values {
						assert.Len(rt, n.With(g.Key, w.Value).Narrow(s, hits), w.Count)
					}
				}
			}
		}
	})
}

func TestNarrowingsHaveOneForm(t *testing.T) {
	n := listing.Narrowing{"t7": "12", "harbour.slipway": "yes"}
	assert.Equal(t, "harbour.slipway=yes&page=3&t7=12", n.Query(3))
	assert.Equal(t, "harbour.slipway=yes&t7=12", n.Query(1))
	assert.Equal(t, "t7=12", n.With("harbour.slipway", "").Query(1))
	assert.Equal(t, "t7=9", listing.Narrowing(nil).With("t7", "9").Query(0))
	assert.Len(t, n, 2, "what was there stays as it was")
}

func itoa(id site.PageID) string { return strconv.FormatInt(int64(id), 10) }
