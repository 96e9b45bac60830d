package store

import (
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

	"vineladder/internal/clock"
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

	Asked *Approval // somebody asks for it to be published; nil: nobody does

	PartedFrom int64 // the draft that its edits were taken from, to be published by themselves; 0 otherwise

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
	if !c.until.IsZero() && !clock.Now().Before(c.until) {
		return nil
	}
	return c.said
}

// Consequences says what publishing a draft now would change, for every audience; computed once for a draft as it
// stands.
func (st *Store) Consequences(ctx context.Context, d *Draft) ([]consequence.Sentence, error) {
	if said := d.computed.sentences(); said != nil {
		return said, nil
	}
	sets, err := st.RoleSets(ctx)
	if err != nil {
		return nil, err
	}
	now := clock.Now()
	after := d.After(now)
	said, err := st.Compare(ctx, d.Base.Site, after, consequence.ViewersOf(d.Base.Site, sets, now))
	if err != nil {
		return nil, err
	}
	d.computed.Lock()
	defer d.computed.Unlock()
	d.computed.said, d.computed.until = said, reach.NextEdge(after, now)
	if edge := reach.NextEdge(d.Base.Site, now); !edge.IsZero() &&
		(d.computed.until.IsZero() || edge.Before(d.computed.until)) {
		d.computed.until = edge
	}
	return said, nil
}

// Compare says what differs between two Sites for some viewers, with the texts that it reads.
func (st *Store) Compare(
	ctx context.Context,
	was, is *site.Site,
	viewers consequence.Viewers,
) ([]consequence.Sentence, error) {
	texts, err := readTexts(ctx, st.db, consequence.Needs(was, is))
	if err != nil {
		return nil, err
	}
	return consequence.Compare(was, is, viewers, texts).Sentences(), nil
}

// IsFor says whether an account may see and change the draft.
func (d *Draft) IsFor(account int64) bool {
	return d.Owner == account || slices.Contains(d.People, account)
}

// After gives the published Site as publishing the draft would leave it, with all that is derived; settled once, at the
// moment when it is first asked for.
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

// As gives the draft as somebody may look at it: with the Sites that see makes of its own.
func (d *Draft) As(see func(*site.Site) *site.Site) *Draft {
	seen, base := *d, *d.Base
	base.Site = see(d.Base.Site)
	seen.Base, seen.Site, seen.computed = &base, see(d.Site), nil
	if base.Site == d.Base.Site && seen.Site == d.Site {
		return d
	}
	return &seen
}

// MyChanges gives the id of the draft that every account has for itself.
func (st *Store) MyChanges(ctx context.Context, account int64) (int64, error) {
	return st.DraftNamed(ctx, account, MyChangesName)
}

// DraftNamed gives the id of a person's draft of a name, made if it is not there.
func (st *Store) DraftNamed(ctx context.Context, account int64, name string) (int64, error) {
	var id int64
	err := st.db.GetContext(
		ctx,
		&id,
		`SELECT id FROM drafts WHERE owner_id = $1 AND name = $2 AND thrown_at IS NULL`,
		account,
		name,
	)
	if errors.Is(err, sql.ErrNoRows) {
		err = st.db.GetContext(ctx, &id, `INSERT INTO drafts (owner_id, name) VALUES ($1, $2)
			ON CONFLICT (owner_id, name) WHERE thrown_at IS NULL DO UPDATE SET name = excluded.name RETURNING id`, account, name)
	}
	if err != nil {
		return 0, fmt.Errorf("find the draft: %w", err)
	}
	return id, nil
}

// DropUntouched takes away a draft in which nothing was ever done, so that what failed leaves none behind.
func (st *Store) DropUntouched(ctx context.Context, id int64) error {
	_, err := st.db.ExecContext(ctx, `DELETE FROM drafts d WHERE id = $1 AND name <> $2 AND version = 0
		AND NOT EXISTS (SELECT FROM draft_steps s WHERE s.draft_id = d.id)`, id, MyChangesName)
	if err != nil {
		return fmt.Errorf("take the draft away: %w", err)
	}
	return nil
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
	Parted    sql.NullInt64 `db:"parted_from"`
}

// draftQuery reads a draft with those who share it; thrown drafts are gone.
const draftQuery = `SELECT d.id, d.owner_id, a.name AS owner_name, d.name, d.version, d.publish_at, d.planned_by,
	d.trouble, d.parted_from,
	coalesce((SELECT string_agg(account_id::text, ' ' ORDER BY account_id) FROM draft_people WHERE draft_id = d.id), '')
		AS people
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
	d := &Draft{
		ID: row.ID, Owner: row.Owner, OwnerName: row.OwnerName, Name: row.Name, Version: row.Version, Base: base,
		Site:    base.Site,
		Planned: row.Planned.Time, PlannedBy: row.PlannedBy.Int64, Trouble: row.Trouble, PartedFrom: row.Parted.Int64,
		computed: new(computed),
	}
	var err error
	if d.Asked, err = approvalOf(ctx, q, row.ID); err != nil {
		return nil, err
	}
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
	rebase := edit.NewRebase(base.Site, clock.Now())
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
	_, err := tx.ExecContext(
		ctx,
		`UPDATE drafts SET version = version + 1, publish_at = NULL, planned_by = NULL, retry_at = NULL, attempts = 0,
			trouble = '' WHERE id = $1`,
		id,
	)
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
