package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/edit"
)

// A Claim is what the organisation says of somebody who signs in with its account (OpenID Connect Core, 2 and 5.1). Who
// they are is issuer and subject, never an address.
type Claim struct {
	Issuer, Subject    string
	Login, Name, Email string
	Groups             []string
}

// SignInOutside gives the account of somebody for whom the organisation vouches; at the first time one is made. Roles
// by groups are replaced, those given by hand stay. A group that nobody mapped gives nothing.
func (st *Store) SignInOutside(ctx context.Context, c Claim) (Account, error) {
	var id int64
	err := st.inTx(ctx, func(tx *sqlx.Tx) error {
		var disabled bool
		err := tx.QueryRowxContext(ctx, `SELECT id, disabled_at IS NOT NULL FROM accounts
			WHERE issuer = $1 AND subject = $2`, c.Issuer, c.Subject).Scan(&id, &disabled)
		switch {
		case errors.Is(err, sql.ErrNoRows):
			if id, err = makeOutside(ctx, tx, c); err != nil {
				return err
			}
		case err != nil:
			return fmt.Errorf("find the account: %w", err)
		case disabled:
			return ErrDisabled
		}
		if _, err := tx.ExecContext(ctx, `DELETE FROM mapped_roles WHERE account_id = $1`, id); err != nil {
			return fmt.Errorf("replace the roles: %w", err)
		}
		_, err = tx.ExecContext(ctx, `INSERT INTO mapped_roles (account_id, role)
			SELECT DISTINCT $1::bigint, g.role FROM group_roles g JOIN roles r ON r.key = g.role AND NOT r.gone
			WHERE outside = ANY ($2)`, id, c.Groups)
		if err != nil {
			return fmt.Errorf("replace the roles: %w", err)
		}
		return nil
	})
	if err != nil {
		return Account{}, err
	}
	return st.Account(ctx, id)
}

// makeOutside makes an account under a name that is free, whatever the organisation calls it.
func makeOutside(ctx context.Context, tx *sqlx.Tx, c Claim) (id int64, err error) {
	login := lowered(c.Login)
	name := strings.Join(strings.Fields(strings.ToValidUTF8(c.Name, "")), " ")
	if utf8.RuneCountInString(name) > 120 || name == "" {
		name = login
	}
	if CheckLogin(login, name) != nil {
		login, name = "member", "A member"
	}
	email, err := CheckAddress(c.Email)
	if err != nil {
		email = ""
	}
	for n := 1; n < 1000; n++ {
		free := login
		if n > 1 {
			free = fmt.Sprintf("%s-%d", login, n)
		}
		err = tx.GetContext(ctx, &id, `INSERT INTO accounts (login, name, password, email, issuer, subject)
			VALUES ($1, $2, '', $3, $4, $5) ON CONFLICT (login) DO NOTHING RETURNING id`, free, name, email, c.Issuer,
			c.Subject)
		if err == nil {
			const said = "signed in for the first time, with the organisation's account"
			return id, record(ctx, tx, Account{ID: id, Name: name}, said)
		}
		if !errors.Is(err, sql.ErrNoRows) {
			return 0, fmt.Errorf("make the account: %w", err)
		}
	}
	return 0, errors.New("there is no free sign-in name")
}

// ErrLinkedElsewhere is an account of the organisation that somebody else has here.
var ErrLinkedElsewhere = errors.New("this account of the organisation belongs to somebody else here")

// LinkOutside has an account that has a password here be one of the organisation's too.
func (st *Store) LinkOutside(ctx context.Context, a Account, c Claim) error {
	return st.inTx(ctx, func(tx *sqlx.Tx) error {
		var taken bool
		if err := tx.GetContext(ctx, &taken, `SELECT EXISTS (SELECT FROM accounts WHERE issuer = $1 AND subject = $2
			AND id <> $3)`, c.Issuer, c.Subject, a.ID); err != nil {
			return fmt.Errorf("link the account: %w", err)
		}
		if taken {
			return ErrLinkedElsewhere
		}
		if _, err := tx.ExecContext(ctx, `UPDATE accounts SET issuer = $2, subject = $3 WHERE id = $1`, a.ID, c.Issuer,
			c.Subject); err != nil {
			return fmt.Errorf("link the account: %w", err)
		}
		return record(ctx, tx, a, "linked their account with the organisation's")
	})
}

// A Mapping gives the members of a group of the organisation a role.
type Mapping struct {
	Group string `db:"outside"`
	Role  string `db:"role"`
}

// Mappings lists the groups whose members have roles, by name.
func (st *Store) Mappings(ctx context.Context) ([]Mapping, error) {
	var all []Mapping
	err := st.db.SelectContext(ctx, &all, `SELECT outside, role FROM group_roles ORDER BY outside, role`)
	if err != nil {
		return nil, fmt.Errorf("list the groups: %w", err)
	}
	return all, nil
}

// Map gives the members of a group a role, or no longer, in the name of who may give it.
func (st *Store) Map(ctx context.Context, by Account, group, role string, on bool) error {
	group = strings.TrimSpace(group)
	switch {
	case group == "" || len(group) > 200 || !isClean(group):
		return &edit.Refusal{Sentence: "A group has a name, as the organisation calls it."}
	case st.Published().Site.Role(role) == nil:
		return &edit.Refusal{Sentence: "Choose a role for the group."}
	}
	if err := st.mayGive(by, role); err != nil {
		return err
	}
	return st.inTx(ctx, func(tx *sqlx.Tx) error {
		query, said := `INSERT INTO group_roles VALUES ($1, $2) ON CONFLICT DO NOTHING`, "gave the group “%s” the role %s"
		if !on {
			query, said = `DELETE FROM group_roles WHERE outside = $1 AND role = $2`, "took from the group “%s” the role %s"
		}
		if _, err := tx.ExecContext(ctx, query, group, role); err != nil {
			return fmt.Errorf("map the group: %w", err)
		}
		return record(ctx, tx, by, fmt.Sprintf(said, group, role))
	})
}

// byHand leaves out the roles that an account has by a group alone.
func byHand(ctx context.Context, tx *sqlx.Tx, account int64, roles []string) ([]string, error) {
	var mapped []string
	err := tx.SelectContext(ctx, &mapped, `SELECT role FROM mapped_roles WHERE account_id = $1
		EXCEPT SELECT role FROM account_roles WHERE account_id = $1`, account)
	if err != nil {
		return nil, fmt.Errorf("read the roles: %w", err)
	}
	return slices.DeleteFunc(slices.Clone(roles), func(role string) bool { return slices.Contains(mapped, role) }), nil
}
