package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/clock"
	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

var (
	// ErrNothing is a draft without anything to publish.
	ErrNothing = errors.New("there is nothing to publish in this draft")
	// ErrHeld is a draft with edits that somebody else's publication got in the way of.
	ErrHeld = errors.New("some edits wait for your decision: somebody else has published a change of the same thing")
	// ErrReview is a draft that is not any more what the person who publishes it has looked at.
	ErrReview = errors.New(
		"something has changed since you looked; nothing is published yet. Look at what will change once more",
	)
)

// Reviewed says which state of things somebody looked at before publishing it.
type Reviewed struct {
	Revision, Version int64
	Why               string // the reason for the history; "" for none
	Alone             string // why a site keeper does without the second person that a branch asks for; "" for nothing
}

// Publish makes all of a draft public in one transaction, or nothing (rules 9.4). The site row is locked, so
// publications queue; the draft is brought up to date on what came before. The error is ErrReview if that was not what
// was reviewed.
func (st *Store) Publish(ctx context.Context, draftID int64, by Account, reviewed Reviewed) (*Published, error) {
	var made *Published
	err := st.inTx(ctx, func(tx *sqlx.Tx) error {
		was, err := st.lockSite(ctx, tx)
		if err != nil {
			return err
		}
		draft, err := st.lockDraft(ctx, tx, draftID, was)
		switch {
		case err != nil:
			return err
		case len(draft.Held) > 0:
			return ErrHeld
		case len(draft.Steps) == 0:
			return ErrNothing
		case reviewed.Revision != was.Revision || reviewed.Version != draft.Version:
			return ErrReview
		}
		if err := mayPublish(ctx, tx, draft, by, strings.TrimSpace(reviewed.Alone)); err != nil {
			return err
		}
		why, err := edit.Reason(was.Site.Settings(), reviewed.Why)
		if err != nil {
			return err
		}
		made, err = st.publishDraft(ctx, tx, was, draft, by, why)
		return err
	})
	switch {
	case err != nil:
		return nil, err
	case made == nil:
		return nil, ErrNothing
	}
	st.swap(made)
	return made, nil
}

// publishDraft writes a draft that is up to date and empties its log. A draft of which all is public already makes no
// publication: nil.
func (st *Store) publishDraft(
	ctx context.Context,
	tx *sqlx.Tx,
	was *Published,
	draft *Draft,
	by Account,
	why string,
) (*Published, error) {
	n := notes{by: by, reason: why, draft: draft.Name, planned: draft.Planned, sentences: draft.computed.sentences()}
	var ops []edit.Op
	for _, step := range draft.Steps {
		ops, n.said = append(ops, step.Ops...), append(n.said, step.Said)
	}
	var made *Published
	if !sameSite(was.Site, draft.Site) {
		var err error
		if made, err = st.write(ctx, tx, was, draft.Site, ops, n); err != nil {
			return nil, err
		}
	}
	if _, err := tx.ExecContext(ctx, `UPDATE draft_steps SET state = CASE state WHEN 'done' THEN 'published' ELSE
		'dropped' END
		WHERE draft_id = $1 AND state IN ('done', 'undone')`, draft.ID); err != nil {
		return nil, fmt.Errorf("empty the draft: %w", err)
	}
	for _, over := range []string{"approvals", "remarks"} {
		if _, err := tx.ExecContext(ctx, `DELETE FROM `+over+` WHERE draft_id = $1`, draft.ID); err != nil {
			return nil, fmt.Errorf("empty the draft: %w", err)
		}
	}
	if draft.PartedFrom != 0 { // it was made for this one publication
		if err := closeDraft(ctx, tx, draft.ID); err != nil {
			return nil, err
		}
	}
	return made, touch(ctx, tx, draft.ID)
}

// sameSite says whether nothing of what is written differs between two Sites.
func sameSite(a, b *site.Site) bool {
	return len(site.Changes(a, b)) == 0 && a.Settings() == b.Settings() &&
		slices.Equal(a.Kinds(), b.Kinds()) && site.SameRoles(a, b) && slices.Equal(a.AllDetails(), b.AllDetails()) &&
		reflect.DeepEqual(a.Menus(), b.Menus()) && reflect.DeepEqual(a.Blocks(), b.Blocks()) &&
		reflect.DeepEqual(a.Placements(), b.Placements()) && reflect.DeepEqual(a.ConditionSets(), b.ConditionSets())
}

// notes are what the history keeps of a publication beside its operations and consequences.
type notes struct {
	by      Account
	said    []string // the steps in words
	draft   string
	planned time.Time
	reason  string // why
	// sentences are the consequences, where they were computed for just this draft and revision; nil has them
	// computed.
	sentences []consequence.Sentence
}

// PublishDirect makes operations public without a draft, for imports and the demo. It returns the settled Site.
func (st *Store) PublishDirect(ctx context.Context, by Account, said string, ops []edit.Op) (*Published, error) {
	return st.PublishBecause(ctx, by, said, "", ops)
}

// PublishBecause does so and says why.
func (st *Store) PublishBecause(
	ctx context.Context, by Account, said, why string, ops []edit.Op,
) (*Published, error) {
	var made *Published
	err := st.inTx(ctx, func(tx *sqlx.Tx) error {
		was, err := st.lockSite(ctx, tx)
		if err != nil {
			return err
		}
		is, settled, err := edit.ApplyAll(was.Site, ops, clock.Now())
		if err != nil {
			return err
		}
		made, err = st.write(ctx, tx, was, is, settled, notes{by: by, said: []string{said}, reason: why})
		return err
	})
	if err != nil {
		return nil, err
	}
	st.swap(made)
	return made, nil
}

func (st *Store) inTx(ctx context.Context, do func(*sqlx.Tx) error) error {
	tx, err := st.db.BeginTxx(ctx, nil)
	if err != nil {
		return fmt.Errorf("the database does not answer: %w", err)
	}
	defer tx.Rollback()
	if err := do(tx); err != nil {
		return err
	}
	if err := tx.Commit(); err != nil {
		return fmt.Errorf("commit: %w", err)
	}
	return nil
}

// lockSite takes the site row and catches up, so that what is published stands on the newest revision.
func (st *Store) lockSite(ctx context.Context, tx *sqlx.Tx) (*Published, error) {
	if _, err := tx.ExecContext(ctx, `SELECT FROM site FOR UPDATE`); err != nil {
		return nil, fmt.Errorf("lock the site: %w", err)
	}
	return catchUp(ctx, tx, st.published.Load())
}

// write puts the difference of two Sites into the tables and appends the history.
func (st *Store) write(
	ctx context.Context,
	tx *sqlx.Tx,
	was *Published,
	is *site.Site,
	ops []edit.Op,
	n notes,
) (*Published, error) {
	at := clock.Now().UTC().Truncate(time.Microsecond)
	revision := was.Revision + 1
	is = edit.Settle(was.Site, is, at)
	b := is.Builder()
	var changed []*site.Page
	for _, change := range site.Changes(was.Site, is) {
		if change.Is == nil {
			return nil, fmt.Errorf("publish: page %d would vanish", change.Was.ID)
		}
		p := *change.Is
		p.Revision, p.Changed = revision, at
		if change.Was == nil || edit.Reworded(change.Was, &p) {
			p.Worded = at
		}
		changed = append(changed, &p)
	}
	for _, p := range changed {
		b.Put(p)
	}
	is = b.Site()
	if err := keepPast(ctx, tx, was.Site, is, revision, at, changed); err != nil {
		return nil, err
	}
	if err := writePages(ctx, tx, was.Site, changed); err != nil {
		return nil, err
	}
	for _, write := range []func(context.Context, *sqlx.Tx, *site.Site, *site.Site) error{
		writeMenus, writeBlocks, writeSettings, writeRoles,
	} {
		if err := write(ctx, tx, was.Site, is); err != nil {
			return nil, err
		}
	}
	if err := writeWords(ctx, tx, was.Site, is, changed); err != nil {
		return nil, err
	}
	sentences := n.sentences
	if sentences == nil {
		sets, err := heldRoleSets(ctx, tx)
		if err != nil {
			return nil, err
		}
		texts, err := readTexts(ctx, tx, consequence.Needs(was.Site, is))
		if err != nil {
			return nil, err
		}
		sentences = consequence.Compare(was.Site, is, consequence.ViewersOf(was.Site, sets, at), texts).Sentences()
	}
	if err := writeHistory(ctx, tx, revision, at, ops, n, sentences); err != nil {
		return nil, err
	}
	if err := announce(ctx, tx, revision, changed); err != nil {
		return nil, err
	}
	return &Published{revision, is}, nil
}

// announce raises the revision, and tells the other instances when the transaction holds.
func announce(ctx context.Context, tx *sqlx.Tx, revision int64, changed []*site.Page) error {
	ids := make([]int64, len(changed))
	for i, p := range changed {
		ids[i] = int64(p.ID)
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO page_changes (revision, pages) VALUES ($1, $2)`, revision,
		ids); err != nil {
		return fmt.Errorf("say which pages changed: %w", err)
	}
	if _, err := tx.ExecContext(ctx, `UPDATE site SET revision = $1`, revision); err != nil {
		return fmt.Errorf("raise the revision: %w", err)
	}
	if _, err := tx.ExecContext(ctx, `SELECT pg_notify($1, $2)`, channel, fmt.Sprint(revision)); err != nil {
		return fmt.Errorf("announce the revision: %w", err)
	}
	return nil
}

func writeHistory(
	ctx context.Context,
	tx *sqlx.Tx,
	revision int64,
	at time.Time,
	ops []edit.Op,
	n notes,
	sentences []consequence.Sentence,
) error {
	words, err := json.Marshal(sentences)
	if err != nil {
		return fmt.Errorf("write history: %w", err)
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO publications (revision, at, account_id, by_name, said, sentences,
		draft, planned, reason)
		VALUES ($1, $2, nullif($3, 0), $4, $5, $6, $7, $8, $9)`, revision, at, n.by.ID, n.by.Name, n.said, words, n.draft,
		timeOrNull(n.planned), n.reason); err != nil {
		return fmt.Errorf("write history: %w", err)
	}
	for from := 0; from < len(ops); from += batch {
		forms, err := encodeOps(ops[from:min(from+batch, len(ops))])
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO publication_ops (revision, seq, ops) VALUES ($1, $2, $3)`, revision,
			from/batch, string(forms)); err != nil {
			return fmt.Errorf("write history: %w", err)
		}
	}
	return nil
}
