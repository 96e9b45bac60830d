package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

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
	ErrReview = errors.New("something has changed since you looked; nothing is published yet. Look at what will change once more")
)

// Reviewed says which state of things somebody looked at before publishing it.
type Reviewed struct{ Revision, Version int64 }

// Publish makes all of a draft public in one transaction, or nothing (rules 9.4). The site row is locked, so publications
// queue; the draft is brought up to date on what came before. The error is ErrReview if that was not what was reviewed.
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
		case reviewed != Reviewed{was.Revision, draft.Version}:
			return ErrReview
		}
		made, err = st.publishDraft(ctx, tx, was, draft, by)
		return err
	})
	if err != nil {
		return nil, err
	}
	st.swap(made)
	return made, nil
}

// publishDraft writes a draft that is up to date and empties its log.
func (st *Store) publishDraft(ctx context.Context, tx *sqlx.Tx, was *Published, draft *Draft, by Account) (*Published, error) {
	n := notes{by: by, draft: draft.Name, planned: draft.Planned}
	var ops []edit.Op
	for _, step := range draft.Steps {
		ops, n.said = append(ops, step.Ops...), append(n.said, step.Said)
	}
	made, err := st.write(ctx, tx, was, draft.Site, ops, n)
	if err != nil {
		return nil, err
	}
	if _, err := tx.ExecContext(ctx, `UPDATE draft_steps SET state = CASE state WHEN 'done' THEN 'published' ELSE 'dropped' END
		WHERE draft_id = $1 AND state IN ('done', 'undone')`, draft.ID); err != nil {
		return nil, fmt.Errorf("close the draft: %w", err)
	}
	return made, touch(ctx, tx, draft.ID)
}

// notes are what the history keeps of a publication beside its operations and consequences.
type notes struct {
	by      Account
	said    []string // the steps in words
	draft   string
	planned time.Time
}

// PublishDirect makes operations public without a draft, for imports and the demo. It returns the settled Site.
func (st *Store) PublishDirect(ctx context.Context, by Account, said string, ops []edit.Op) (*Published, error) {
	var made *Published
	err := st.inTx(ctx, func(tx *sqlx.Tx) error {
		was, err := st.lockSite(ctx, tx)
		if err != nil {
			return err
		}
		is, settled, err := edit.ApplyAll(was.Site, ops, time.Now())
		if err != nil {
			return err
		}
		made, err = st.write(ctx, tx, was, is, settled, notes{by: by, said: []string{said}})
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
func (st *Store) write(ctx context.Context, tx *sqlx.Tx, was *Published, is *site.Site, ops []edit.Op, n notes) (*Published, error) {
	at := time.Now().UTC().Truncate(time.Microsecond)
	revision := was.Revision + 1
	is = edit.Settle(was.Site, is, at)
	b := is.Edit()
	var changed []*site.Page
	for _, change := range site.Changes(was.Site, is) {
		if change.Is == nil {
			return nil, fmt.Errorf("publish: page %d would vanish", change.Was.ID)
		}
		p := *change.Is
		p.Revision = revision
		changed = append(changed, &p)
	}
	for _, p := range changed {
		b.Put(p)
	}
	is = b.Site()
	if err := writePages(ctx, tx, changed); err != nil {
		return nil, err
	}
	if err := writeSpells(ctx, tx, was.Site, changed); err != nil {
		return nil, err
	}
	sets, err := heldRoleSets(ctx, tx)
	if err != nil {
		return nil, err
	}
	sentences := consequence.Compare(was.Site, is, consequence.ViewersOf(is, sets, at)).Sentences()
	if err := writeHistory(ctx, tx, revision, at, ops, n, sentences); err != nil {
		return nil, err
	}
	if err := announce(ctx, tx, revision); err != nil {
		return nil, err
	}
	return &Published{revision, is}, nil
}

// announce raises the revision, and tells the other instances when the transaction holds.
func announce(ctx context.Context, tx *sqlx.Tx, revision int64) error {
	if _, err := tx.ExecContext(ctx, `UPDATE site SET revision = $1`, revision); err != nil {
		return fmt.Errorf("raise the revision: %w", err)
	}
	if _, err := tx.ExecContext(ctx, `SELECT pg_notify($1, $2)`, channel, fmt.Sprint(revision)); err != nil {
		return fmt.Errorf("announce the revision: %w", err)
	}
	return nil
}

// batch is the number of rows sent in one statement.
const batch = 5000

func writePages(ctx context.Context, tx *sqlx.Tx, pages []*site.Page) error {
	for len(pages) > 0 {
		n := min(len(pages), batch)
		if err := writePageBatch(ctx, tx, pages[:n]); err != nil {
			return fmt.Errorf("write pages: %w", err)
		}
		pages = pages[n:]
	}
	return nil
}

func writePageBatch(ctx context.Context, tx *sqlx.Tx, pages []*site.Page) error {
	cols := struct {
		id, parent, revision                                                         []int64
		key, rank, pin, sort, label, title, summary, kind, text, segment, own, short []string
		status, audience, date                                                       []string
		follows, listed, conceal, binned, purged                                     []bool
		from, until, first, since, binnedAt                                          []*time.Time
		leadsTo                                                                      []int64
	}{}
	for _, p := range pages {
		cols.id, cols.parent, cols.revision = append(cols.id, int64(p.ID)), append(cols.parent, int64(p.Parent)), append(cols.revision, p.Revision)
		cols.key, cols.rank, cols.pin = append(cols.key, p.Key), append(cols.rank, p.Rank), append(cols.pin, string(p.Pin))
		cols.sort, cols.label, cols.title = append(cols.sort, string(p.Sort)), append(cols.label, p.Label), append(cols.title, p.Title)
		cols.summary, cols.kind, cols.text = append(cols.summary, p.Summary), append(cols.kind, p.Kind), append(cols.text, p.Text)
		cols.segment, cols.own = append(cols.segment, p.Segment), append(cols.own, p.OwnAddress)
		cols.short = append(cols.short, strings.Join(p.ShortAddresses, "\n"))
		cols.status, cols.audience = append(cols.status, string(p.Status)), append(cols.audience, string(p.Audience))
		cols.follows, cols.listed = append(cols.follows, p.SegmentFollows), append(cols.listed, p.Listed)
		cols.conceal, cols.binned = append(cols.conceal, p.Conceal), append(cols.binned, p.Binned)
		cols.from, cols.until, cols.first = append(cols.from, timeOrNull(p.LiveFrom)), append(cols.until, timeOrNull(p.LiveUntil)), append(cols.first, timeOrNull(p.FirstOnline))
		cols.date, cols.leadsTo, cols.purged = append(cols.date, p.Date), append(cols.leadsTo, int64(p.LeadsTo)), append(cols.purged, p.Purged)
		cols.since, cols.binnedAt = append(cols.since, timeOrNull(p.Since)), append(cols.binnedAt, timeOrNull(p.BinnedAt))
	}
	_, err := tx.ExecContext(ctx, `INSERT INTO pages (id, key, parent_id, rank, pin, sort, label, title, summary, kind, text_hash,
			segment, segment_follows, own_address, short_addresses, status, live_from, live_until, listed, audience, conceal,
			first_online, binned, revision, date, since, binned_at, leads_to, purged)
		SELECT id, key, nullif(parent, 0), rank, pin, sort, label, title, summary, kind, nullif(txt, ''),
			segment, follows, own, string_to_array(short, E'\n'), status, live_from, live_until, listed, audience, conceal,
			first_online, binned, revision, nullif(date, '')::date, since, binned_at, nullif(leads_to, 0), purged
		FROM unnest($1::bigint[], $2::text[], $3::bigint[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[], $9::text[],
			$10::text[], $11::text[], $12::text[], $13::bool[], $14::text[], $15::text[], $16::text[], $17::timestamptz[],
			$18::timestamptz[], $19::bool[], $20::text[], $21::bool[], $22::timestamptz[], $23::bool[], $24::bigint[],
			$25::text[], $26::timestamptz[], $27::timestamptz[], $28::bigint[], $29::bool[])
			AS t (id, key, parent, rank, pin, sort, label, title, summary, kind, txt, segment, follows, own, short, status,
			live_from, live_until, listed, audience, conceal, first_online, binned, revision, date, since, binned_at, leads_to, purged)
		ON CONFLICT (id) DO UPDATE SET parent_id = excluded.parent_id, rank = excluded.rank, pin = excluded.pin, sort = excluded.sort,
			label = excluded.label, title = excluded.title, summary = excluded.summary, kind = excluded.kind,
			text_hash = excluded.text_hash, segment = excluded.segment, segment_follows = excluded.segment_follows,
			own_address = excluded.own_address, short_addresses = excluded.short_addresses, status = excluded.status,
			live_from = excluded.live_from, live_until = excluded.live_until, listed = excluded.listed, audience = excluded.audience,
			conceal = excluded.conceal, first_online = excluded.first_online, binned = excluded.binned, revision = excluded.revision,
			date = excluded.date, since = excluded.since, binned_at = excluded.binned_at, leads_to = excluded.leads_to, purged = excluded.purged`,
		cols.id, cols.key, cols.parent, cols.rank, cols.pin, cols.sort, cols.label, cols.title, cols.summary, cols.kind, cols.text,
		cols.segment, cols.follows, cols.own, cols.short, cols.status, cols.from, cols.until, cols.listed, cols.audience, cols.conceal,
		cols.first, cols.binned, cols.revision, cols.date, cols.since, cols.binnedAt, cols.leadsTo, cols.purged)
	return err
}

// writeSpells adds the spells that ended with this publication; those before are there.
func writeSpells(ctx context.Context, tx *sqlx.Tx, was *site.Site, pages []*site.Page) error {
	var ids, seqs, parents []int64
	var segments, owns []string
	var began, ended []time.Time
	for _, p := range pages {
		known := 0
		if before := was.Page(p.ID); before != nil {
			known = len(before.Spells)
		}
		for i, spell := range p.Spells[known:] {
			ids, seqs, parents = append(ids, int64(p.ID)), append(seqs, int64(known+i)), append(parents, int64(spell.Parent))
			segments, owns = append(segments, spell.Segment), append(owns, spell.Own)
			began, ended = append(began, spell.From), append(ended, spell.Until)
		}
	}
	for from := 0; from < len(ids); from += batch {
		to := min(from+batch, len(ids))
		if _, err := tx.ExecContext(ctx, `INSERT INTO page_spells (page_id, seq, parent_id, segment, own_address, began, ended)
			SELECT * FROM unnest($1::bigint[], $2::int[], $3::bigint[], $4::text[], $5::text[], $6::timestamptz[], $7::timestamptz[])`,
			ids[from:to], seqs[from:to], parents[from:to], segments[from:to], owns[from:to], began[from:to], ended[from:to]); err != nil {
			return fmt.Errorf("write old places: %w", err)
		}
	}
	return nil
}

func timeOrNull(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
}

func writeHistory(ctx context.Context, tx *sqlx.Tx, revision int64, at time.Time, ops []edit.Op, n notes, sentences []consequence.Sentence) error {
	words, err := json.Marshal(sentences)
	if err != nil {
		return fmt.Errorf("write history: %w", err)
	}
	if _, err := tx.ExecContext(ctx, `INSERT INTO publications (revision, at, account_id, by_name, said, sentences, draft, planned)
		VALUES ($1, $2, nullif($3, 0), $4, $5, $6, $7, $8)`, revision, at, n.by.ID, n.by.Name, n.said, words, n.draft, timeOrNull(n.planned)); err != nil {
		return fmt.Errorf("write history: %w", err)
	}
	var seqs []int64
	var forms []string
	for i, op := range ops {
		form, err := edit.Encode(op)
		if err != nil {
			return err
		}
		seqs, forms = append(seqs, int64(i)), append(forms, string(form))
	}
	for from := 0; from < len(ops); from += batch {
		to := min(from+batch, len(ops))
		if _, err := tx.ExecContext(ctx, `INSERT INTO publication_ops (revision, seq, op)
			SELECT $1, seq, op::jsonb FROM unnest($2::int[], $3::text[]) AS t (seq, op)`, revision, seqs[from:to], forms[from:to]); err != nil {
			return fmt.Errorf("write history: %w", err)
		}
	}
	return nil
}
