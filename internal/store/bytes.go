package store

import (
	"context"
	"fmt"
	"strings"
	"time"

	"vineladder/internal/blob"
)

// UnnamedBytes gives the names of bytes that were kept before a moment and that nothing names: no page, no draft,
// whether open or thrown away, and no publication that could be taken back.
func (st *Store) UnnamedBytes(ctx context.Context, in *blob.Store, before time.Time) ([]string, error) {
	names, err := in.Before(ctx, before)
	if err != nil {
		return nil, err
	}
	var named []string
	if err := st.db.SelectContext(ctx, &named, `
		SELECT DISTINCT hash[1] FROM (
			SELECT ops::text AS said FROM draft_steps UNION ALL
			SELECT ops::text FROM publication_ops UNION ALL
			SELECT bytes FROM pages WHERE bytes <> ''
		) AS everything, regexp_matches(said, '[0-9a-f]{64}', 'g') AS hash`); err != nil {
		return nil, fmt.Errorf("read which bytes are named: %w", err)
	}
	isNamed := make(map[string]bool, len(named))
	for _, hash := range named {
		isNamed[hash] = true
	}
	var unnamed []string
	for _, name := range names {
		if hash, _, _ := strings.Cut(name, "-"); !isNamed[hash] {
			unnamed = append(unnamed, name)
		}
	}
	return unnamed, nil
}
