package store

import (
	"context"
	"fmt"
	"strings"

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
	some := "p.id = ANY ($2)"
	if was.Settings().Language != language {
		some = "($2::bigint[] IS NULL OR true)"
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO search_words (page_id, words)
		SELECT p.id, CASE WHEN p.purged THEN ''::tsvector ELSE page_words(p, $1) END FROM pages p WHERE `+some+`
		ON CONFLICT (page_id) DO UPDATE SET words = excluded.words`, language, ids); err != nil {
		return fmt.Errorf("write the words by which pages are found: %w", err)
	}
	return nil
}

// FindPages gives pages that have the words that a visitor types, the best first, from one on. Whether visitors reach
// them is for core to say. Source of the ranking: PostgreSQL's ts_rank_cd over what names a page, sums it up, and the
// rest.
func (st *Store) FindPages(ctx context.Context, language, words string, from, most int) ([]site.PageID, error) {
	var ids []site.PageID
	err := st.db.SelectContext(ctx, &ids, `SELECT page_id FROM search_words, websearch_to_tsquery(words_of($1), $2) AS asked
		WHERE words @@ asked ORDER BY ts_rank_cd(words, asked) DESC, page_id LIMIT $3 OFFSET $4`,
		language, strings.ToValidUTF8(words, ""), most, from)
	if err != nil {
		return nil, fmt.Errorf("find pages: %w", err)
	}
	return ids, nil
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
