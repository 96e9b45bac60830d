package store

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/clock"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// LastOf gives the last step that an account did, and its index; -1 if there is none.
func LastOf(steps []Step, account int64) int {
	for i, step := range slices.Backward(steps) {
		if step.By == account {
			return i
		}
	}
	return -1
}

// A Step is what a person did in one go and takes back in one go.
type Step struct {
	ID     int64
	By     int64 // account
	ByName string
	Said   string // in words
	Ops    []edit.Op
	At     time.Time

	stored []edit.Op  // as the log has them: those applied and those held
	before *site.Site // the draft's Site before the step
}

// KeptAnew gives the pages that keep, by the step, another audience than when it was made.
func (s Step) KeptAnew() []site.PageID { return edit.KeptAnew(s.stored, s.Ops) }

// A HeldOp is an operation that waits for a decision, with the step it belongs to.
type HeldOp struct {
	Step int64
	edit.Held
}

// AddStep adds a step to a draft. build sees the draft as it is under the lock and gives the operations, so that
// nothing can come between; its error, or a *edit.Refusal or *edit.Conflict of the operations, leaves the draft as it
// was.
func (st *Store) AddStep(
	ctx context.Context,
	id int64,
	by Account,
	said string,
	build func(*Draft) ([]edit.Op, error),
) (*Draft, error) {
	return st.change(ctx, id, func(tx *sqlx.Tx, d *Draft) error {
		ops, err := build(d)
		if err != nil {
			return err
		}
		made, settled, err := d.Next(ops, clock.Now())
		if err != nil {
			return err
		}
		settled = slices.DeleteFunc(settled, edit.IsIdle)
		if len(settled) == 0 {
			return nil
		}
		forms, err := encodeOps(settled)
		if err != nil {
			return err
		}
		step := Step{
			By:     by.ID,
			ByName: by.Name,
			Said:   said,
			Ops:    settled,
			At:     clock.Now(),
			stored: settled,
			before: d.Site,
		}
		if _, err := tx.ExecContext(ctx, `UPDATE draft_steps SET state = 'dropped' WHERE draft_id = $1 AND state = 'undone'
			AND account_id = $2`, id, by.ID); err != nil {
			return err
		}
		if err := tx.GetContext(ctx, &step.ID, `INSERT INTO draft_steps (draft_id, account_id, said, ops)
			VALUES ($1, $2, $3, $4) RETURNING id`,
			id, by.ID, said, forms); err != nil {
			return fmt.Errorf("save the step: %w", err)
		}
		d.Site, d.Steps = made, append(slices.Clip(d.Steps), step)
		d.Undone = slices.DeleteFunc(slices.Clone(d.Undone), func(s Step) bool { return s.By == by.ID })
		return nil
	})
}

// Next gives the draft's Site with one more step, and the step settled, as Edit would make it.
func (d *Draft) Next(ops []edit.Op, now time.Time) (*site.Site, []edit.Op, error) {
	earlier := make([][]edit.Op, len(d.Steps))
	for i, step := range d.Steps {
		earlier[i] = step.Ops
	}
	return edit.ApplyNext(d.Base.Site, d.Site, earlier, edit.Fresh(ops), now)
}

// ErrNoUndo and ErrNoRedo are the ends of a draft's log.
var (
	ErrNoUndo = errors.New("there is nothing to undo in this draft; to take back what is public, open the history")
	ErrNoRedo = errors.New("there is nothing to redo")
)

// Undo takes back the last step that the person did (rules 9.2), and gives it. In a shared draft others may have done
// more since; where that builds on the step, undoing is refused and the reason names what does.
func (st *Store) Undo(ctx context.Context, id int64, by Account) (d *Draft, step Step, err error) {
	d, err = st.change(ctx, id, func(tx *sqlx.Tx, d *Draft) error {
		n := len(d.Steps)
		at := LastOf(d.Steps, by.ID)
		if at < 0 {
			return ErrNoUndo
		}
		step = d.Steps[at]
		if err := setStep(ctx, tx, step.ID, "undone"); err != nil {
			return err
		}
		if at < n-1 {
			return replay(ctx, tx, d, fmt.Sprintf("“%s” can't be undone while others build on it", step.Said))
		}
		d.Undone = append([]Step{step}, d.Undone...)
		d.Site, d.Steps = step.before, slices.Clip(d.Steps[:n-1])
		d.Held = slices.DeleteFunc(slices.Clone(d.Held), func(h HeldOp) bool { return h.Step == step.ID })
		return nil
	})
	return d, step, err
}

// Redo does the step that the person undid last again.
func (st *Store) Redo(ctx context.Context, id int64, by Account) (d *Draft, step Step, err error) {
	d, err = st.change(ctx, id, func(tx *sqlx.Tx, d *Draft) error {
		at := slices.IndexFunc(d.Undone, func(s Step) bool { return s.By == by.ID })
		if at < 0 {
			return ErrNoRedo
		}
		step = d.Undone[at]
		if err := setStep(ctx, tx, step.ID, "done"); err != nil {
			return err
		}
		return replay(ctx, tx, d, fmt.Sprintf("“%s” can't be done again on what others did since", step.Said))
	})
	return d, step, err
}

// replay makes a draft anew from its log. It refuses if that holds more operations than before.
func replay(ctx context.Context, tx *sqlx.Tx, d *Draft, refusal string) error {
	again, err := reload(ctx, tx, d)
	if err != nil {
		return err
	}
	if len(again.Held) > len(d.Held) {
		held := again.Held[len(again.Held)-1]
		return &edit.Refusal{Sentence: refusal + ": " + held.Why.Error()}
	}
	*d = *again
	return nil
}

func reload(ctx context.Context, tx *sqlx.Tx, d *Draft) (*Draft, error) {
	var row draftRow
	if err := tx.GetContext(ctx, &row, draftQuery, d.ID); err != nil {
		return nil, fmt.Errorf("read the draft: %w", err)
	}
	return loadDraft(ctx, tx, row, d.Base)
}

// Drop leaves a held operation out of its step, which decides the conflict for what others published.
func (st *Store) Drop(ctx context.Context, id int64, held HeldOp) (*Draft, error) {
	return st.change(ctx, id, func(tx *sqlx.Tx, d *Draft) error {
		return rewrite(ctx, tx, d, held, nil)
	})
}

// Insist brings a held operation forward on what others published, which decides the conflict for the draft.
// Who insists is the maker of the step from then on.
func (st *Store) Insist(ctx context.Context, id int64, by Account, held HeldOp) (*Draft, error) {
	return st.InsistOn(ctx, id, by, held, held.Op)
}

// InsistOn does so with another operation in place of the one that is held.
func (st *Store) InsistOn(ctx context.Context, id int64, by Account, held HeldOp, with edit.Op) (*Draft, error) {
	return st.change(ctx, id, func(tx *sqlx.Tx, d *Draft) error {
		if _, err := tx.ExecContext(ctx, `UPDATE draft_steps SET account_id = $2 WHERE id = $1`, held.Step,
			by.ID); err != nil {
			return fmt.Errorf("note who insists: %w", err)
		}
		op, err := edit.Insist(d.Site, with, d.Base.Revision)
		if err != nil {
			return err
		}
		return rewrite(ctx, tx, d, held, op)
	})
}

// rewrite replaces one operation of a stored step, or leaves it out, and makes the draft anew.
func rewrite(ctx context.Context, tx *sqlx.Tx, d *Draft, held HeldOp, by edit.Op) error {
	var stored json.RawMessage
	if err := tx.GetContext(ctx, &stored, `SELECT ops FROM draft_steps WHERE id = $1 AND draft_id = $2 AND state = 'done'`,
		held.Step, d.ID); err != nil {
		return fmt.Errorf("read the step: %w", err)
	}
	ops, err := decodeOps(stored)
	if err != nil {
		return err
	}
	if by == nil {
		ops = slices.Delete(ops, held.Index, held.Index+1)
	} else {
		ops[held.Index] = by
	}
	forms, err := encodeOps(ops)
	if err != nil {
		return err
	}
	state := "done"
	if len(ops) == 0 {
		state = "dropped"
	}
	if _, err := tx.ExecContext(ctx, `UPDATE draft_steps SET ops = $2, state = $3 WHERE id = $1`, held.Step, forms,
		state); err != nil {
		return fmt.Errorf("save the step: %w", err)
	}
	again, err := reload(ctx, tx, d)
	if err != nil {
		return err
	}
	*d = *again
	return nil
}

// change runs do on a copy of the draft under its lock, and keeps the copy if the transaction holds.
func (st *Store) change(ctx context.Context, id int64, do func(*sqlx.Tx, *Draft) error) (*Draft, error) {
	var made *Draft
	err := st.inTx(ctx, func(tx *sqlx.Tx) error {
		d, err := st.lockDraft(ctx, tx, id, st.published.Load())
		if err != nil {
			return err
		}
		changed := *d
		if err := do(tx, &changed); err != nil {
			return err
		}
		changed.Version++
		changed.Planned, changed.PlannedBy, changed.Trouble, changed.computed = time.Time{}, 0, "", new(computed)
		made = &changed
		return touch(ctx, tx, id)
	})
	if err != nil {
		return nil, err
	}
	st.keep(made)
	return made, nil
}

func setStep(ctx context.Context, tx *sqlx.Tx, id int64, state string) error {
	_, err := tx.ExecContext(ctx, `UPDATE draft_steps SET state = $2 WHERE id = $1`, id, state)
	return err
}

func encodeOps(ops []edit.Op) ([]byte, error) {
	forms := make([][]byte, len(ops))
	for i, op := range ops {
		form, err := edit.Encode(op)
		if err != nil {
			return nil, err
		}
		forms[i] = form
	}
	return slices.Concat([]byte("["), bytes.Join(forms, []byte(",")), []byte("]")), nil
}

func decodeOps(data []byte) ([]edit.Op, error) {
	var forms []json.RawMessage
	if err := json.Unmarshal(data, &forms); err != nil {
		return nil, fmt.Errorf("read operations: %w", err)
	}
	ops := make([]edit.Op, len(forms))
	for i, form := range forms {
		op, err := edit.Decode(form)
		if err != nil {
			return nil, err
		}
		ops[i] = op
	}
	return ops, nil
}
