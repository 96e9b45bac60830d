package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/clock"
	"vineladder/internal/core/count"
	"vineladder/internal/core/detail"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/site"
)

// A DraftLine is a draft in the list of those that somebody may open.
type DraftLine struct {
	ID        int64        `db:"id"`
	Name      string       `db:"name"`
	Owner     int64        `db:"owner_id"`
	OwnerName string       `db:"owner_name"`
	Edits     int          `db:"edits"`
	Planned   sql.NullTime `db:"publish_at"`
	Trouble   string       `db:"trouble"`
	People    string       `db:"people"`   // names of those who share it
	Asked     sql.NullTime `db:"asked_at"` // since when approval is asked for
	Answer    string       `db:"answer"`   // with what it was sent back
}

// DraftsOf lists the drafts that an account may open: its own first, by name.
func (st *Store) DraftsOf(ctx context.Context, account int64) ([]DraftLine, error) {
	var lines []DraftLine
	err := st.db.SelectContext(
		ctx,
		&lines,
		`SELECT d.id, d.name, d.owner_id, a.name AS owner_name, d.publish_at, d.trouble,
			(SELECT asked_at FROM approvals p WHERE p.draft_id = d.id AND p.answered_at IS NULL) AS asked_at,
			coalesce((SELECT answer FROM approvals p WHERE p.draft_id = d.id), '') AS answer,
			(SELECT count(*) FROM draft_steps s WHERE s.draft_id = d.id AND s.state = 'done') AS edits,
			coalesce((SELECT string_agg(b.name, ', ' ORDER BY b.name) FROM draft_people p JOIN accounts b ON b.id = p.account_id
				WHERE p.draft_id = d.id), '') AS people
		FROM drafts d JOIN accounts a ON a.id = d.owner_id
		WHERE d.thrown_at IS NULL AND (d.owner_id = $1 OR d.id IN (SELECT draft_id FROM draft_people WHERE account_id = $1))
		ORDER BY d.owner_id <> $1, d.name <> $2, d.name, d.id`,
		account,
		MyChangesName,
	)
	if err != nil {
		return nil, fmt.Errorf("list drafts: %w", err)
	}
	return lines, nil
}

// MyChangesName is the name of the draft that everybody has for themselves.
const MyChangesName = "My changes"

// draftNameLimit is the length of the longest name of a draft, in characters.
const draftNameLimit = 80

func draftName(name string) (string, error) {
	name = strings.Join(strings.Fields(strings.ToValidUTF8(name, "")), " ")
	switch {
	case name == "":
		return "", &edit.Refusal{Sentence: "A draft needs a name."}
	case utf8.RuneCountInString(name) > draftNameLimit:
		return "", &edit.Refusal{
			Sentence: fmt.Sprintf("A draft's name can have %d characters at most.", draftNameLimit),
		}
	}
	return name, nil
}

// NewDraft makes a draft of a name that its owner has no other of.
func (st *Store) NewDraft(ctx context.Context, owner Account, name string) (id int64, err error) {
	if name, err = draftName(name); err != nil {
		return 0, err
	}
	err = st.db.GetContext(ctx, &id, `INSERT INTO drafts (owner_id, name) VALUES ($1, $2)
		ON CONFLICT (owner_id, name) WHERE thrown_at IS NULL DO NOTHING RETURNING id`, owner.ID, name)
	if errors.Is(err, sql.ErrNoRows) {
		return 0, &edit.Refusal{Sentence: fmt.Sprintf("You have a draft “%s” already.", name)}
	}
	if err != nil {
		return 0, fmt.Errorf("make a draft: %w", err)
	}
	return id, nil
}

// settle changes what a draft is, not what is in it, under its lock; only its owner may.
func (st *Store) settle(ctx context.Context, id int64, by Account, do func(*sqlx.Tx, *Draft) error) error {
	return st.inTx(ctx, func(tx *sqlx.Tx) error {
		d, err := st.lockDraft(ctx, tx, id, st.published.Load())
		switch {
		case err != nil:
			return err
		case !d.IsFor(by.ID):
			return ErrNoDraft
		case d.Owner != by.ID:
			return &edit.Refusal{Sentence: fmt.Sprintf("Only %s, whose draft this is, can do that.", d.OwnerName)}
		}
		if err := do(tx, d); err != nil {
			return err
		}
		if _, err = tx.ExecContext(ctx, `UPDATE drafts SET version = version + 1 WHERE id = $1`, id); err != nil {
			return err
		}
		return tellDraft(ctx, tx, id)
	})
}

// Share lets somebody else see and change a draft, or no longer.
func (st *Store) Share(ctx context.Context, id int64, by Account, with int64, on bool) error {
	return st.settle(ctx, id, by, func(tx *sqlx.Tx, d *Draft) error {
		if with == d.Owner {
			return &edit.Refusal{Sentence: "The draft is yours already."}
		}
		query := `DELETE FROM draft_people WHERE draft_id = $1 AND account_id = $2`
		if on {
			query = `INSERT INTO draft_people VALUES ($1, $2) ON CONFLICT DO NOTHING`
		}
		_, err := tx.ExecContext(ctx, query, id, with)
		return err
	})
}

// HandOver makes a draft somebody else's; the owner until now goes on sharing it.
func (st *Store) HandOver(ctx context.Context, id int64, by Account, to Account) error {
	return st.settle(ctx, id, by, func(tx *sqlx.Tx, d *Draft) error {
		if d.Name == MyChangesName {
			return &edit.Refusal{
				Sentence: "“My changes” is yours alone; give it a name of its own first, then hand it over.",
			}
		}
		var taken bool
		if err := tx.GetContext(ctx, &taken, `SELECT EXISTS (SELECT FROM drafts WHERE owner_id = $1 AND name = $2 AND
			thrown_at IS NULL)`, to.ID, d.Name); err != nil {
			return err
		}
		if taken {
			return &edit.Refusal{
				Sentence: fmt.Sprintf("%s has a draft “%s” already; rename this one first.", to.Name, d.Name),
			}
		}
		if _, err := tx.ExecContext(ctx, `UPDATE drafts SET owner_id = $2 WHERE id = $1`, id, to.ID); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM draft_people WHERE draft_id = $1 AND account_id = $2`, id,
			to.ID); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `INSERT INTO draft_people VALUES ($1, $2) ON CONFLICT DO NOTHING`, id,
			by.ID); err != nil {
			return err
		}
		return record(ctx, tx, by, fmt.Sprintf("handed the draft “%s” over to %s", d.Name, to.Name))
	})
}

// Rename gives a draft another name. “My changes”, renamed, becomes a named draft, and a new one is there when it is
// asked for.
func (st *Store) Rename(ctx context.Context, id int64, by Account, name string) error {
	name, err := draftName(name)
	if err != nil {
		return err
	}
	return st.settle(ctx, id, by, func(tx *sqlx.Tx, d *Draft) error {
		var taken bool
		if err := tx.GetContext(ctx, &taken, `SELECT EXISTS (SELECT FROM drafts
			WHERE owner_id = $1 AND name = $2 AND id <> $3 AND thrown_at IS NULL)`, by.ID, name, id); err != nil {
			return err
		}
		if taken {
			return &edit.Refusal{Sentence: fmt.Sprintf("You have a draft “%s” already.", name)}
		}
		_, err := tx.ExecContext(ctx, `UPDATE drafts SET name = $2 WHERE id = $1`, id, name)
		return err
	})
}

// ThrowAway closes a draft without publishing it. Its log stays in the database, and Fetch brings it back.
func (st *Store) ThrowAway(ctx context.Context, id int64, by Account) error {
	return st.settle(ctx, id, by, func(tx *sqlx.Tx, d *Draft) error {
		if err := closeDraft(ctx, tx, id); err != nil {
			return err
		}
		return record(
			ctx,
			tx,
			by,
			fmt.Sprintf("threw the draft “%s” away, with %s", d.Name, count.Of(len(d.Steps), "edit", "edits")),
		)
	})
}

// Fetch brings a draft back that its owner threw away; if its name is taken by now, with another one.
func (st *Store) Fetch(ctx context.Context, id int64, by Account) error {
	done, err := st.db.ExecContext(ctx, `UPDATE drafts d SET thrown_at = NULL, version = version + 1, name = CASE
			WHEN EXISTS (SELECT FROM drafts e WHERE e.owner_id = d.owner_id AND e.name = d.name AND e.thrown_at IS NULL)
			THEN d.name || ' (' || d.id || ')' ELSE d.name END
		WHERE id = $1 AND owner_id = $2 AND thrown_at IS NOT NULL`, id, by.ID)
	if err != nil {
		return fmt.Errorf("bring the draft back: %w", err)
	}
	if n, _ := done.RowsAffected(); n == 0 {
		return ErrNoDraft
	}
	return nil
}

// Plan sets a draft to be published at a moment, with the rights of the person who says so (rules 9.5); a zero moment
// takes that back. The rights are looked at now, and again when it is due.
func (st *Store) Plan(ctx context.Context, id int64, by Account, at time.Time) error {
	err := st.inTx(ctx, func(tx *sqlx.Tx) error {
		d, err := st.lockDraft(ctx, tx, id, st.published.Load())
		switch {
		case err != nil:
			return err
		case !d.IsFor(by.ID):
			return ErrNoDraft
		}
		var when *time.Time
		var who *int64
		if !at.IsZero() {
			if err := mayPublish(ctx, tx, d, by, ""); err != nil {
				return err
			}
			when, who = &at, &by.ID
		}
		_, err = tx.ExecContext(
			ctx,
			`UPDATE drafts SET publish_at = $2, planned_by = $3, retry_at = NULL, attempts = 0, trouble = '',
				version = version + 1 WHERE id = $1`,
			id,
			when,
			who,
		)
		if err != nil {
			return fmt.Errorf("plan the draft: %w", err)
		}
		if _, err = tx.ExecContext(ctx, `SELECT pg_notify($1, '')`, plannedChannel); err != nil {
			return err
		}
		return tellDraft(ctx, tx, id)
	})
	st.wake()
	return err
}

// mayPublish says why a draft can't be published by somebody; nil if it can. It is asked whichever way the draft is
// published.
func mayPublish(ctx context.Context, tx *sqlx.Tx, d *Draft, by Account, alone string) error {
	if len(d.Held) > 0 {
		return ErrHeld
	}
	if !slices.ContainsFunc(d.Steps, func(step Step) bool { return len(step.Ops) > 0 }) {
		return ErrNothing
	}
	lines, err := accountLines(ctx, tx)
	if err != nil {
		return err
	}
	switch answer := publishable(d, by, lines); {
	case answer.Yes:
	case answer.Alone && alone != "":
		if err := record(ctx, tx, by, "published without a second person, since "+cut(alone, 500)); err != nil {
			return err
		}
	default:
		return &edit.Refusal{Sentence: answer.Why}
	}
	if err := keepsRoles(d.Base.Site, d.Site, lines); err != nil {
		return err
	}
	if said := detail.LosingWords(d.Site, detail.Losing(d.Base.Site, d.Site)); said != "" {
		return &edit.Refusal{Sentence: said}
	}
	return nil
}

// publishable asks whether somebody may publish all of a draft, by the rights that all who edited it hold now.
func publishable(d *Draft, by Account, lines []AccountLine) grant.Answer {
	makers := map[int64][]string{}
	for _, a := range lines {
		if a.Disabled.IsZero() {
			makers[a.ID] = a.Roles
		}
	}
	steps := make([]grant.Made, len(d.Steps))
	for i, step := range d.Steps {
		steps[i] = grant.Made{By: step.By, Ops: step.Ops, Roles: makers[step.By]}
	}
	if answer := grant.MayPublish(d.Base.Site, d.Site, by.Roles, steps, clock.Now()); !answer.Yes {
		return answer
	}
	return grant.MayAlone(d.Base.Site, d.Site, by.ID, by.Roles, steps)
}

// MayPublish says whether somebody may publish all of a draft as it stands.
func (st *Store) MayPublish(ctx context.Context, d *Draft, by Account) (grant.Answer, error) {
	lines, err := st.AccountLines(ctx)
	return publishable(d, by, lines), err
}

// keepsRoles refuses what takes away a role that somebody holds, and what leaves nobody who can keep the site.
func keepsRoles(was, is *site.Site, accounts []AccountLine) error {
	for _, role := range was.Roles() {
		if is.Role(role.Key) != nil {
			continue
		}
		for _, a := range accounts {
			if slices.Contains(a.Roles, role.Key) {
				const held = "The role “%s” can't go: %s holds it. Take it from them first."
				return &edit.Refusal{Sentence: fmt.Sprintf(held, role.Name, a.Name)}
			}
		}
	}
	if keepers(was, accounts) > 0 && keepers(is, accounts) == 0 {
		return &edit.Refusal{Sentence: "After this nobody who can sign in could keep the site and set who sees it."}
	}
	return nil
}

// A Record is something that was done outside drafts and publications.
type Record struct {
	At   time.Time `db:"at"`
	By   string    `db:"by_name"`
	Said string    `db:"said"`
}

// Records gives what was done outside drafts and publications, the newest first.
func (st *Store) Records(ctx context.Context, limit int) ([]Record, error) {
	var records []Record
	if err := st.db.SelectContext(ctx, &records, `SELECT at, by_name, said FROM records ORDER BY id DESC LIMIT $1`,
		limit); err != nil {
		return nil, fmt.Errorf("read the records: %w", err)
	}
	return records, nil
}

// Note writes down what somebody did outside drafts and publications.
func (st *Store) Note(ctx context.Context, by Account, said string) error {
	return st.inTx(ctx, func(tx *sqlx.Tx) error { return record(ctx, tx, by, said) })
}

func record(ctx context.Context, tx *sqlx.Tx, by Account, said string) error {
	if _, err := tx.ExecContext(ctx, `INSERT INTO records (account_id, by_name, said) VALUES (nullif($1, 0), $2, $3)`,
		by.ID, by.Name, said); err != nil {
		return fmt.Errorf("write the record: %w", err)
	}
	return nil
}

// Thrown lists the drafts that somebody threw away, the newest first.
func (st *Store) Thrown(ctx context.Context, account int64, limit int) ([]DraftLine, error) {
	var lines []DraftLine
	err := st.db.SelectContext(ctx, &lines, `SELECT d.id, d.name, d.owner_id, '' AS owner_name, d.trouble, '' AS people,
			(SELECT count(*) FROM draft_steps s WHERE s.draft_id = d.id AND s.state = 'done') AS edits
		FROM drafts d WHERE d.owner_id = $1 AND d.thrown_at IS NOT NULL
			AND (d.parted_from IS NULL OR EXISTS (SELECT FROM draft_steps s WHERE s.draft_id = d.id AND s.state = 'done')) ORDER
				BY d.thrown_at DESC LIMIT $2`, account, limit)
	if err != nil {
		return nil, fmt.Errorf("list drafts: %w", err)
	}
	return lines, nil
}

// People lists every account, by name.
func (st *Store) People(ctx context.Context) ([]Account, error) {
	var rows []struct {
		ID    int64  `db:"id"`
		Login string `db:"login"`
		Name  string `db:"name"`
		Email string `db:"email"`
		Roles string `db:"roles"`
	}
	err := st.db.SelectContext(ctx, &rows, `SELECT id, login, name, email,
		coalesce((SELECT string_agg(role, ' ' ORDER BY role) FROM held_roles WHERE account_id = a.id), '') AS roles
		FROM accounts a WHERE disabled_at IS NULL ORDER BY name, id`)
	if err != nil {
		return nil, fmt.Errorf("list accounts: %w", err)
	}
	people := make([]Account, len(rows))
	for i, row := range rows {
		people[i] = Account{ID: row.ID, Login: row.Login, Name: row.Name, Email: row.Email, Roles: words[string](row.Roles)}
	}
	return people, nil
}

// NamesOf gives the names of those who sign in by some names, gone ones too.
func (st *Store) NamesOf(ctx context.Context, logins ...string) (map[string]string, error) {
	var rows []struct {
		Login string `db:"login"`
		Name  string `db:"name"`
	}
	if err := st.db.SelectContext(ctx, &rows, `SELECT login, name FROM accounts WHERE login = ANY ($1)`, logins); err != nil {
		return nil, fmt.Errorf("read names: %w", err)
	}
	names := make(map[string]string, len(rows))
	for _, row := range rows {
		names[row.Login] = row.Name
	}
	return names, nil
}
