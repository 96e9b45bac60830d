package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/jackc/pgx/v5/pgtype"

	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
)

// A Publication is one entry of the history.
type Publication struct {
	Revision  int64
	At        time.Time
	By        string
	Said      []string // its steps in words
	Sentences []consequence.Sentence
	Draft     string    // the name of the draft, where there was one
	Planned   time.Time // the moment that it was set to, where it was
}

// History gives publications, newest first, those before a revision only; 0 starts at the newest.
func (st *Store) History(ctx context.Context, before int64, limit int) ([]Publication, error) {
	rows, err := st.db.QueryContext(
		ctx,
		`SELECT revision, at, by_name, said, sentences, draft, planned FROM publications
		WHERE $1 = 0 OR revision < $1 ORDER BY revision DESC LIMIT $2`,
		before,
		limit,
	)
	if err != nil {
		return nil, fmt.Errorf("read the history: %w", err)
	}
	defer rows.Close()
	var history []Publication
	types := pgtype.NewMap()
	for rows.Next() {
		var p Publication
		var sentences []byte
		var planned sql.NullTime
		if err := rows.Scan(&p.Revision, &p.At, &p.By, types.SQLScanner(&p.Said), &sentences, &p.Draft,
			&planned); err != nil {
			return nil, fmt.Errorf("read the history: %w", err)
		}
		if err := json.Unmarshal(sentences, &p.Sentences); err != nil {
			return nil, fmt.Errorf("read the history: %w", err)
		}
		p.Planned = planned.Time
		history = append(history, p)
	}
	return history, rows.Err()
}

// ErrNoPublication is a revision that no publication made.
var ErrNoPublication = errors.New("there is no publication")

// Inverses gives the operations that take a publication back, in the order in which they are to be done (rules 9.6).
func (st *Store) Inverses(ctx context.Context, revision int64) ([]edit.Op, error) {
	var forms []string
	if err := st.db.SelectContext(ctx, &forms, `SELECT ops FROM publication_ops WHERE revision = $1 ORDER BY seq`,
		revision); err != nil {
		return nil, fmt.Errorf("read publication %d: %w", revision, err)
	}
	if len(forms) == 0 {
		return nil, fmt.Errorf("%w %d", ErrNoPublication, revision)
	}
	var inverses []edit.Op
	now := st.published.Load().Revision
	for _, form := range slices.Backward(forms) {
		ops, err := decodeOps([]byte(form))
		if err != nil {
			return nil, err
		}
		for _, op := range slices.Backward(ops) {
			inverses = append(inverses, edit.TakeBack(op, now))
		}
	}
	return inverses, nil
}
