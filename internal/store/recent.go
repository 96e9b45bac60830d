package store

import (
	"context"
	"fmt"
	"time"

	"vineladder/internal/core/site"
)

// recentKept are the pages that are remembered of what somebody opened.
const recentKept = 40

// Opened remembers that somebody has opened a page.
func (st *Store) Opened(ctx context.Context, account int64, page site.PageID) error {
	_, err := st.db.ExecContext(ctx, `
		WITH put AS (INSERT INTO recent_pages (account_id, page_id) VALUES ($1, $2)
			ON CONFLICT (account_id, page_id) DO UPDATE SET at = now() WHERE recent_pages.at < now() - interval '10 seconds')
		DELETE FROM recent_pages WHERE account_id = $1 AND at < (
			SELECT at FROM recent_pages WHERE account_id = $1 ORDER BY at DESC OFFSET $3 LIMIT 1)`,
		account, int64(page), recentKept)
	if err != nil {
		return fmt.Errorf("remember what was opened: %w", err)
	}
	return nil
}

// Recent gives what somebody opened last, the last first.
func (st *Store) Recent(ctx context.Context, account int64) (pages []site.PageID, err error) {
	if err := st.db.SelectContext(ctx, &pages, `SELECT page_id FROM recent_pages WHERE account_id = $1
		ORDER BY at DESC LIMIT $2`, account, recentKept); err != nil {
		return nil, fmt.Errorf("read what was opened: %w", err)
	}
	return pages, nil
}

// Keep puts a page at somebody's hand, or away.
func (st *Store) Keep(ctx context.Context, account int64, page site.PageID, kept bool) error {
	do := `DELETE FROM kept_pages WHERE account_id = $1 AND page_id = $2`
	if kept {
		do = `INSERT INTO kept_pages (account_id, page_id) VALUES ($1, $2) ON CONFLICT DO NOTHING`
	}
	if _, err := st.db.ExecContext(ctx, do, account, int64(page)); err != nil {
		return fmt.Errorf("keep a page at hand: %w", err)
	}
	return nil
}

// KeptBy gives the pages that somebody keeps at hand, in the order in which they were put there.
func (st *Store) KeptBy(ctx context.Context, account int64) (pages []site.PageID, err error) {
	if err := st.db.SelectContext(ctx, &pages, `SELECT page_id FROM kept_pages WHERE account_id = $1 ORDER BY at, page_id`,
		account); err != nil {
		return nil, fmt.Errorf("read what is kept at hand: %w", err)
	}
	return pages, nil
}

// Look says that somebody looks at what waits for them, and gives when they last did before: a look within the same
// hour is the same look. Zero: they never did.
func (st *Store) Look(ctx context.Context, account int64) (before time.Time, err error) {
	if err := st.db.GetContext(ctx, &before, `INSERT INTO last_looks (account_id, at, before) VALUES ($1, now(), 'epoch')
		ON CONFLICT (account_id) DO UPDATE SET at = now(),
			before = CASE WHEN last_looks.at < now() - interval '1 hour' THEN last_looks.at ELSE last_looks.before END
		RETURNING before`, account); err != nil {
		return before, fmt.Errorf("remember when somebody looked: %w", err)
	}
	if before.Unix() == 0 {
		return time.Time{}, nil
	}
	return before, nil
}
