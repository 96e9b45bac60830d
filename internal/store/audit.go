package store

import (
	"context"
	"fmt"
	"time"
)

// An AuditLine is one entry of the audit trail.
type AuditLine struct {
	At      time.Time `db:"at"`
	What    string    `db:"what"`
	Account string    `db:"account"`
	Client  string    `db:"client"`
	About   string    `db:"about"`
	Times   int       `db:"times"`
}

// Audit adds to the trail. Nothing is ever changed in it, but for the count of failures of one client on one account
// within a minute.
func (st *Store) Audit(ctx context.Context, line AuditLine) error {
	_, err := st.db.ExecContext(ctx, `INSERT INTO audit (what, account, client, about) VALUES ($1, $2, $3, $4)`,
		line.What, cut(line.Account, 100), cut(line.Client, 100), cut(line.About, 500))
	if err != nil {
		return fmt.Errorf("write the audit trail: %w", err)
	}
	return nil
}

// AuditFailure counts a failure: one row a client, account and minute.
func (st *Store) AuditFailure(ctx context.Context, line AuditLine) error {
	_, err := st.db.ExecContext(ctx, `WITH same AS (
			UPDATE audit SET times = times + 1 WHERE id = (SELECT id FROM audit
				WHERE at >= date_trunc('minute', now()) AND what = $1 AND account = $2 AND client = $3 ORDER BY id DESC LIMIT 1)
					RETURNING id)
		INSERT INTO audit (what, account, client, about) SELECT $1, $2, $3, $4 WHERE NOT EXISTS (SELECT FROM same)`,
		line.What, cut(line.Account, 100), cut(line.Client, 100), cut(line.About, 500))
	if err != nil {
		return fmt.Errorf("write the audit trail: %w", err)
	}
	return nil
}

func cut(words string, limit int) string {
	if runes := []rune(words); len(runes) > limit {
		return string(runes[:limit])
	}
	return words
}

// An AuditQuery asks for a part of the trail; what is empty asks for all.
type AuditQuery struct {
	What, Account string
	Since         time.Time
	Limit         int
}

// AuditAsked gives the newest entries that a query asks for, the newest first, and the sorts of entries that there are.
func (st *Store) AuditAsked(ctx context.Context, q AuditQuery) (lines []AuditLine, whats []string, err error) {
	err = st.db.SelectContext(ctx, &lines, `SELECT at, what, account, client, about, times FROM audit
		WHERE ($1 = '' OR what = $1) AND ($2 = '' OR account = $2) AND ($3::timestamptz IS NULL OR at >= $3)
		ORDER BY id DESC LIMIT $4`, q.What, q.Account, timeOrNull(q.Since), q.Limit)
	if err == nil {
		err = st.db.SelectContext(ctx, &whats, `SELECT DISTINCT what FROM audit ORDER BY what`)
	}
	if err != nil {
		return nil, nil, fmt.Errorf("read the audit trail: %w", err)
	}
	return lines, whats, nil
}

// Sign-in limits: failures of one client, or on one account, within the time that is looked back on.
const (
	clientFailures  = 20
	accountFailures = 60
	failuresBack    = 10 * time.Minute
)

// MayTrySignIn says whether a client may try to sign in as an account: not after many failures, its own or on the
// account. Who has signed in to the account from there within the last 90 days is never held up by others.
func (st *Store) MayTrySignIn(ctx context.Context, client, login string) (may bool, err error) {
	err = st.db.GetContext(ctx, &may, `WITH failed AS (
			SELECT coalesce(sum(times) FILTER (WHERE client = $1), 0) AS here, coalesce(sum(times) FILTER (WHERE account = $2),
				0) AS on_it
			FROM audit WHERE what = 'sign-in failed' AND at > now() - $3 * interval '1 second')
		SELECT here < $4 AND (on_it < $5 OR EXISTS (SELECT FROM audit
			WHERE what = 'sign-in' AND client = $1 AND account = $2 AND at > now() - interval '90 days')) FROM failed`,
		client, cut(lowered(login), 100), failuresBack.Seconds(), clientFailures, accountFailures)
	if err != nil {
		return false, fmt.Errorf("look at failed sign-ins: %w", err)
	}
	return may, nil
}
