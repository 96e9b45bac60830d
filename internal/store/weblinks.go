package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"net/url"
	"time"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/clock"
	"vineladder/internal/core/weblink"
)

// A Looker asks for a web address, politely.
type Looker func(ctx context.Context, address string) weblink.Try

// Pauses of who looks at web addresses: where none is due, and before what the site links to is gathered anew.
const (
	lookPause   = time.Minute
	gatherAfter = time.Hour
	lookLease   = 10 * time.Minute // after which another instance looks, if this one stopped
)

// LookAtLinks asks for the web addresses to which the published site links, until ctx ends, as long as the settings
// want that. Several instances share the work.
func (st *Store) LookAtLinks(ctx context.Context, look Looker) {
	var gathered time.Time
	for ctx.Err() == nil {
		wait := lookPause
		if s := st.Published().Site; s.Settings().LookAtLinks {
			if clock.Now().Sub(gathered) > gatherAfter {
				gathered = clock.Now()
				if err := st.GatherLinks(ctx, weblink.Addresses(s)); err != nil {
					st.log.Error("the web addresses of the site can't be kept", "error", err)
				}
			}
			was, err := st.LookAtNext(ctx, look)
			if err != nil && ctx.Err() == nil {
				st.log.Error("a web address can't be looked at", "error", err)
			}
			if was && err == nil {
				wait = 0
			}
		}
		select {
		case <-ctx.Done():
		case <-time.After(wait):
		}
	}
}

// GatherLinks keeps which addresses are looked at: new ones soon, and those to which nothing links no more.
func (st *Store) GatherLinks(ctx context.Context, addresses []string) error {
	hosts := make([]string, len(addresses))
	for i, address := range addresses {
		if at, err := url.Parse(address); err == nil {
			hosts[i] = at.Host
		}
	}
	return st.inTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx,
			`DELETE FROM web_addresses WHERE address <> ALL ($1::text[])`, addresses); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `INSERT INTO web_addresses (address, host, next_at)
			SELECT a, h, $3 FROM unnest($1::text[], $2::text[]) AS t (a, h) WHERE h <> '' ON CONFLICT DO NOTHING`,
			addresses, hosts, clock.Now())
		return err
	})
}

// LookAtNext looks at the address that is due the longest, and says whether there was one. It is put off before it is
// asked for, so that no two instances ask at once, and nothing is locked while a server takes its time.
func (st *Store) LookAtNext(ctx context.Context, look Looker) (was bool, err error) {
	var next struct {
		Address  string `db:"address"`
		Failures int    `db:"failures"`
	}
	now := clock.Now()
	err = st.db.GetContext(ctx, &next, `UPDATE web_addresses SET next_at = $2 WHERE address = (
		SELECT address FROM web_addresses WHERE next_at <= $1 ORDER BY next_at, address LIMIT 1 FOR UPDATE SKIP LOCKED)
		RETURNING address, failures`, now, now.Add(lookLease))
	if errors.Is(err, sql.ErrNoRows) {
		return false, nil
	}
	if err != nil {
		return false, fmt.Errorf("look for web addresses: %w", err)
	}
	try := look(ctx, next.Address)
	if ctx.Err() != nil { // it was cut short, and says nothing
		return true, nil
	}
	failures := 0
	if try.Fault != "" {
		failures = next.Failures + 1
	}
	now = clock.Now()
	if _, err := st.db.ExecContext(ctx, `UPDATE web_addresses SET looked_at = $2, next_at = $3, failures = $4, fault = $5,
		since = CASE WHEN $4 = 0 THEN NULL ELSE coalesce(since, $2) END WHERE address = $1`,
		next.Address, now, now.Add(weblink.Next(failures, try.After)), failures, cut(try.Fault, 300)); err != nil {
		return true, fmt.Errorf("keep what a web address answers: %w", err)
	}
	return true, nil
}

// DeadLinks gives the web addresses that don't answer. It is the same value until that changes.
func (st *Store) DeadLinks(ctx context.Context) (*weblink.Known, error) {
	if !st.Published().Site.Settings().LookAtLinks {
		return nil, nil
	}
	var rows []struct {
		Address string    `db:"address"`
		Fault   string    `db:"fault"`
		Since   time.Time `db:"since"`
	}
	if err := st.db.SelectContext(ctx, &rows, `SELECT address, fault, since FROM web_addresses WHERE failures >= $1`,
		weblink.DeadAfter); err != nil {
		return nil, fmt.Errorf("read which web addresses don't answer: %w", err)
	}
	made := &weblink.Known{Dead: make(map[string]weblink.Dead, len(rows))}
	for _, row := range rows {
		made.Dead[row.Address] = weblink.Dead{Why: row.Fault, Since: row.Since.UTC()}
	}
	st.careful.Lock()
	defer st.careful.Unlock()
	if st.dead == nil || !made.Same(st.dead) {
		st.dead = made
	}
	return st.dead, nil
}
