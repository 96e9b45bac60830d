package store

import (
	"bytes"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// ErrNoDraft is a draft that is not there, or not this person's.
var ErrNoDraft = errors.New("there is no such draft")

// A Draft is a log of steps that are not published, brought up to date on the published Site. It is immutable: every
// change of the log makes another one, and since Sites share what they have in common, each step keeps its own.
type Draft struct {
	ID      int64
	Owner   int64
	Name    string
	Version int64 // rises with every change of the log
	Base    *Published
	Site    *site.Site // the published Site with all steps done
	Steps   []Step     // those that stand, oldest first
	Undone  []Step     // those that redo brings back, the next one first
	Held    []HeldOp   // edits that somebody else's publication got in the way of

	OwnerName string
	People    []int64   // accounts with which it is shared, the owner left out
	Planned   time.Time // when it is to be published; zero: when somebody says so
	PlannedBy int64     // whose rights count then
	Trouble   string    // why it was not published when it was due

	computed *computed // its consequences, once somebody has asked
}

// computed keeps what follows from a draft as it stands on its revision, for all who look and for the history. The
// consequences are true until a live window begins or ends.
type computed struct {
	sync.Mutex
	after *site.Site
	said  []consequence.Sentence
	until time.Time // zero: no window begins or ends
}

func (c *computed) sentences() []consequence.Sentence {
	if c == nil {
		return nil
	}
	c.Lock()
	defer c.Unlock()
	if !c.until.IsZero() && !time.Now().Before(c.until) {
		return nil
	}
	return c.said
}

// Consequences says what publishing a draft now would change, for every audience; computed once for a draft as it stands.
func (st *Store) Consequences(ctx context.Context, d *Draft) ([]consequence.Sentence, error) {
	if said := d.computed.sentences(); said != nil {
		return said, nil
	}
	sets, err := st.RoleSets(ctx)
	if err != nil {
		return nil, err
	}
	now := time.Now()
	after := d.After(now)
	said := consequence.Compare(d.Base.Site, after, consequence.ViewersOf(d.Base.Site, sets, now)).Sentences()
	d.computed.Lock()
	defer d.computed.Unlock()
	d.computed.said, d.computed.until = said, reach.NextEdge(after, now)
	if edge := reach.NextEdge(d.Base.Site, now); !edge.IsZero() && (d.computed.until.IsZero() || edge.Before(d.computed.until)) {
		d.computed.until = edge
	}
	return said, nil
}

// IsFor says whether an account may see and change the draft.
func (d *Draft) IsFor(account int64) bool {
	return d.Owner == account || slices.Contains(d.People, account)
}

// After gives the published Site as publishing the draft would leave it, with all that is derived; settled once, at the moment
// when it is first asked for.
func (d *Draft) After(at time.Time) *site.Site {
	if d.computed == nil {
		return edit.Settle(d.Base.Site, d.Site, at)
	}
	d.computed.Lock()
	defer d.computed.Unlock()
	if d.computed.after == nil {
		d.computed.after = edit.Settle(d.Base.Site, d.Site, at)
	}
	return d.computed.after
}

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

// A HeldOp is an operation that waits for a decision, with the step it belongs to.
type HeldOp struct {
	Step int64
	edit.Held
}

// MyChanges gives the id of the draft that every account has for itself.
func (st *Store) MyChanges(ctx context.Context, account int64) (int64, error) {
	return st.DraftNamed(ctx, account, MyChangesName)
}

// DraftNamed gives the id of a person's draft of a name, made if it is not there.
func (st *Store) DraftNamed(ctx context.Context, account int64, name string) (int64, error) {
	var id int64
	err := st.db.GetContext(ctx, &id, `SELECT id FROM drafts WHERE owner_id = $1 AND name = $2 AND thrown_at IS NULL`, account, name)
	if errors.Is(err, sql.ErrNoRows) {
		err = st.db.GetContext(ctx, &id, `INSERT INTO drafts (owner_id, name) VALUES ($1, $2)
			ON CONFLICT (owner_id, name) WHERE thrown_at IS NULL DO UPDATE SET name = excluded.name RETURNING id`, account, name)
	}
	if err != nil {
		return 0, fmt.Errorf("find the draft: %w", err)
	}
	return id, nil
}

type draftRow struct {
	ID        int64         `db:"id"`
	Owner     int64         `db:"owner_id"`
	OwnerName string        `db:"owner_name"`
	Name      string        `db:"name"`
	Version   int64         `db:"version"`
	Planned   sql.NullTime  `db:"publish_at"`
	PlannedBy sql.NullInt64 `db:"planned_by"`
	Trouble   string        `db:"trouble"`
	People    string        `db:"people"`
}

// draftQuery reads a draft with those who share it; thrown drafts are gone.
const draftQuery = `SELECT d.id, d.owner_id, a.name AS owner_name, d.name, d.version, d.publish_at, d.planned_by, d.trouble,
	coalesce((SELECT string_agg(account_id::text, ' ' ORDER BY account_id) FROM draft_people WHERE draft_id = d.id), '') AS people
	FROM drafts d JOIN accounts a ON a.id = d.owner_id WHERE d.thrown_at IS NULL AND d.id = $1`

// Draft gives a draft up to date: one indexed query where nothing has changed since it was last asked for.
func (st *Store) Draft(ctx context.Context, id int64) (*Draft, error) {
	var row draftRow
	err := st.db.GetContext(ctx, &row, draftQuery, id)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, ErrNoDraft
	}
	if err != nil {
		return nil, fmt.Errorf("read the draft: %w", err)
	}
	base := st.published.Load()
	if d := st.kept(id); d != nil && d.Version == row.Version && d.Base.Revision == base.Revision {
		return d, nil
	}
	d, err := loadDraft(ctx, st.db, row, base)
	if err != nil {
		return nil, err
	}
	st.keep(d)
	return d, nil
}

func (st *Store) kept(id int64) *Draft {
	st.drafts.Lock()
	defer st.drafts.Unlock()
	return st.open[id]
}

// keepLimit bounds the drafts at hand; one that is left out is read again when it is asked for.
const keepLimit = 256

func (st *Store) keep(d *Draft) {
	st.drafts.Lock()
	defer st.drafts.Unlock()
	if len(st.open) >= keepLimit {
		clear(st.open)
	}
	st.open[d.ID] = d
}

func loadDraft(ctx context.Context, q sqlx.QueryerContext, row draftRow, base *Published) (*Draft, error) {
	var rows []struct {
		ID    int64           `db:"id"`
		By    int64           `db:"account_id"`
		Name  string          `db:"name"`
		At    time.Time       `db:"at"`
		Said  string          `db:"said"`
		Ops   json.RawMessage `db:"ops"`
		State string          `db:"state"`
	}
	if err := sqlx.SelectContext(ctx, q, &rows, `SELECT s.id, s.account_id, a.name, s.at, s.said, s.ops, s.state
		FROM draft_steps s JOIN accounts a ON a.id = s.account_id
		WHERE s.draft_id = $1 AND s.state IN ('done', 'undone') ORDER BY s.id`, row.ID); err != nil {
		return nil, fmt.Errorf("read the draft's steps: %w", err)
	}
	d := &Draft{ID: row.ID, Owner: row.Owner, OwnerName: row.OwnerName, Name: row.Name, Version: row.Version, Base: base, Site: base.Site,
		Planned: row.Planned.Time, PlannedBy: row.PlannedBy.Int64, Trouble: row.Trouble, computed: new(computed)}
	for _, id := range strings.Fields(row.People) {
		account, _ := strconv.ParseInt(id, 10, 64)
		d.People = append(d.People, account)
	}
	var done []Step
	for _, r := range rows {
		ops, err := decodeOps(r.Ops)
		if err != nil {
			return nil, err
		}
		step := Step{ID: r.ID, By: r.By, ByName: r.Name, Said: r.Said, At: r.At, stored: ops}
		if r.State == "undone" {
			d.Undone = append(d.Undone, step)
			continue
		}
		done = append(done, step)
	}
	rebase := edit.NewRebase(base.Site, time.Now())
	for _, step := range done {
		d.apply(rebase, step)
	}
	return d, nil
}

// apply does a step on the draft's Site; what can't be done is held.
func (d *Draft) apply(rebase *edit.Rebasing, step Step) {
	step.before = d.Site
	applied, held := rebase.Add(step.stored)
	for _, h := range held {
		d.Held = append(d.Held, HeldOp{step.ID, h})
	}
	step.Ops, d.Site = applied, rebase.Site
	d.Steps = append(d.Steps, step)
}

func (st *Store) lockDraft(ctx context.Context, tx *sqlx.Tx, id int64, base *Published) (*Draft, error) {
	var row draftRow
	err := tx.GetContext(ctx, &row, draftQuery+` FOR UPDATE OF d`, id)
	if errors.Is(err, sql.ErrNoRows) {
		return nil, ErrNoDraft
	}
	if err != nil {
		return nil, fmt.Errorf("lock the draft: %w", err)
	}
	if d := st.kept(id); d != nil && d.Version == row.Version && d.Base.Revision == base.Revision {
		return d, nil
	}
	return loadDraft(ctx, tx, row, base)
}

// touch marks a change of a draft's log. A draft that was set to publish at a moment is not any more (rules 9.5).
func touch(ctx context.Context, tx *sqlx.Tx, id int64) error {
	_, err := tx.ExecContext(ctx, `UPDATE drafts SET version = version + 1, publish_at = NULL, planned_by = NULL, trouble = '' WHERE id = $1`, id)
	if err != nil {
		return fmt.Errorf("mark the draft as changed: %w", err)
	}
	return tellDraft(ctx, tx, id)
}

// tellDraft lets those who look at a draft know that it has changed, once the transaction holds.
func tellDraft(ctx context.Context, tx *sqlx.Tx, id int64) error {
	_, err := tx.ExecContext(ctx, `SELECT pg_notify($1, $2)`, draftChannel, fmt.Sprint(id))
	return err
}

// Edit adds a step to a draft. build sees the draft as it is under the lock and gives the operations, so that nothing
// can come between; its error, or a *edit.Refusal or *edit.Conflict of the operations, leaves the draft as it was.
func (st *Store) Edit(ctx context.Context, id int64, by Account, said string, build func(*Draft) ([]edit.Op, error)) (*Draft, error) {
	return st.change(ctx, id, func(tx *sqlx.Tx, d *Draft) error {
		ops, err := build(d)
		if err != nil {
			return err
		}
		made, settled, err := edit.ApplyAll(d.Site, ops, time.Now())
		if err != nil {
			return err
		}
		settled = slices.DeleteFunc(settled, func(op edit.Op) bool {
			e, isEdit := op.(edit.Edit)
			return isEdit && len(e.Fields) == 0 // it makes no difference
		})
		if len(settled) == 0 {
			return nil
		}
		forms, err := encodeOps(settled)
		if err != nil {
			return err
		}
		step := Step{By: by.ID, ByName: by.Name, Said: said, Ops: settled, At: time.Now(), stored: settled, before: d.Site}
		if _, err := tx.ExecContext(ctx, `UPDATE draft_steps SET state = 'dropped' WHERE draft_id = $1 AND state = 'undone' AND account_id = $2`, id, by.ID); err != nil {
			return err
		}
		if err := tx.GetContext(ctx, &step.ID, `INSERT INTO draft_steps (draft_id, account_id, said, ops) VALUES ($1, $2, $3, $4) RETURNING id`,
			id, by.ID, said, forms); err != nil {
			return fmt.Errorf("save the step: %w", err)
		}
		d.Site, d.Steps = made, append(slices.Clip(d.Steps), step)
		d.Undone = slices.DeleteFunc(slices.Clone(d.Undone), func(s Step) bool { return s.By == by.ID })
		return nil
	})
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
func (st *Store) Insist(ctx context.Context, id int64, held HeldOp) (*Draft, error) {
	return st.change(ctx, id, func(tx *sqlx.Tx, d *Draft) error {
		op, err := edit.Insist(d.Site, held.Op, d.Base.Revision)
		if err != nil {
			return err
		}
		return rewrite(ctx, tx, d, held, op)
	})
}

// rewrite replaces one operation of a stored step, or leaves it out, and makes the draft anew.
func rewrite(ctx context.Context, tx *sqlx.Tx, d *Draft, held HeldOp, by edit.Op) error {
	var stored json.RawMessage
	if err := tx.GetContext(ctx, &stored, `SELECT ops FROM draft_steps WHERE id = $1 AND draft_id = $2 AND state = 'done'`, held.Step, d.ID); err != nil {
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
	if _, err := tx.ExecContext(ctx, `UPDATE draft_steps SET ops = $2, state = $3 WHERE id = $1`, held.Step, forms, state); err != nil {
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
