package store

import (
	"context"
	"fmt"
	"strconv"
	"strings"
	"time"

	"vineladder/internal/clock"
	"vineladder/internal/core/check"
	"vineladder/internal/core/site"
)

// A Meant is somebody's word that a problem is none, until a day (rules 10).
type Meant struct {
	check.Key
	check.Excuse
	By string
	At time.Time
}

// Mean says that a problem is none. It holds at once, and is recorded; it ends when the problem is another, or on its
// day.
func (st *Store) Mean(ctx context.Context, m Meant, who Account) error {
	var err error
	if m.Excuse, err = m.Checked(clock.Now()); err != nil {
		return err
	}
	if _, err := st.db.ExecContext(ctx, `INSERT INTO meant (check_key, about, value, reason, until, account_id)
		VALUES ($1, $2, $3, $4, $5, $6) ON CONFLICT (check_key, about, value) DO UPDATE SET reason = excluded.reason,
			until = excluded.until, account_id = excluded.account_id, at = now()`,
		m.Check, m.On.String(), m.Value, m.Reason, m.Until, who.ID); err != nil {
		return fmt.Errorf("keep what is meant so: %w", err)
	}
	about := m.Check + " of " + m.On.String() + ": " + m.Reason
	return st.Audit(ctx, AuditLine{What: "problem meant so", Account: who.Login, About: about})
}

// MeanNoMore takes that back.
func (st *Store) MeanNoMore(ctx context.Context, k check.Key, who Account) error {
	if _, err := st.db.ExecContext(ctx, `DELETE FROM meant WHERE check_key = $1 AND about = $2 AND value = $3`,
		k.Check, k.On.String(), k.Value); err != nil {
		return fmt.Errorf("take back what was meant so: %w", err)
	}
	return st.Audit(ctx, AuditLine{
		What: "problem not meant so", Account: who.Login, About: k.Check + " of " + k.On.String(),
	})
}

// WhatIsMeant gives what is said to be meant so and holds today.
func (st *Store) WhatIsMeant(ctx context.Context) (map[check.Key]Meant, error) {
	var rows []struct {
		Check  string    `db:"check_key"`
		About  string    `db:"about"`
		Value  string    `db:"value"`
		Reason string    `db:"reason"`
		Until  time.Time `db:"until"`
		By     string    `db:"name"`
		At     time.Time `db:"at"`
	}
	if err := st.db.SelectContext(ctx, &rows, `SELECT m.check_key, m.about, m.value, m.reason, m.until, a.name, m.at
		FROM meant m JOIN accounts a ON a.id = m.account_id WHERE m.until > $1`, clock.Now()); err != nil {
		return nil, fmt.Errorf("read what is meant so: %w", err)
	}
	all := make(map[check.Key]Meant, len(rows))
	for _, row := range rows {
		key := check.Key{Check: row.Check, On: thingOf(row.About), Value: row.Value}
		all[key] = Meant{key, check.Excuse{Reason: row.Reason, Until: row.Until}, row.By, row.At}
	}
	return all, nil
}

// thingOf reads a thing of any family that has numbers.
func thingOf(written string) site.Thing {
	family, number, _ := strings.Cut(written, ":")
	id, _ := strconv.ParseInt(number, 10, 64)
	return site.Thing{Family: site.Family(family), ID: id}
}
