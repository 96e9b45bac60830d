package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/alexedwards/argon2id"
	"github.com/jmoiron/sqlx"
)

// An Account is a person who can sign in.
type Account struct {
	ID    int64
	Login string
	Name  string
	Roles []string // keys, sorted, without what they include
}

// ErrSignIn does not say whether the name or the password was wrong.
var ErrSignIn = errors.New("the name or the password is not right")

// Argon2id with the second recommended option of RFC 9106 §4: 3 passes over 64 MiB in 4 lanes; from memory.
var hashing = &argon2id.Params{Memory: 64 * 1024, Iterations: 3, Parallelism: 4, SaltLength: 16, KeyLength: 32}

// hashers lets two hashes be computed at a time, which bounds the memory that sign-ins can take.
var hashers = make(chan struct{}, 2)

// PasswordMinimum is the least length of a password, in bytes.
const PasswordMinimum = 10

// AddAccount makes an account. The login is lower-cased.
func (st *Store) AddAccount(ctx context.Context, login, name, password string, roles []string) (Account, error) {
	login = strings.ToLower(strings.TrimSpace(login))
	switch {
	case login == "" || strings.ContainsAny(login, " \t\n"):
		return Account{}, errors.New("a sign-in name needs at least one character and no spaces")
	case len(password) < PasswordMinimum:
		return Account{}, fmt.Errorf("a password needs at least %d characters", PasswordMinimum)
	}
	hashers <- struct{}{}
	hash, err := argon2id.CreateHash(password, hashing)
	<-hashers
	if err != nil {
		return Account{}, fmt.Errorf("hash the password: %w", err)
	}
	a := Account{Login: login, Name: name, Roles: roles}
	err = st.inTx(ctx, func(tx *sqlx.Tx) error {
		err := tx.GetContext(ctx, &a.ID, `INSERT INTO accounts (login, name, password) VALUES ($1, $2, $3)
			ON CONFLICT (login) DO NOTHING RETURNING id`, login, name, hash)
		if errors.Is(err, sql.ErrNoRows) {
			return fmt.Errorf("there is an account “%s” already", login)
		}
		if err != nil {
			return err
		}
		for _, role := range roles {
			if _, err := tx.ExecContext(ctx, `INSERT INTO account_roles (account_id, role) VALUES ($1, $2)`, a.ID, role); err != nil {
				return fmt.Errorf("give the role “%s”; is there one of that name? %w", role, err)
			}
		}
		return nil
	})
	return a, err
}

// SetName changes how a person is called.
func (st *Store) SetName(ctx context.Context, account int64, name string) error {
	if _, err := st.db.ExecContext(ctx, `UPDATE accounts SET name = $2 WHERE id = $1`, account, name); err != nil {
		return fmt.Errorf("write the name: %w", err)
	}
	return nil
}

// SetPassword changes a password for who knows the old one; ErrSignIn if that is not right.
func (st *Store) SetPassword(ctx context.Context, a Account, old, password string) error {
	if len(password) < PasswordMinimum {
		return fmt.Errorf("a password needs at least %d characters", PasswordMinimum)
	}
	if _, err := st.Authenticate(ctx, a.Login, old); err != nil {
		return err
	}
	hashers <- struct{}{}
	hash, err := argon2id.CreateHash(password, hashing)
	<-hashers
	if err != nil {
		return fmt.Errorf("hash the password: %w", err)
	}
	if _, err := st.db.ExecContext(ctx, `UPDATE accounts SET password = $2 WHERE id = $1`, a.ID, hash); err != nil {
		return fmt.Errorf("write the password: %w", err)
	}
	return nil
}

// Authenticate checks a name and password. An unknown name costs as much time as a wrong password.
func (st *Store) Authenticate(ctx context.Context, login, password string) (Account, error) {
	var row struct {
		ID       int64  `db:"id"`
		Password string `db:"password"`
	}
	err := st.db.GetContext(ctx, &row, `SELECT id, password FROM accounts WHERE login = $1`, strings.ToLower(strings.TrimSpace(login)))
	unknown := errors.Is(err, sql.ErrNoRows)
	if err != nil && !unknown {
		return Account{}, fmt.Errorf("the database does not answer: %w", err)
	}
	hashers <- struct{}{}
	defer func() { <-hashers }()
	if unknown {
		_, _ = argon2id.CreateHash(password, hashing)
		return Account{}, ErrSignIn
	}
	if match, err := argon2id.ComparePasswordAndHash(password, row.Password); err != nil || !match {
		return Account{}, ErrSignIn
	}
	return st.Account(ctx, row.ID)
}

// Account finds an account by id; sql.ErrNoRows if there is none.
func (st *Store) Account(ctx context.Context, id int64) (Account, error) {
	return account(ctx, st.db, id)
}

func account(ctx context.Context, q sqlx.QueryerContext, id int64) (Account, error) {
	var row struct {
		Login string `db:"login"`
		Name  string `db:"name"`
		Roles string `db:"roles"`
	}
	err := sqlx.GetContext(ctx, q, &row, `SELECT login, name,
		coalesce((SELECT string_agg(role, ' ' ORDER BY role) FROM account_roles WHERE account_id = a.id), '') AS roles
		FROM accounts a WHERE id = $1`, id)
	if err != nil {
		return Account{}, fmt.Errorf("read account %d: %w", id, err)
	}
	return Account{id, row.Login, row.Name, words[string](row.Roles)}, nil
}

// RoleSets gives the role sets that accounts hold, most held first.
func (st *Store) RoleSets(ctx context.Context) ([][]string, error) { return heldRoleSets(ctx, st.db) }

func heldRoleSets(ctx context.Context, q sqlx.QueryerContext) ([][]string, error) {
	var rows []string
	err := sqlx.SelectContext(ctx, q, &rows, `SELECT roles FROM (
		SELECT account_id, string_agg(role, ' ' ORDER BY role) AS roles FROM account_roles GROUP BY account_id) held
		GROUP BY roles ORDER BY count(*) DESC, roles`)
	if err != nil {
		return nil, fmt.Errorf("read role sets: %w", err)
	}
	sets := make([][]string, len(rows))
	for i, row := range rows {
		sets[i] = words[string](row)
	}
	return sets, nil
}

func words[T ~string](joined string) []T {
	var list []T
	for _, word := range strings.Fields(joined) {
		list = append(list, T(word))
	}
	return slices.Clip(list)
}

// AccountByLogin finds an account by its sign-in name.
func (st *Store) AccountByLogin(ctx context.Context, login string) (Account, error) {
	var id int64
	err := st.db.GetContext(ctx, &id, `SELECT id FROM accounts WHERE login = $1`, strings.ToLower(login))
	if errors.Is(err, sql.ErrNoRows) {
		return Account{}, fmt.Errorf("there is no account “%s”", login)
	}
	if err != nil {
		return Account{}, fmt.Errorf("read account: %w", err)
	}
	return st.Account(ctx, id)
}
