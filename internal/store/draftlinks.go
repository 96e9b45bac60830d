package store

import (
	"context"
	"database/sql"
	"fmt"
	"strings"
	"time"

	"vineladder/internal/clock"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/typed"
)

// A DraftLink is a link by which somebody without an account looks at a draft.
type DraftLink struct {
	ID      int64
	Draft   int64
	Name    string // of the draft
	Account int64  // who shows it
	By      string
	grant.Shown
}

// ShowDraft makes a link to a draft, within the bounds of grant.Shown. It is recorded.
func (st *Store) ShowDraft(ctx context.Context, by Account, draft int64, ask grant.Shown) (id int64, err error) {
	beside, err := st.LinksTo(ctx, draft)
	if err != nil {
		return 0, err
	}
	l, err := ask.Allow(clock.Now(), len(beside))
	if err != nil {
		return 0, err
	}
	if err := st.db.GetContext(ctx, &id, `INSERT INTO draft_links (draft_id, account_id, reader, ends_at, signed_in, roles)
		VALUES ($1, $2, $3, $4, $5, $6) RETURNING id`, draft, by.ID, l.Reader, l.Ends, l.As.SignedIn,
		append([]string{}, l.As.Roles...)); err != nil {
		return 0, fmt.Errorf("make a link to a draft: %w", err)
	}
	about := fmt.Sprintf("draft %d to %s until %s", draft, l.Reader, l.Ends.UTC().Format(time.DateOnly))
	return id, st.Audit(ctx, AuditLine{What: "draft shown by a link", Account: by.Login, About: about})
}

// LinksTo gives the links to a draft that still show it, the oldest first.
func (st *Store) LinksTo(ctx context.Context, draft int64) ([]DraftLink, error) {
	return st.links(ctx, `l.draft_id = $1`, draft)
}

// DraftLink gives a link that still shows its draft; sql.ErrNoRows for one that does not: it was ended, its day is
// over, who made it has no account any more, or the draft was thrown away.
func (st *Store) DraftLink(ctx context.Context, id int64) (DraftLink, error) {
	all, err := st.links(ctx, `l.id = $1`, id)
	if err == nil && len(all) == 0 {
		err = sql.ErrNoRows
	}
	if err != nil {
		return DraftLink{}, err
	}
	return all[0], nil
}

func (st *Store) links(ctx context.Context, which string, id int64) ([]DraftLink, error) {
	var rows []struct {
		ID       int64     `db:"id"`
		Draft    int64     `db:"draft_id"`
		Name     string    `db:"draft"`
		Account  int64     `db:"account_id"`
		By       string    `db:"name"`
		Reader   string    `db:"reader"`
		Ends     time.Time `db:"ends_at"`
		SignedIn bool      `db:"signed_in"`
		Roles    string    `db:"roles"`
	}
	if err := st.db.SelectContext(ctx, &rows, `SELECT l.id, l.draft_id, d.name AS draft, l.account_id, a.name, l.reader,
			l.ends_at, l.signed_in, array_to_string(l.roles, ' ') AS roles
		FROM draft_links l JOIN drafts d ON d.id = l.draft_id JOIN accounts a ON a.id = l.account_id
		WHERE `+which+` AND l.ends_at > $2 AND a.disabled_at IS NULL AND d.thrown_at IS NULL ORDER BY l.id`,
		id, clock.Now()); err != nil {
		return nil, fmt.Errorf("read the links to a draft: %w", err)
	}
	links := make([]DraftLink, len(rows))
	for i, row := range rows {
		links[i] = DraftLink{
			ID: row.ID, Draft: row.Draft, Name: row.Name, Account: row.Account, By: row.By,
			Shown: grant.Shown{
				Reader: row.Reader, Ends: row.Ends,
				As: reach.Visitor{SignedIn: row.SignedIn, Roles: strings.Fields(row.Roles)},
			},
		}
	}
	return links, nil
}

// EndLink ends a link to a draft at once.
func (st *Store) EndLink(ctx context.Context, by Account, draft, id int64) error {
	done, err := st.db.ExecContext(ctx, `DELETE FROM draft_links WHERE id = $1 AND draft_id = $2`, id, draft)
	if err != nil {
		return fmt.Errorf("end a link to a draft: %w", err)
	}
	if n, err := done.RowsAffected(); err != nil || n == 0 {
		return typed.Refuse("This link shows nothing any more.")
	}
	about := fmt.Sprintf("draft %d", draft)
	return st.Audit(ctx, AuditLine{What: "link to a draft ended", Account: by.Login, About: about})
}
