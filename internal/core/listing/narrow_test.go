package listing_test

import (
	"fmt"
	"net/url"
	"slices"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
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

// A block that shows again what a page lists asks what the page asks, whatever becomes of that, in its own looks and
// number; once the page lists nothing, the block is empty.
func TestABlockAsksWhatAPageAsks(t *testing.T) {
	s := testkit.Outline(t, `
Home
  Notices
    Fog | kind=notice
    Ice | kind=notice
  News | listing=notice;;branch:2;label;5`)
	news := testkit.Find(t, s, "News")
	like, err := listing.Read(s, fmt.Sprintf("page:%d;;;;1;cards;", news))
	require.NoError(t, err)
	assert.Equal(t, fmt.Sprintf("page:%d;;;;1;cards;", news), listing.Text(like))
	hits := func(s *site.Site) (labels []string) {
		q, is := listing.OfBlock(s, &site.Block{Shows: like})
		assert.True(t, is)
		assert.Equal(t, []any{1, site.LooksCards}, []any{q.Most, q.Looks})
		for _, id := range listing.Candidates(s, q) {
			labels = append(labels, s.Page(id).Label)
		}
		return labels
	}
	assert.Equal(t, []string{"Fog", "Ice"}, hits(s))
	asks := func(s *site.Site, old, now string) *site.Site {
		next, _, err := edit.Apply(s, edit.OpEdit{Page: news, Fields: []edit.FieldChange{
			{Field: edit.FieldListing, Old: old, New: now},
		}}, testkit.Now)
		require.NoError(t, err)
		return next
	}
	other := asks(s, s.Page(news).Listing, ";;branch:1;label;5")
	assert.Equal(t, []string{"Fog", "Ice", "News", "Notices"}, hits(other))
	assert.Empty(t, hits(asks(s, s.Page(news).Listing, "")))
	_, _, err = edit.Apply(s, edit.OpEdit{Page: 2, Fields: []edit.FieldChange{
		{Field: edit.FieldListing, New: fmt.Sprintf("page:%d;;;;1", news)},
	}}, testkit.Now)
	assert.ErrorContains(t, err, "only a block shows again what a page lists")
	_, err = listing.Read(s, "page:99;;;;1")
	assert.ErrorContains(t, err, "The page whose list is asked for is not there any more")
}
