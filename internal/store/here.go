package store

import (
	"context"
	"fmt"

	"vineladder/internal/core/site"
)

// hereChannel is the name under which it is announced that somebody came to a page or left it; the message is the page
// and the account.
const hereChannel = "vineladder_here"

// presence is how long somebody counts as being at a page who was not heard of.
const presence = "70 seconds"

// BeAt says that somebody has a page open: one page each, the last that they opened. Who watches it and the page that
// they left is told.
func (st *Store) BeAt(ctx context.Context, account int64, page site.PageID) error {
	_, err := st.db.ExecContext(ctx, `
		WITH stood AS (SELECT page_id, at < now() - $4::interval AS gone FROM here WHERE account_id = $1),
			put AS (INSERT INTO here (account_id, page_id, at) VALUES ($1, $2, now())
				ON CONFLICT (account_id) DO UPDATE SET page_id = excluded.page_id, at = excluded.at
				WHERE here.page_id <> excluded.page_id OR here.at < now() - interval '10 seconds'),
			changed AS (SELECT page_id FROM stood WHERE page_id <> $2
				UNION SELECT $2 WHERE NOT EXISTS (SELECT FROM stood WHERE page_id = $2 AND NOT gone))
		SELECT pg_notify($3, page_id || ' ' || $1::bigint) FROM changed`, account, int64(page), hereChannel, presence)
	if err != nil {
		return fmt.Errorf("say who is at a page: %w", err)
	}
	return nil
}

// StayHere says that somebody still has the page open that they opened last.
func (st *Store) StayHere(ctx context.Context, account int64) error {
	if _, err := st.db.ExecContext(ctx, `UPDATE here SET at = now() WHERE account_id = $1`, account); err != nil {
		return fmt.Errorf("say who is still at a page: %w", err)
	}
	return nil
}

// Leave says that somebody has no page open any more.
func (st *Store) Leave(ctx context.Context, account int64) error {
	_, err := st.db.ExecContext(ctx, `WITH gone AS (DELETE FROM here WHERE account_id = $1 RETURNING page_id)
		SELECT pg_notify($2, page_id || ' ' || $1::bigint) FROM gone`, account, hereChannel)
	if err != nil {
		return fmt.Errorf("say who left a page: %w", err)
	}
	return nil
}

// Here gives the names of all others who have a page open, in order.
func (st *Store) Here(ctx context.Context, page site.PageID, but int64) (names []string, err error) {
	err = st.db.SelectContext(ctx, &names, `SELECT a.name FROM here h JOIN accounts a ON a.id = h.account_id
		WHERE h.page_id = $1 AND h.account_id <> $2 AND h.at > now() - $3::interval ORDER BY a.name`,
		int64(page), but, presence)
	if err != nil {
		return nil, fmt.Errorf("read who is at a page: %w", err)
	}
	return names, nil
}
