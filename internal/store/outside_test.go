package store_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/store/storetest"
)

// labelsOf draws labels of plain letters, and of all Latin letters with marks that Unicode has in its first blocks.
func labelsOf(n int, random *rand.Rand) []string {
	plain, marked := []rune("aabcdeefghiijklmnoopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ 12-"), []rune(nil)
	for r := 'À'; r <= 'ž'; r++ {
		if !slices.Contains([]rune("×÷ŉĲĳĿŀ"), r) { // no letters, or written as two
			marked = append(marked, r)
		}
	}
	made := make([]string, n)
	for i := range made {
		var word strings.Builder
		for range 1 + random.IntN(8) {
			from := plain
			if random.IntN(3) == 0 {
				from = marked
			}
			word.WriteRune(from[random.IntN(len(from))])
		}
		made[i] = strings.Join(strings.Fields("x"+word.String()), " ")
	}
	return made
}

// Source: ICU's collations in PostgreSQL (CLDR tailorings of the Unicode Collation Algorithm, UTS #10), for each
// language that a site can be kept in.
func TestOrderByLabelAgreesWithICUInEveryLanguage(t *testing.T) {
	st := storetest.New(t)
	for i, language := range site.Languages {
		labels := labelsOf(4000, rand.New(rand.NewPCG(1, uint64(i))))
		s := site.NewBuilder(site.Settings{Language: language.Tag}).Site()
		var order []string
		require.NoError(
			t,
			st.DB().Select(
				&order,
				fmt.Sprintf(
					`SELECT label FROM unnest($1::text[]) AS t (label) ORDER BY label COLLATE "%s-x-icu", label COLLATE "C"`,
					language.Tag,
				),
				labels,
			),
		)
		wrong := 0
		for i := 1; i < len(order); i++ {
			if s.Collate(order[i-1], order[i]) > 0 {
				if wrong++; wrong < 5 {
					t.Logf("%s: ICU puts %q before %q", language.Name, order[i-1], order[i])
				}
			}
		}
		assert.Zero(t, wrong, language.Name)
	}
	// Facts of CLDR, from memory: in Swedish å ä ö follow z, in Danish æ ø å do, and capitals come first.
	swedish, danish := site.NewBuilder(
		site.Settings{Language: "sv"},
	).Site(), site.NewBuilder(
		site.Settings{Language: "da"},
	).Site()
	for _, pair := range [][2]string{{"z", "å"}, {"å", "ä"}, {"ä", "ö"}, {"a", "A"}} {
		assert.Negative(t, swedish.Collate(pair[0], pair[1]), pair)
	}
	for _, pair := range [][2]string{{"z", "æ"}, {"æ", "ø"}, {"ø", "å"}, {"A", "a"}} {
		assert.Negative(t, danish.Collate(pair[0], pair[1]), pair)
	}
}

// Source: PostgreSQL's ltree, whose paths are kept by its own functions through the same random operations.
func TestBranchesAgreeWithLtree(t *testing.T) {
	st := storetest.New(t)
	_, err := st.DB().Exec(`CREATE EXTENSION ltree; CREATE TABLE tree (id bigint PRIMARY KEY, path ltree)`)
	require.NoError(t, err)
	rapid.Check(t, func(rt *rapid.T) {
		s := testkit.Random(rt, 25)
		_, err := st.DB().Exec(`DELETE FROM tree`)
		require.NoError(t, err)
		add := func(id, parent site.PageID) {
			_, err := st.DB().Exec(
				`INSERT INTO tree SELECT $1::bigint, coalesce((SELECT path FROM tree WHERE id = $2), ''::ltree) ||
					($1::bigint)::text::ltree`,
				int64(id),
				int64(parent),
			)
			require.NoError(t, err)
		}
		s.Walk(s.Home(), func(p *site.Page) bool { add(p.ID, p.Parent); return true })
		next := site.PageID(1000)
		for range rapid.IntRange(1, 10).Draw(rt, "ops") {
			made, settled, err := edit.Apply(s, testkit.RandomOp(rt, s, &next), testkit.Now)
			if err != nil {
				continue
			}
			s = made
			switch o := settled.(type) {
			case edit.OpMake:
				add(o.Page, o.Place.Parent)
			case edit.OpMove:
				_, err = st.DB().Exec(`UPDATE tree SET path = (SELECT path FROM tree WHERE id = $2) || subpath(path, nlevel((SELECT path FROM tree WHERE id = $1)) - 1)
					WHERE path <@ (SELECT path FROM tree WHERE id = $1)`, int64(o.Page), int64(o.To.Parent))
			case edit.OpBin:
				_, err = st.DB().Exec(`DELETE FROM tree WHERE path <@ (SELECT path FROM tree WHERE id = $1)`, int64(o.Page))
			case edit.OpRestore:
				s.Walk(o.Page, func(p *site.Page) bool { add(p.ID, p.Parent); return true })
			}
			require.NoError(t, err)
		}
		var rows []struct {
			ID    int64 `db:"id"`
			Level int   `db:"level"`
			Below int   `db:"below"`
		}
		require.NoError(
			t,
			st.DB().Select(
				&rows,
				`SELECT id, nlevel(path) - 1 AS level, (SELECT count(*) - 1 FROM tree b WHERE b.path <@ a.path) AS below FROM tree
					a`,
			),
		)
		require.Len(t, rows, s.Count())
		for _, row := range rows {
			id := site.PageID(row.ID)
			require.True(t, s.InTree(id))
			require.Equal(t, s.Level(id), row.Level)
			require.Equal(t, s.Below(id), row.Below)
		}
	})
}
