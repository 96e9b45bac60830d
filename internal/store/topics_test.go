package store_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/listing"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/core/topic"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
)

// tabled writes the pages of a site, with what a lens reaches, into a table of the test's own.
func tabled(t require.TestingT, st *store.Store, s *site.Site, lens reach.Lens) {
	_, err := st.DB().Exec(`TRUNCATE plain`)
	require.NoError(t, err)
	s.Walk(s.Home(), func(p *site.Page) bool {
		topics := strings.Trim(strings.ReplaceAll(fmt.Sprint(p.Topics), " ", ","), "[]")
		_, err := st.DB().Exec(
			`INSERT INTO plain VALUES ($1, nullif($2, 0), $3, $4, $5, string_to_array($6, ',')::bigint[], $7)`,
			int64(p.ID), int64(p.Parent), p.Kind, p.Heading(), p.Date, topics,
			reach.Ask(s, p.ID, lens) == reach.Sees,
		)
		require.NoError(t, err)
		return true
	})
}

const plainTable = `CREATE TABLE plain (id bigint PRIMARY KEY, parent bigint, kind text, heading text, date text,
	topics bigint[], reached bool)`

// Source: recursive queries of PostgreSQL over the same random taggings.
func TestCountsOfTopicsAgreeWithSQL(t *testing.T) {
	st := storetest.New(t)
	st.DB().MustExec(plainTable)
	rapid.Check(t, func(rt *rapid.T) {
		s := testkit.RandomTopics(rt, testkit.Random(rt, 20), 8)
		lens := rapid.SampledFrom(testkit.Lenses()).Draw(rt, "lens")
		tabled(rt, st, s, lens)
		var rows []struct {
			Topic int64 `db:"topic"`
			Own   int   `db:"own"`
			All   int   `db:"everything"`
		}
		require.NoError(rt, st.DB().Select(&rows, `
			WITH RECURSIVE narrower (topic, part) AS (
				SELECT id, id FROM plain WHERE kind = 'topic'
				UNION ALL SELECT n.topic, p.id FROM narrower n JOIN plain p ON p.parent = n.part
			)
			SELECT topic, count(DISTINCT p.id) FILTER (WHERE part = topic) AS own, count(DISTINCT p.id) AS everything
			FROM narrower LEFT JOIN plain p ON p.reached AND part = ANY (p.topics) GROUP BY topic`))
		counts := topic.CountsOf(s, lens)
		for _, row := range rows {
			is := counts.Of(site.PageID(row.Topic))
			assert.Equal(rt, topic.Count{Own: row.Own, All: row.All}, is, "topic %d", row.Topic)
		}
	})
}

// Source: the same question in SQL over the same pages.
func TestListingsAgreeWithSQL(t *testing.T) {
	st := storetest.New(t)
	st.DB().MustExec(plainTable)
	rapid.Check(t, func(rt *rapid.T) {
		s := testkit.RandomLayouts(rt, testkit.RandomTopics(rt, testkit.Random(rt, 20), 5))
		lens := rapid.SampledFrom(testkit.Lenses()).Draw(rt, "lens")
		tabled(rt, st, s, lens)
		var topics []site.PageID
		for _, list := range s.TopicLists() {
			topics = append(topics, s.Children(list)...)
		}
		q := site.BlockListing{
			Kinds:  rapid.SampledFrom([]string{"", "notice", "notice|page"}).Draw(rt, "kinds"),
			Topic:  rapid.SampledFrom(append(topics, 0)).Draw(rt, "topic"),
			Within: site.PageID(rapid.IntRange(0, 5).Draw(rt, "within")),
			Sort:   rapid.SampledFrom([]site.ListSort{site.ListLabel, site.ListDate, site.ListDateDown}).Draw(rt, "sort"),
		}
		order := map[site.ListSort]string{
			site.ListLabel: "", site.ListDate: "nullif(date, '') ASC NULLS LAST,",
			site.ListDateDown: "nullif(date, '') DESC NULLS LAST,",
		}[q.Sort]
		var want []site.PageID
		require.NoError(rt, st.DB().Select(&want, `
			WITH RECURSIVE below (id) AS (
				SELECT id FROM plain WHERE parent = $2 OR $2 = 0 AND parent IS NOT NULL
				UNION SELECT p.id FROM below b JOIN plain p ON p.parent = b.id
			), narrower (id) AS (
				SELECT id FROM plain WHERE id = $1
				UNION SELECT p.id FROM narrower n JOIN plain p ON p.parent = n.id
			)
			SELECT id FROM plain WHERE reached AND id IN (SELECT id FROM below) AND kind NOT IN ('topic', 'topic-list')
				AND ($1 = 0 OR topics && ARRAY(SELECT id FROM narrower)) AND ($3 = '' OR kind = ANY (string_to_array($3, '|')))
			ORDER BY `+order+` heading COLLATE "en-x-icu", heading COLLATE "C", id`,
			int64(q.Topic), int64(q.Within), q.Kinds))
		hits := listing.First(listing.Candidates(s, q), 1000, 0, func(id site.PageID) bool {
			return reach.Ask(s, id, lens) == reach.Sees
		})
		if !slices.Equal(want, hits) {
			rt.Fatalf("%+v: SQL says %v, core says %v", q, want, hits)
		}
	})
}
