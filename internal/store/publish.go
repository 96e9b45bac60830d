package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
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
type Reviewed struct{ Revision, Version int64 }

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
		case reviewed != Reviewed{was.Revision, draft.Version}:
			return ErrReview
		}
		if err := mayPublish(ctx, tx, draft, by); err != nil {
			return err
		}
		made, err = st.publishDraft(ctx, tx, was, draft, by)
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
) (*Published, error) {
	n := notes{by: by, draft: draft.Name, planned: draft.Planned, sentences: draft.computed.sentences()}
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
	if _, err := tx.ExecContext(ctx, `UPDATE draft_steps SET state = CASE state WHEN 'done' THEN 'published' ELSE 'dropped' END
		WHERE draft_id = $1 AND state IN ('done', 'undone')`, draft.ID); err != nil {
		return nil, fmt.Errorf("empty the draft: %w", err)
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
	return len(site.Changes(a, b)) == 0 && a.Settings() == b.Settings() && reflect.DeepEqual(a.Kinds(), b.Kinds()) &&
		reflect.DeepEqual(a.Menus(), b.Menus()) && reflect.DeepEqual(a.Blocks(), b.Blocks()) &&
		reflect.DeepEqual(a.Placements(), b.Placements())
}

// notes are what the history keeps of a publication beside its operations and consequences.
type notes struct {
	by      Account
	said    []string // the steps in words
	draft   string
	planned time.Time
	// sentences are the consequences, where they were computed for just this draft and revision; nil has them computed.
	sentences []consequence.Sentence
}

// PublishDirect makes operations public without a draft, for imports and the demo. It returns the settled Site.
func (st *Store) PublishDirect(ctx context.Context, by Account, said string, ops []edit.Op) (*Published, error) {
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
		changed = append(changed, &p)
	}
	for _, p := range changed {
		b.Put(p)
	}
	is = b.Site()
	if err := writePages(ctx, tx, was.Site, changed); err != nil {
		return nil, err
	}
	if err := writeSpells(ctx, tx, was.Site, changed); err != nil {
		return nil, err
	}
	for _, write := range []func(context.Context, *sqlx.Tx, *site.Site, *site.Site) error{writeMenus, writeBlocks, writeSettings} {
		if err := write(ctx, tx, was.Site, is); err != nil {
			return nil, err
		}
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
		sentences = consequence.Compare(was.Site, is, consequence.ViewersOf(is, sets, at), texts).Sentences()
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
	if _, err := tx.ExecContext(ctx, `INSERT INTO page_changes (revision, pages) VALUES ($1, $2)`, revision, ids); err != nil {
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

// batch is the number of rows sent in one statement.
const batch = 5000

// writePages inserts pages that the tables don't have and updates the others, in the columns in which any of them
// differs. So an update writes no index anew unless a page's place or text changes.
func writePages(ctx context.Context, tx *sqlx.Tx, was *site.Site, pages []*site.Page) error {
	var made, changed []*site.Page
	for _, p := range pages {
		if was.Page(p.ID) == nil {
			made = append(made, p)
		} else {
			changed = append(changed, p)
		}
	}
	for from := 0; from < len(made); from += batch {
		if err := sendPages(ctx, tx, pageRow, insertPages, made[from:min(from+batch, len(made))]); err != nil {
			return fmt.Errorf("write new pages: %w", err)
		}
	}
	for from := 0; from < len(changed); from += batch {
		pages := changed[from:min(from+batch, len(changed))]
		columns := differing(was, pages)
		if err := sendPages(ctx, tx, columns, updatePages, pages); err != nil {
			return fmt.Errorf("write pages: %w", err)
		}
	}
	return nil
}

// differing gives the id and the columns in which any of some pages differs from what it was.
func differing(was *site.Site, pages []*site.Page) []pageColumn {
	before := make([]*site.Page, len(pages))
	for i, p := range pages {
		before[i] = was.Page(p.ID)
	}
	columns := []pageColumn{pageRow[0]}
	for _, c := range pageRow[1:] {
		if !reflect.DeepEqual(c.values(before), c.values(pages)) {
			columns = append(columns, c)
		}
	}
	return columns
}

// A pageColumn is a column of pages as it is written: its type in PostgreSQL, what is stored for the value sent, and
// the value.
type pageColumn struct {
	name, kind, stored string
	values             func([]*site.Page) any
}

func column[T any](name, kind, stored string, value func(*site.Page) T) pageColumn {
	return pageColumn{name, kind, stored, func(pages []*site.Page) any {
		values := make([]T, len(pages))
		for i, p := range pages {
			values[i] = value(p)
		}
		return values
	}}
}

var pageRow = []pageColumn{
	column("id", "bigint", "id", func(p *site.Page) int64 { return int64(p.ID) }),
	column("key", "text", "key", func(p *site.Page) string { return p.Key }),
	column("parent_id", "bigint", "nullif(parent_id, 0)", func(p *site.Page) int64 { return int64(p.Parent) }),
	column("rank", "text", "rank", func(p *site.Page) string { return p.Rank }),
	column("pin", "text", "pin", func(p *site.Page) string { return string(p.Pin) }),
	column("sort", "text", "sort", func(p *site.Page) string { return string(p.Sort) }),
	column("label", "text", "label", func(p *site.Page) string { return p.Label }),
	column("title", "text", "title", func(p *site.Page) string { return p.Title }),
	column("summary", "text", "summary", func(p *site.Page) string { return p.Summary }),
	column("kind", "text", "kind", func(p *site.Page) string { return p.Kind }),
	column("text_hash", "text", "nullif(text_hash, '')", func(p *site.Page) string { return p.Text }),
	column("date", "text", "nullif(date, '')::date", func(p *site.Page) string { return p.Date }),
	column("segment", "text", "segment", func(p *site.Page) string { return p.Segment }),
	column("segment_follows", "bool", "segment_follows", func(p *site.Page) bool { return p.SegmentFollows }),
	column("own_address", "text", "own_address", func(p *site.Page) string { return p.OwnAddress }),
	column(
		"short_addresses",
		"text",
		`string_to_array(short_addresses, E'\n')`,
		func(p *site.Page) string { return strings.Join(p.ShortAddresses, "\n") },
	),
	column("status", "text", "status", func(p *site.Page) string { return string(p.Status) }),
	column("live_from", "timestamptz", "live_from", func(p *site.Page) *time.Time { return timeOrNull(p.LiveFrom) }),
	column("live_until", "timestamptz", "live_until", func(p *site.Page) *time.Time { return timeOrNull(p.LiveUntil) }),
	column("listed", "bool", "listed", func(p *site.Page) bool { return p.Listed }),
	column("audience", "text", "audience", func(p *site.Page) string { return string(p.Audience) }),
	column("conceal", "bool", "conceal", func(p *site.Page) bool { return p.Conceal }),
	column(
		"first_online",
		"timestamptz",
		"first_online",
		func(p *site.Page) *time.Time { return timeOrNull(p.FirstOnline) },
	),
	column("since", "timestamptz", "since", func(p *site.Page) *time.Time { return timeOrNull(p.Since) }),
	column("binned", "bool", "binned", func(p *site.Page) bool { return p.Binned }),
	column("binned_at", "timestamptz", "binned_at", func(p *site.Page) *time.Time { return timeOrNull(p.BinnedAt) }),
	column("leads_to", "bigint", "nullif(leads_to, 0)", func(p *site.Page) int64 { return int64(p.LeadsTo) }),
	column("purged", "bool", "purged", func(p *site.Page) bool { return p.Purged }),
	column("changed", "timestamptz", "changed", func(p *site.Page) *time.Time { return timeOrNull(p.Changed) }),
	column("layout", "text", "layout", func(p *site.Page) string { return p.Layout }),
	column("branch_layout", "text", "branch_layout", func(p *site.Page) string { return p.BranchLayout }),
	column("revision", "bigint", "revision", func(p *site.Page) int64 { return p.Revision }),
}

// sent is the rows that a statement is sent, as a table t.
func sent(columns []pageColumn) (names, table string) {
	all, stored, arrays := make([]string, len(columns)), make([]string, len(columns)), make([]string, len(columns))
	for i, c := range columns {
		all[i], stored[i], arrays[i] = c.name, c.stored+" AS "+c.name, fmt.Sprintf("$%d::%s[]", i+1, c.kind)
	}
	names = strings.Join(all, ", ")
	return names, "(SELECT " + strings.Join(
		stored,
		", ",
	) + " FROM unnest(" + strings.Join(
		arrays,
		", ",
	) + ") AS u (" + names + ")) AS t"
}

func insertPages(columns []pageColumn) string {
	names, table := sent(columns)
	return "INSERT INTO pages (" + names + ") SELECT " + names + " FROM " + table
}

func updatePages(columns []pageColumn) string {
	_, table := sent(columns)
	sets := make([]string, len(columns)-1)
	for i, c := range columns[1:] {
		sets[i] = c.name + " = t." + c.name
	}
	return "UPDATE pages p SET " + strings.Join(sets, ", ") + " FROM " + table + " WHERE p.id = t.id"
}

func sendPages(
	ctx context.Context,
	tx *sqlx.Tx,
	columns []pageColumn,
	statement func([]pageColumn) string,
	pages []*site.Page,
) error {
	values := make([]any, len(columns))
	for i, c := range columns {
		values[i] = c.values(pages)
	}
	_, err := tx.ExecContext(ctx, statement(columns), values...)
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
			ids, seqs, parents = append(
				ids,
				int64(p.ID),
			), append(
				seqs,
				int64(known+i),
			), append(
				parents,
				int64(spell.Parent),
			)
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
	if _, err := tx.ExecContext(ctx, `INSERT INTO publications (revision, at, account_id, by_name, said, sentences, draft, planned)
		VALUES ($1, $2, nullif($3, 0), $4, $5, $6, $7, $8)`, revision, at, n.by.ID, n.by.Name, n.said, words, n.draft, timeOrNull(n.planned)); err != nil {
		return fmt.Errorf("write history: %w", err)
	}
	for from := 0; from < len(ops); from += batch {
		forms, err := encodeOps(ops[from:min(from+batch, len(ops))])
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO publication_ops (revision, seq, ops) VALUES ($1, $2, $3)`, revision, from/batch, string(forms)); err != nil {
			return fmt.Errorf("write history: %w", err)
		}
	}
	return nil
}
