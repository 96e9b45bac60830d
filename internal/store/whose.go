package store

import (
	"context"
	"fmt"
	"slices"
	"time"

	"vineladder/internal/core/edit"
)

// A Deed is who did something, and when. Its zero value is: nobody was found.
type Deed struct {
	By   int64 // account; 0: none, as for a command
	Name string
	At   time.Time
}

// deedsBack is the number of publications in which the one that got in the way is looked for.
const deedsBack = 100

// DoneIn finds the newest step of the draft that a conflict comes from.
func (d *Draft) DoneIn(c *edit.Conflict) Deed {
	for _, step := range slices.Backward(d.Steps) {
		if slices.ContainsFunc(step.Ops, c.IsDoneBy) {
			return Deed{step.By, step.ByName, step.At}
		}
	}
	return Deed{}
}

// PublishedBy finds for each conflict the newest publication that it comes from.
func (st *Store) PublishedBy(ctx context.Context, conflicts []*edit.Conflict) ([]Deed, error) {
	found := make([]Deed, len(conflicts))
	left := len(conflicts)
	if left == 0 {
		return nil, nil
	}
	rows, err := st.db.QueryxContext(
		ctx,
		`SELECT p.at, coalesce(p.account_id, 0), p.by_name, o.ops FROM publications p JOIN publication_ops o USING (revision)
		WHERE p.revision > $1 ORDER BY p.revision DESC, o.seq DESC`,
		st.published.Load().Revision-deedsBack,
	)
	if err != nil {
		return nil, fmt.Errorf("look who published what: %w", err)
	}
	defer rows.Close()
	for rows.Next() && left > 0 {
		var deed Deed
		var form []byte
		if err := rows.Scan(&deed.At, &deed.By, &deed.Name, &form); err != nil {
			return nil, fmt.Errorf("look who published what: %w", err)
		}
		ops, err := decodeOps(form)
		if err != nil {
			return nil, err
		}
		for i, c := range conflicts {
			if found[i].At.IsZero() && slices.ContainsFunc(ops, c.IsDoneBy) {
				found[i], left = deed, left-1
			}
		}
	}
	return found, rows.Err()
}
