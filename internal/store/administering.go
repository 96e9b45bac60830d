package store

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
)

// What is done to accounts in somebody's name: by who may give all that the account holds (rules 8.1).

// mayGive is grant.MayGive for who acts in the program; the operator, who has no account, may give everything.
func (st *Store) mayGive(by Account, roles ...string) error {
	if by.ID == 0 {
		return nil
	}
	if answer := grant.MayGive(st.Published().Site, by.Roles, roles); !answer.Yes {
		return &edit.Refusal{Sentence: answer.Why}
	}
	return nil
}

// ChangePerson changes an account for who may give all that it holds, before and after.
func (st *Store) ChangePerson(
	ctx context.Context, by Account, login, said string, do func(*sqlx.Tx, int64) error,
) error {
	a, err := st.AccountByLogin(ctx, login)
	if err != nil && !errors.Is(err, ErrDisabled) {
		return err
	}
	if err := st.mayGive(by, a.Roles...); err != nil {
		return err
	}
	return st.changeAccount(ctx, login, func(tx *sqlx.Tx, id int64) error {
		if err := do(tx, id); err != nil {
			return err
		}
		return record(ctx, tx, by, fmt.Sprintf(said, a.Name))
	})
}

// SetRolesBy gives an account just these roles, in somebody's name: they may give those that come, and take those that
// go.
func (st *Store) SetRolesBy(ctx context.Context, by Account, login string, roles []string) error {
	if err := st.knowRoles(roles); err != nil {
		return &edit.Refusal{Sentence: err.Error()}
	}
	a, err := st.AccountByLogin(ctx, login)
	if err != nil && !errors.Is(err, ErrDisabled) {
		return err
	}
	for _, key := range slices.Concat(roles, a.Roles) {
		if slices.Contains(roles, key) != slices.Contains(a.Roles, key) {
			if err := st.mayGive(by, key); err != nil {
				return err
			}
		}
	}
	return st.changeAccount(ctx, login, func(tx *sqlx.Tx, id int64) error {
		hand, err := byHand(ctx, tx, id, roles)
		if err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM account_roles WHERE account_id = $1`, id); err != nil {
			return err
		}
		if err := giveRoles(ctx, tx, id, hand); err != nil {
			return err
		}
		return record(ctx, tx, by, fmt.Sprintf("gave %s the roles %s", a.Name, strings.Join(roles, ", ")))
	})
}

// handOver gives somebody's drafts with edits to another, named after whose they were; a name that the other has
// already gets the draft's number.
const handOver = `UPDATE drafts d SET owner_id = $2, version = version + 1,
		name = was.name || CASE WHEN EXISTS (SELECT FROM drafts e
			WHERE e.owner_id = $2 AND e.thrown_at IS NULL AND e.name = was.name) THEN ' (' || d.id || ')' ELSE '' END
	FROM (SELECT d.id, a.name || ': ' || d.name AS name FROM drafts d JOIN accounts a ON a.id = d.owner_id) was
	WHERE was.id = d.id AND owner_id = $1 AND thrown_at IS NULL AND $2 <> 0
		AND EXISTS (SELECT FROM draft_steps s WHERE s.draft_id = d.id AND s.state = 'done')`

// DisableBy keeps an account from signing in, ends its sessions and takes back what it planned; its drafts go to
// somebody else, if one is named.
func (st *Store) DisableBy(ctx context.Context, by Account, login string, heir int64) error {
	return st.ChangePerson(ctx, by, login, "disabled the account of %s", func(tx *sqlx.Tx, id int64) error {
		for _, do := range []struct {
			query string
			args  []any
		}{
			{`UPDATE accounts SET disabled_at = coalesce(disabled_at, now()), epoch = epoch + 1 WHERE id = $1`, []any{id}},
			{`DELETE FROM sessions WHERE account = $1`, []any{id}},
			{
				`UPDATE drafts SET publish_at = NULL, planned_by = NULL, version = version + 1,
				trouble = 'The person who planned it can no longer sign in.' WHERE planned_by = $1 AND publish_at IS NOT NULL`,
				[]any{id},
			},
			{handOver, []any{id, heir}},
		} {
			if _, err := tx.ExecContext(ctx, do.query, do.args...); err != nil {
				return err
			}
		}
		return nil
	})
}

// EnableBy lets an account sign in again.
func (st *Store) EnableBy(ctx context.Context, by Account, login string) error {
	return st.ChangePerson(ctx, by, login, "let %s sign in again", func(tx *sqlx.Tx, id int64) error {
		_, err := tx.ExecContext(ctx, `UPDATE accounts SET disabled_at = NULL WHERE id = $1`, id)
		return err
	})
}

// SignOutBy ends all sessions of an account.
func (st *Store) SignOutBy(ctx context.Context, by Account, login string) error {
	return st.ChangePerson(ctx, by, login, "signed %s out everywhere", func(tx *sqlx.Tx, id int64) error {
		if _, err := tx.ExecContext(ctx, `UPDATE accounts SET epoch = epoch + 1 WHERE id = $1`, id); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `DELETE FROM sessions WHERE account = $1`, id)
		return err
	})
}

// SetAddress gives an account another mail address, which nobody has confirmed yet.
func (st *Store) SetAddress(ctx context.Context, by Account, login, address string) error {
	address, err := CheckAddress(address)
	if err != nil {
		return err
	}
	return st.ChangePerson(ctx, by, login, "changed the mail address of %s", func(tx *sqlx.Tx, id int64) error {
		_, err := tx.ExecContext(ctx, `UPDATE accounts SET email = $2, confirmed = confirmed AND email = $2 WHERE id = $1`,
			id, address)
		return err
	})
}

// A Left is what somebody leaves behind who can no longer sign in.
type Left struct {
	Drafts  int `db:"drafts"`  // with edits
	Planned int `db:"planned"` // publications
	Shared  int `db:"shared"`  // drafts of others
	Signed  int `db:"signed"`  // sessions
}

// Leaves says what an account would leave behind.
func (st *Store) Leaves(ctx context.Context, id int64) (left Left, err error) {
	err = st.db.GetContext(ctx, &left, `SELECT
		(SELECT count(*) FROM drafts d WHERE owner_id = $1 AND thrown_at IS NULL AND EXISTS (SELECT FROM draft_steps s
			WHERE s.draft_id = d.id AND s.state = 'done')) AS drafts,
		(SELECT count(*) FROM drafts WHERE planned_by = $1 AND publish_at IS NOT NULL AND thrown_at IS NULL) AS planned,
		(SELECT count(*) FROM draft_people WHERE account_id = $1) AS shared,
		(SELECT count(*) FROM sessions WHERE account = $1 AND expiry > now()
			AND seen > now() - make_interval(secs => $2)) AS signed`, id, sessionIdle.Seconds())
	if err != nil {
		return left, fmt.Errorf("look what somebody leaves: %w", err)
	}
	return left, nil
}
