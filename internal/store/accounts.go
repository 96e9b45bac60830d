package store

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/grant"
	"vineladder/internal/core/site"
)

// An AccountLine is an account in the list of all.
type AccountLine struct {
	Account
	Disabled time.Time // zero: it can sign in
	Invited  bool      // it has no password yet
}

// AccountLines lists all accounts by sign-in name, disabled ones among them.
func (st *Store) AccountLines(ctx context.Context) ([]AccountLine, error) {
	return accountLines(ctx, st.db)
}

func accountLines(ctx context.Context, q sqlx.QueryerContext) ([]AccountLine, error) {
	var rows []struct {
		ID       int64      `db:"id"`
		Login    string     `db:"login"`
		Name     string     `db:"name"`
		Disabled *time.Time `db:"disabled_at"`
		Roles    string     `db:"roles"`
		Email    string     `db:"email"`
		Sure     bool       `db:"confirmed"`
		Invited  bool       `db:"invited"`
		Second   bool       `db:"second"`
		Outside  bool       `db:"outside"`
	}
	err := sqlx.SelectContext(ctx, q, &rows, `SELECT id, login, name, disabled_at, email, confirmed,
		password = '' AS invited, totp <> '' AS second, issuer <> '' AS outside,
		coalesce((SELECT string_agg(role, ' ' ORDER BY role) FROM held_roles WHERE account_id = a.id), '') AS roles
		FROM accounts a ORDER BY login`)
	if err != nil {
		return nil, fmt.Errorf("list accounts: %w", err)
	}
	lines := make([]AccountLine, len(rows))
	for i, row := range rows {
		lines[i].Account = Account{
			ID: row.ID, Login: row.Login, Name: row.Name, Roles: words[string](row.Roles), Email: row.Email,
			Confirmed: row.Sure, Second: row.Second, Outside: row.Outside,
		}
		lines[i].Invited = row.Invited
		if row.Disabled != nil {
			lines[i].Disabled = *row.Disabled
		}
	}
	return lines, nil
}

// ErrLastKeeper is a change after which nobody could keep the site and set who sees it.
var ErrLastKeeper = errors.New(
	"nobody else who can sign in may keep the site and set who sees it; give these rights to another account first",
)

// Disable keeps an account from signing in and ends its sessions.
func (st *Store) Disable(ctx context.Context, login string) error {
	return st.changeAccount(ctx, login, func(tx *sqlx.Tx, id int64) error {
		_, err := tx.ExecContext(
			ctx,
			`UPDATE accounts SET disabled_at = coalesce(disabled_at, now()), epoch = epoch + 1 WHERE id = $1`,
			id,
		)
		return err
	})
}

// Enable lets an account sign in again.
func (st *Store) Enable(ctx context.Context, login string) error {
	return st.changeAccount(ctx, login, func(tx *sqlx.Tx, id int64) error {
		_, err := tx.ExecContext(ctx, `UPDATE accounts SET disabled_at = NULL WHERE id = $1`, id)
		return err
	})
}

// SetRoles gives an account just these roles.
func (st *Store) SetRoles(ctx context.Context, login string, roles []string) error {
	if err := st.knowRoles(roles); err != nil {
		return err
	}
	return st.changeAccount(ctx, login, func(tx *sqlx.Tx, id int64) error {
		if _, err := tx.ExecContext(ctx, `DELETE FROM account_roles WHERE account_id = $1`, id); err != nil {
			return err
		}
		return giveRoles(ctx, tx, id, roles)
	})
}

// changeAccount changes one account, unless nobody would be left who can keep the site.
func (st *Store) changeAccount(ctx context.Context, login string, change func(*sqlx.Tx, int64) error) error {
	var id int64
	defer func() { st.members.forgetAccount(id) }()
	return st.inTx(ctx, func(tx *sqlx.Tx) error {
		if _, err := tx.ExecContext(ctx, `LOCK TABLE accounts, account_roles IN SHARE ROW EXCLUSIVE MODE`); err != nil {
			return fmt.Errorf("lock the accounts: %w", err)
		}
		before, err := accountLines(ctx, tx)
		if err != nil {
			return err
		}
		at := slices.IndexFunc(before, func(a AccountLine) bool { return a.Login == lowered(login) })
		if at < 0 {
			return noAccount(login)
		}
		id = before[at].ID
		if err := change(tx, id); err != nil {
			return fmt.Errorf("change the account: %w", err)
		}
		after, err := accountLines(ctx, tx)
		if err != nil {
			return err
		}
		on := st.Published().Site
		if keepers(on, before) > 0 && keepers(on, after) == 0 {
			return ErrLastKeeper
		}
		return nil
	})
}

// keepers counts the accounts that can sign in, keep the site and set who sees it.
func keepers(on *site.Site, accounts []AccountLine) int {
	n := 0
	for _, a := range accounts {
		h := grant.Holding(on, a.Roles)
		keeps := h.Through(site.ActionKeep, site.SiteThing) != nil && h.Through(site.ActionAdmit, site.SiteThing) != nil
		if a.Disabled.IsZero() && !a.Invited && keeps {
			n++
		}
	}
	return n
}
