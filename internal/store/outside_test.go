package store_test

import (
	"fmt"
	"math/rand/v2"
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

// letters that the collations of five languages treat each in their own way, beside plain ones.
const letters = "aabcdeefghiijklmnoopqrstuvwxyz äöåæøüßéèñçÄÖÅÆØÜÑ-1 2"

func labelsOf(n int, random *rand.Rand, lower bool) []string {
	made := make([]string, n)
	alphabet := []rune(letters)
	for i := range made {
		var word strings.Builder
		for range 1 + random.IntN(9) {
			word.WriteRune(alphabet[random.IntN(len(alphabet))])
		}
		made[i] = strings.Join(strings.Fields("x"+word.String()), " ")
		if lower {
			made[i] = strings.NewReplacer("aä", "ä", "aå", "å").Replace(strings.ToLower(made[i]))
		}
	}
	return made
}

// Source: ICU's collations in PostgreSQL (CLDR tailorings of the Unicode Collation Algorithm, UTS #10). Labels hold letters that were
// known to Unicode 6.2, whose tables x/text has.
//
// Known differences, left out here: ICU's Danish puts capitals first and x/text's does not, so Danish is compared in small letters;
// so is Norwegian, which has the Danish letters; in both “aa” stands for “å”, and ICU sees it in “aä” and “aå” too, an a before an a with a mark, where x/text sees two letters.
func TestOrderByLabelAgreesWithICUInSixLanguages(t *testing.T) {
	st := storetest.New(t)
	for language, collation := range map[string]string{"en": "en-x-icu", "sv": "sv-x-icu", "da": "da-x-icu", "de": "de-x-icu", "es": "es-x-icu", "nb": "nb-x-icu"} {
		labels := labelsOf(3000, rand.New(rand.NewPCG(1, uint64(len(language)))), language == "da" || language == "nb")
		s := site.NewBuilder(site.Settings{Language: language}).Site()
		var order []string
		require.NoError(t, st.DB().Select(&order, fmt.Sprintf(`SELECT label FROM unnest($1::text[]) AS t (label) ORDER BY label COLLATE "%s", label COLLATE "C"`, collation), labels))
		wrong := 0
		for i := 1; i < len(order); i++ {
			if s.Collate(order[i-1], order[i]) > 0 {
				if wrong++; wrong < 5 {
					t.Logf("%s: ICU puts %q before %q", language, order[i-1], order[i])
				}
			}
		}
		assert.Zero(t, wrong, language)
	}
	// Facts of CLDR, from memory: in Swedish å ä ö follow z, in Danish æ ø å do.
	swedish, danish := site.NewBuilder(site.Settings{Language: "sv"}).Site(), site.NewBuilder(site.Settings{Language: "da"}).Site()
	for _, pair := range [][2]string{{"z", "å"}, {"å", "ä"}, {"ä", "ö"}} {
		assert.Negative(t, swedish.Collate(pair[0], pair[1]), pair)
	}
	for _, pair := range [][2]string{{"z", "æ"}, {"æ", "ø"}, {"ø", "å"}} {
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
			_, err := st.DB().Exec(`INSERT INTO tree SELECT $1::bigint, coalesce((SELECT path FROM tree WHERE id = $2), ''::ltree) || ($1::bigint)::text::ltree`, int64(id), int64(parent))
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
			case edit.Make:
				add(o.Page, o.Place.Parent)
			case edit.Move:
				_, err = st.DB().Exec(`UPDATE tree SET path = (SELECT path FROM tree WHERE id = $2) || subpath(path, nlevel((SELECT path FROM tree WHERE id = $1)) - 1)
					WHERE path <@ (SELECT path FROM tree WHERE id = $1)`, int64(o.Page), int64(o.To.Parent))
			case edit.Bin:
				_, err = st.DB().Exec(`DELETE FROM tree WHERE path <@ (SELECT path FROM tree WHERE id = $1)`, int64(o.Page))
			case edit.Restore:
				s.Walk(o.Page, func(p *site.Page) bool { add(p.ID, p.Parent); return true })
			}
			require.NoError(t, err)
		}
		var rows []struct {
			ID    int64 `db:"id"`
			Level int   `db:"level"`
			Below int   `db:"below"`
		}
		require.NoError(t, st.DB().Select(&rows, `SELECT id, nlevel(path) - 1 AS level, (SELECT count(*) - 1 FROM tree b WHERE b.path <@ a.path) AS below FROM tree a`))
		require.Len(t, rows, s.Count())
		for _, row := range rows {
			id := site.PageID(row.ID)
			require.True(t, s.InTree(id))
			require.Equal(t, s.Level(id), row.Level)
			require.Equal(t, s.Below(id), row.Below)
		}
	})
}
