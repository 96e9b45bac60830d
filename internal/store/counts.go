package store

import (
	"context"
	"fmt"
)

// Counts are numbers of the database, for those who run the program.
type Counts struct {
	Drafts   int64 `db:"drafts"`
	Planned  int64 `db:"planned"`
	Sessions int64 `db:"sessions"`
	Revision int64 `db:"revision"`
}

// Counts reads them.
func (st *Store) Counts(ctx context.Context) (c Counts, err error) {
	err = st.db.GetContext(ctx, &c, `SELECT
		(SELECT count(DISTINCT draft_id) FROM draft_steps WHERE state = 'done') AS drafts,
		(SELECT count(*) FROM drafts WHERE publish_at IS NOT NULL) AS planned,
		(SELECT count(*) FROM sessions WHERE expiry > now()) AS sessions,
		(SELECT revision FROM site) AS revision`)
	if err != nil {
		return c, fmt.Errorf("count: %w", err)
	}
	return c, nil
}

// Hashing is the number of passwords that are hashed at this moment or wait for it.
func Hashing() int { return hashTurns.Waiting() }
