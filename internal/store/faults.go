package store

import (
	"context"
	"fmt"
	"strings"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/text"
)

// lookBatch is how many texts are looked at at once.
const lookBatch = 500

// lookAtTexts finds what is wrong in texts that nobody has looked at: those from before it was kept, and those of a
// backup from then.
func lookAtTexts(ctx context.Context, db *sqlx.DB) error {
	for {
		var texts []struct{ Hash, HTML string }
		if err := db.SelectContext(ctx, &texts, `SELECT hash, html FROM texts WHERE faults IS NULL OR web IS NULL
			OR words IS NULL LIMIT $1`,
			lookBatch); err != nil {
			return fmt.Errorf("read the texts that nobody has looked at: %w", err)
		}
		if len(texts) == 0 {
			return nil
		}
		hashes, faults, web := make([]string, len(texts)), make([]string, len(texts)), make([]string, len(texts))
		words := make([]int, len(texts))
		for i, t := range texts {
			hashes[i], faults[i] = t.Hash, strings.Join(text.Faults(t.HTML), "\n")
			web[i], words[i] = strings.Join(text.Web(t.HTML), " "), text.Length(t.HTML)
		}
		if _, err := db.ExecContext(ctx, `UPDATE texts t SET faults = string_to_array(found.faults, E'\n'),
				web = string_to_array(found.web, ' '), words = found.words
			FROM unnest($1::text[], $2::text[], $3::text[], $4::int[]) AS found (hash, faults, web, words)
			WHERE t.hash = found.hash`, hashes, faults, web, words); err != nil {
			return fmt.Errorf("keep what is wrong in texts: %w", err)
		}
	}
}
