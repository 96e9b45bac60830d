package store

import (
	"context"
	"fmt"
	"time"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// A TextVersion is a text that a page had in public from a publication on.
type TextVersion struct {
	Revision int64     // 0 for what stood before the first of them
	At       time.Time // zero then
	By       string
	Draft    string
	Hash     string // "" for no text
}

// TextVersions gives all texts that a field of a page has had, the newest first.
func (st *Store) TextVersions(ctx context.Context, page site.PageID, field edit.Field) ([]TextVersion, error) {
	rows, err := st.db.QueryContext(ctx, `
		SELECT p.revision, p.at, p.by_name, p.draft, op::text
		FROM page_changes c JOIN publications p USING (revision) JOIN publication_ops o USING (revision),
			json_array_elements(o.ops) WITH ORDINALITY AS done (op, n)
		WHERE $1 = ANY (c.pages) AND op ->> 'op' IN ('edit', 'make') AND op -> 'with' ->> 'page' = $1::text
		ORDER BY p.revision DESC, o.seq DESC, n DESC`, int64(page))
	if err != nil {
		return nil, fmt.Errorf("read the versions of a text: %w", err)
	}
	defer rows.Close()
	var versions []TextVersion
	before := ""
	for rows.Next() {
		var v TextVersion
		var form string
		if err := rows.Scan(&v.Revision, &v.At, &v.By, &v.Draft, &form); err != nil {
			return nil, fmt.Errorf("read the versions of a text: %w", err)
		}
		op, err := edit.Decode([]byte(form))
		if err != nil {
			return nil, err
		}
		change, changes := edit.ChangeOf(op, field)
		if !changes {
			continue
		}
		before = change.Old
		if last := len(versions) - 1; last < 0 || versions[last].Revision != v.Revision {
			v.Hash = change.New
			versions = append(versions, v)
		}
	}
	if before != "" {
		versions = append(versions, TextVersion{Hash: before})
	}
	return versions, rows.Err()
}
