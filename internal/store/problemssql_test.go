package store_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/clock"
	"vineladder/internal/core/check"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/measure"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/demo"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
)

// stands gives the pages of the tree with what holds for them and all above: whether they are online.
const stands = `WITH RECURSIVE stands AS (
	SELECT id, parent_id, kind, label, title, status = 'live' AS online FROM pages WHERE parent_id IS NULL AND NOT binned
	UNION ALL
	SELECT p.id, p.parent_id, p.kind, p.label, p.title, s.online AND p.status = 'live'
		AND (p.live_from IS NULL OR p.live_from <= $1) AND (p.live_until IS NULL OR p.live_until > $1)
	FROM pages p JOIN stands s ON p.parent_id = s.id WHERE NOT p.binned)`

// Source: PostgreSQL's own answers about the same rows: pages with the same title, and pages that nobody reaches since
// they or what stands above is not online.
func TestProblemsAreThoseOfSQL(t *testing.T) {
	st := storetest.New(t)
	require.NoError(t, demo.Load(ctx, st))
	s := st.Published().Site
	var ops []edit.Op
	for _, id := range s.Children(s.Home())[:6] { // some more of one title, and some branches offline
		p := s.Page(id)
		ops = append(ops, edit.OpEdit{Page: id, Fields: []edit.FieldChange{
			{Field: edit.FieldTitle, Old: p.Title, New: []string{"Fares", "fares", "Harbours"}[len(ops)%3]},
		}})
		for _, kid := range s.Children(id) {
			if kid%3 == 0 && s.Page(kid).Status == site.StatusLive {
				ops = append(ops, edit.OpEdit{Page: kid, Fields: []edit.FieldChange{
					{Field: edit.FieldStatus, Old: "live", New: "offline"},
				}})
			}
		}
	}
	_, err := st.PublishDirect(ctx, store.Account{Name: "Test"}, "edited", ops)
	require.NoError(t, err)
	s = st.Published().Site
	now, settings := clock.Now(), s.Settings()
	special := []int64{
		int64(settings.NotFound), int64(settings.NoAccess), int64(settings.SignIn), int64(settings.Shut),
		int64(settings.Search),
	}
	var same []int64
	require.NoError(t, st.DB().SelectContext(ctx, &same, stands+`, titled AS (
		SELECT id, lower(coalesce(nullif(title, ''), label)) AS title FROM stands
		WHERE online AND kind NOT IN ('file', 'folder', 'topic', 'topic-list') AND id <> ALL ($2))
		SELECT id FROM titled t WHERE (SELECT count(*) FROM titled o WHERE o.title = t.title) > 1`, now, special))
	said := map[string]int{}
	byTitle := map[string]int{}
	for _, id := range same {
		byTitle[s.Page(site.PageID(id)).Heading()]++
	}
	for _, p := range check.Find(check.NewLook(s, now, "")).WithFar().All() {
		if p.Check == "same-title" {
			assert.Contains(t, same, int64(p.Page), p.Says)
			said[p.Value]++
		}
	}
	require.NotEmpty(t, same)
	told := 0
	for _, n := range said {
		told += n
	}
	groups := map[string]bool{}
	for title := range byTitle {
		groups[strings.ToLower(title)] = true
	}
	assert.Equal(t, len(same)-len(groups), told, "each but the first of a title")

	var online []int64
	require.NoError(t, st.DB().SelectContext(ctx, &online,
		stands+` SELECT id FROM stands WHERE online AND kind NOT IN ('file', 'folder', 'topic', 'topic-list')`, now))
	counted := measure.Count(s, reach.Lens{At: now}, nil).Whole[1]
	require.Equal(t, "online", counted.Key)
	var is []int64
	for _, id := range counted.Pages {
		is = append(is, int64(id))
	}
	slices.Sort(is)
	slices.Sort(online)
	assert.Equal(t, online, is)
}
