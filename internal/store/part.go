package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/clock"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// Part takes the edits of one page, with the steps that must travel along, out of a draft into one of their own, to be
// published whole while the others go on waiting. It gives the draft itself where no other step would be left.
func (st *Store) Part(ctx context.Context, id int64, by Account, page site.PageID) (parted int64, err error) {
	_, err = st.change(ctx, id, func(tx *sqlx.Tx, d *Draft) error {
		if !d.IsFor(by.ID) {
			return ErrNoDraft
		}
		along := d.Along(page, clock.Now())
		switch {
		case len(along) == 0:
			return &edit.Refusal{Sentence: "Nothing of this page waits to be published."}
		case len(along) == len(d.Steps):
			return errWhole
		}
		name, err := partName(ctx, tx, by, d.Site.Page(page).Label)
		if err != nil {
			return err
		}
		if err := tx.GetContext(ctx, &parted, `INSERT INTO drafts (owner_id, name, parted_from) VALUES ($1, $2, $3) RETURNING
			id`, by.ID, name, id); err != nil {
			return fmt.Errorf("make a draft: %w", err)
		}
		// Nobody loses sight of an edit.
		if _, err := tx.ExecContext(ctx, `INSERT INTO draft_people SELECT $1, account FROM unnest($2::bigint[]) AS account
			WHERE account <> $3`,
			parted, append([]int64{d.Owner}, d.People...), by.ID); err != nil {
			return fmt.Errorf("share the draft: %w", err)
		}
		steps := make([]int64, len(along))
		for i, at := range along {
			steps[i] = d.Steps[at].ID
		}
		if _, err := tx.ExecContext(ctx, `UPDATE draft_steps SET draft_id = $1 WHERE id = ANY($2)`, parted,
			steps); err != nil {
			return fmt.Errorf("move the edits: %w", err)
		}
		again, err := reload(ctx, tx, d)
		if err == nil {
			*d = *again
		}
		return err
	})
	if errors.Is(err, errWhole) {
		return id, nil
	}
	return parted, err
}

// errWhole is a draft of which all edits go along.
var errWhole = errors.New("all edits of the draft go along")

// partName gives a name for the edits of one page that no other draft of the person has.
func partName(ctx context.Context, tx *sqlx.Tx, by Account, label string) (string, error) {
	stem := "Only “" + string([]rune(label)[:min(60, len([]rune(label)))]) + "”"
	for name, n := stem, 2; ; name, n = fmt.Sprintf("%s (%d)", stem, n), n+1 {
		var taken bool
		if err := tx.GetContext(ctx, &taken, `SELECT EXISTS (SELECT FROM drafts WHERE owner_id = $1 AND name = $2 AND
			thrown_at IS NULL)`, by.ID, name); err != nil {
			return "", fmt.Errorf("find a name: %w", err)
		}
		if !taken {
			return name, nil
		}
	}
}

// Along gives the steps that go with a page if its edits are published by themselves.
func (d *Draft) Along(page site.PageID, now time.Time) []int {
	steps := make([][]edit.Op, len(d.Steps))
	for i, step := range d.Steps {
		steps[i] = step.stored
	}
	return edit.Along(d.Base.Site, steps, page, now)
}

// Join puts the edits of a parted draft back where they were taken from, and closes it. It gives the draft that has
// them again.
func (st *Store) Join(ctx context.Context, id int64, by Account) (whole int64, err error) {
	err = st.settle(ctx, id, by, func(tx *sqlx.Tx, d *Draft) error {
		if d.PartedFrom == 0 {
			return &edit.Refusal{Sentence: "The edits of this draft were not taken from another one."}
		}
		var open bool
		if err := tx.GetContext(ctx, &open, `SELECT thrown_at IS NULL FROM drafts WHERE id = $1 FOR UPDATE`,
			d.PartedFrom); err != nil {
			return fmt.Errorf("lock the draft: %w", err)
		}
		if whole = d.PartedFrom; !open {
			return &edit.Refusal{
				Sentence: "The draft that these edits were taken from is thrown away; bring it back first.",
			}
		}
		if _, err := tx.ExecContext(ctx, `UPDATE draft_steps SET draft_id = $2 WHERE draft_id = $1 AND state IN ('done',
			'undone')`, id, whole); err != nil {
			return fmt.Errorf("move the edits: %w", err)
		}
		if err := closeDraft(ctx, tx, id); err != nil {
			return err
		}
		return touch(ctx, tx, whole)
	})
	return whole, err
}

func closeDraft(ctx context.Context, tx *sqlx.Tx, id int64) error {
	if _, err := tx.ExecContext(ctx,
		`UPDATE drafts SET thrown_at = $2, publish_at = NULL, planned_by = NULL WHERE id = $1`, id, clock.Now()); err != nil {
		return fmt.Errorf("close the draft: %w", err)
	}
	return nil
}
