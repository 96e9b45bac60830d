package store

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/site"
)

// writeWords keeps the words by which pages are found, those of all where the language is another.
func writeWords(ctx context.Context, tx *sqlx.Tx, was, is *site.Site, pages []*page) error {
	ids := make([]int64, len(pages))
	for i, p := range pages {
		ids[i] = int64(p.ID)
	}
	language := is.Settings().Language
	some := "p.id = ANY ($2) OR p.kind = ANY ($3)"
	if was.Settings().Language != language {
		some = "($2::bigint[], $3::text[]) IS NOT NULL OR true"
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO search_words (page_id, words)
		SELECT p.id, CASE WHEN p.purged THEN ''::tsvector ELSE page_words(p, $1) END FROM pages p WHERE `+some+`
		ON CONFLICT (page_id) DO UPDATE SET words = excluded.words`, language, ids, otherDetails(was, is)); err != nil {
		return fmt.Errorf("write the words by which pages are found: %w", err)
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO spellings SELECT DISTINCT spellings_of(p) FROM pages p
		WHERE NOT p.purged AND (p.id = ANY ($1) OR p.kind = ANY ($2)) ON CONFLICT DO NOTHING`,
		ids, otherDetails(was, is)); err != nil {
		return fmt.Errorf("write how words are spelt: %w", err)
	}
	return nil
}

// otherDetails gives the page types of which a detail came, went, or shows to others: their pages are found by other
// words.
func otherDetails(was, is *site.Site) []string {
	kinds := []string{}
	note := func(of, in *site.Site) {
		for _, d := range of.AllDetails() {
			if other := in.Detail(d.Key); other == nil || other.Type != d.Type || other.Shows != d.Shows {
				kinds = append(kinds, d.Kind())
			}
		}
	}
	note(was, is)
	note(is, was)
	return kinds
}

// FindPages gives pages that have the words that a visitor types, the best first, from one on. Whether visitors reach
// them is for core to say. Source of the ranking: PostgreSQL's ts_rank_cd over what names a page, sums it up, and the
// rest.
func (st *Store) FindPages(ctx context.Context, language, words string, from, most int) ([]site.PageID, error) {
	var ids []site.PageID
	err := st.db.SelectContext(ctx, &ids, `SELECT page_id
		FROM search_words, websearch_to_tsquery(words_of($1), $2) AS asked WHERE words @@ asked ORDER BY ts_rank_cd(words, asked) DESC, page_id LIMIT $3 OFFSET $4`,
		language, strings.ToValidUTF8(words, ""), most, from)
	if err != nil {
		return nil, fmt.Errorf("find pages: %w", err)
	}
	return ids, nil
}

// FindBegun gives pages that have the words that a visitor is typing, of which the last is not typed to its end.
func (st *Store) FindBegun(ctx context.Context, language, words string, most int) ([]site.PageID, error) {
	typed := strings.FieldsFunc(words, func(r rune) bool { return !unicode.In(r, unicode.L, unicode.N) })
	if len(typed) == 0 {
		return nil, nil
	}
	var ids []site.PageID
	err := st.db.SelectContext(ctx, &ids, `SELECT page_id FROM search_words, to_tsquery(words_of($1), $2) AS asked
		WHERE words @@ asked ORDER BY ts_rank_cd('{0,0,0,1}', words, asked) DESC, page_id LIMIT $3`,
		language, strings.Join(typed, " & ")+":*", most)
	if err != nil {
		return nil, fmt.Errorf("find pages by words that are begun: %w", err)
	}
	return ids, nil
}

// spellingsOfEach is how many words are proposed for one that no page has.
const spellingsOfEach = 3

// Spelt gives words in place of those that no page has, the likest first: what might have been meant. Whether a visitor
// would find anything is to be asked of each. Source of likeness: PostgreSQL's pg_trgm, shared groups of three letters.
func (st *Store) Spelt(ctx context.Context, words string) (meant []string, err error) {
	typed := strings.FieldsFunc(strings.ToLower(words), func(r rune) bool { return !unicode.In(r, unicode.L, unicode.N) })
	if len(typed) == 0 || len(typed) > 10 {
		return nil, nil
	}
	for nth := range spellingsOfEach {
		var like []string
		err := st.db.SelectContext(ctx, &like, `SELECT coalesce(
				(SELECT s.word FROM spellings s WHERE s.word = asked.word),
				(SELECT s.word FROM spellings s WHERE s.word % asked.word
					ORDER BY similarity(s.word, asked.word) DESC, s.word LIMIT 1 OFFSET $2), asked.word)
			FROM unnest($1::text[]) WITH ORDINALITY AS asked (word, n) ORDER BY n`, typed, nth)
		if err != nil {
			return nil, fmt.Errorf("find how words are spelt: %w", err)
		}
		if one := strings.Join(like, " "); one != strings.Join(typed, " ") && !slices.Contains(meant, one) {
			meant = append(meant, one)
		}
	}
	return meant, nil
}

// Bounds of what is kept of searches in vain: words, days, and how many searches.
const (
	soughtWords = 6
	soughtDays  = 90
	soughtMost  = 2000
)

// SeekInVain counts words that a visitor sought and did not find. What might name a person or a thing of theirs is left
// out: addresses of mail, long numbers, long phrases.
func (st *Store) SeekInVain(ctx context.Context, words string) error {
	typed := strings.Fields(strings.ToLower(words))
	digits := strings.IndexFunc(words, unicode.IsDigit) >= 0
	if len(typed) == 0 || len(typed) > soughtWords || digits || strings.ContainsAny(words, "@:/") {
		return nil
	}
	_, err := st.db.ExecContext(ctx, `WITH gone AS (DELETE FROM sought WHERE last < current_date - $2::int)
		INSERT INTO sought (words, last) SELECT $1, current_date WHERE (SELECT count(*) FROM sought) < $3
		ON CONFLICT (words) DO UPDATE SET times = sought.times + 1, last = current_date`,
		strings.Join(typed, " "), soughtDays, soughtMost)
	if err != nil {
		return fmt.Errorf("count what was sought in vain: %w", err)
	}
	return nil
}

// A SoughtInVain is what visitors sought and did not find.
type SoughtInVain struct {
	Words string    `db:"words"`
	Times int       `db:"times"`
	Last  time.Time `db:"last"`
}

// SoughtInVain gives what was sought in vain most often.
func (st *Store) SoughtInVain(ctx context.Context, most int) (all []SoughtInVain, err error) {
	if err := st.db.SelectContext(ctx, &all, `SELECT words, times, last FROM sought
		ORDER BY times DESC, last DESC, words LIMIT $1`, most); err != nil {
		return nil, fmt.Errorf("read what was sought in vain: %w", err)
	}
	return all, nil
}

// Signs that stand around a word that was sought, in an excerpt.
const (
	FoundStart = "\uE000"
	FoundEnd   = "\uE001"
)

// Excerpts gives for each text that is named by its hash the part in which words stand that were sought.
func (st *Store) Excerpts(ctx context.Context, language, words string, hashes []string) (map[string]string, error) {
	var rows []struct {
		Hash string `db:"hash"`
		Part string `db:"part"`
	}
	err := st.db.SelectContext(ctx, &rows, `SELECT hash, ts_headline(words_of($1),
			regexp_replace(regexp_replace(html, '</?(a|strong|em|s|code)( [^>]*)?>', '', 'g'), '<[^>]*>', ' ', 'g'),
			websearch_to_tsquery(words_of($1), $2), 'MaxWords=32, MinWords=12, StartSel="`+FoundStart+`", StopSel="`+FoundEnd+`"'
		) AS part FROM texts WHERE hash = ANY ($3)`, language, strings.ToValidUTF8(words, ""), hashes)
	if err != nil {
		return nil, fmt.Errorf("make excerpts: %w", err)
	}
	found := make(map[string]string, len(rows))
	for _, row := range rows {
		found[row.Hash] = row.Part
	}
	return found, nil
}
