package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"
	"github.com/jmoiron/sqlx"
	"golang.org/x/text/unicode/norm"
)

// An Account is a person who can sign in.
type Account struct {
	ID    int64
	Login string
	Name  string
	Roles []string // keys, sorted, without what they include
	Epoch int      // rises when its sessions end: with its password, and when it is disabled
	// Email is the address to which the program writes; "" for none. Confirmed says that a link sent there was used.
	Email     string
	Confirmed bool
	Outside   bool // the organisation vouches for it
	Second    bool // it asks for a code of a device at sign-in
}

// ErrSignIn does not say whether the name or the password was wrong.
var ErrSignIn = errors.New("the name or the password is not right")

// A BadName says why a name will not do.
type BadName struct{ Sentence string }

func (b *BadName) Error() string { return b.Sentence }

// A Taken sign-in name belongs to another account.
type Taken struct{ Login string }

func (t *Taken) Error() string { return fmt.Sprintf("there is an account “%s” already", t.Login) }

// ErrDisabled is an account that may not sign in any more.
var ErrDisabled = errors.New("this account is disabled")

// AddAccount makes an account. The login is lower-cased. What is wrong with login, password or roles is a sentence.
func (st *Store) AddAccount(ctx context.Context, login, name, password string, roles []string) (Account, error) {
	login = lowered(login)
	if err := CheckLogin(login, name); err != nil {
		return Account{}, err
	}
	if err := CheckPassword(login, password); err != nil {
		return Account{}, err
	}
	if err := st.knowRoles(roles); err != nil {
		return Account{}, err
	}
	hash, err := hashPassword(ctx, password)
	if err != nil {
		return Account{}, err
	}
	a := Account{Login: login, Name: name, Roles: roles}
	err = st.inTx(ctx, func(tx *sqlx.Tx) error {
		err := tx.GetContext(ctx, &a.ID, `INSERT INTO accounts (login, name, password) VALUES ($1, $2, $3)
			ON CONFLICT (login) DO NOTHING RETURNING id`, login, name, hash)
		if errors.Is(err, sql.ErrNoRows) {
			return &Taken{login}
		}
		if err != nil {
			return err
		}
		return giveRoles(ctx, tx, a.ID, roles)
	})
	return a, err
}

// lowered is how a sign-in name is kept.
func lowered(login string) string { return strings.ToLower(strings.TrimSpace(login)) }

func isClean(words string) bool {
	return utf8.ValidString(words) &&
		!strings.ContainsFunc(words, func(r rune) bool { return !unicode.IsPrint(r) && r != ' ' })
}

// CheckLogin says what is wrong with a sign-in name, or a person's; nil if nothing is.
func CheckLogin(login, name string) error {
	login = lowered(login)
	switch {
	case login == "" || strings.ContainsAny(login, " \t\n"):
		return &BadName{"A sign-in name needs at least one character and no spaces."}
	case len(login) > 100 || len(name) > 200:
		return &BadName{"A sign-in name can have 100 characters at most, a name 200."}
	case !oneScript(login) || !oneScript(name):
		return &BadName{"The letters of a name are of one script; these could be read as another name."}
	case !isClean(login) || !isClean(name):
		return &BadName{"Names are made of characters that can be seen."}
	}
	return nil
}

// oneScript says whether the letters of a name are all of one script, with those that are written together (Unicode TR
// 39 5.1, the level “highly restrictive”, from memory), so that no name can be drawn like another.
func oneScript(words string) bool {
	for _, together := range [][]*unicode.RangeTable{
		{unicode.Latin, unicode.Han, unicode.Hiragana, unicode.Katakana},
		{unicode.Latin, unicode.Han, unicode.Bopomofo},
		{unicode.Latin, unicode.Han, unicode.Hangul},
		{unicode.Cyrillic},
		{unicode.Greek},
		{unicode.Arabic},
		{unicode.Hebrew},
		{unicode.Armenian},
		{unicode.Georgian},
		{unicode.Devanagari},
		{unicode.Thai},
		{unicode.Ethiopic},
		{unicode.Bengali},
		{unicode.Tamil},
	} {
		if !strings.ContainsFunc(
			words,
			func(r rune) bool { return unicode.IsLetter(r) && !unicode.In(r, together...) },
		) {
			return true
		}
	}
	return false
}

// knowRoles says which of some roles there are not.
func (st *Store) knowRoles(roles []string) error {
	on := st.Published().Site
	for _, key := range roles {
		if on.Role(key) == nil {
			var known []string
			for _, role := range on.Roles() {
				known = append(known, role.Key)
			}
			if len(known) == 0 {
				return fmt.Errorf(
					"there is no role “%s”; this site has no roles yet: set it up with “vineladder init” first",
					key,
				)
			}
			return fmt.Errorf("there is no role “%s”; there are %s", key, strings.Join(known, ", "))
		}
	}
	return nil
}

func giveRoles(ctx context.Context, tx *sqlx.Tx, account int64, roles []string) error {
	if _, err := tx.ExecContext(ctx, `INSERT INTO account_roles (account_id, role) SELECT $1, unnest($2::text[])`, account,
		roles); err != nil {
		return fmt.Errorf("give roles: %w", err)
	}
	return nil
}

// SetName changes how a person is called.
func (st *Store) SetName(ctx context.Context, account int64, name string) error {
	if _, err := st.db.ExecContext(ctx, `UPDATE accounts SET name = $2 WHERE id = $1`, account, name); err != nil {
		return fmt.Errorf("write the name: %w", err)
	}
	return nil
}

// SetPassword changes a password for who knows the old one; ErrSignIn if that is not right, *BadPassword if the new one
// will not do. All sessions of the account end; the account given back is good for a new one.
func (st *Store) SetPassword(ctx context.Context, a Account, old, password string) (Account, error) {
	if err := CheckPassword(a.Login, password); err != nil {
		return a, err
	}
	if _, err := st.Authenticate(ctx, a.Login, old); err != nil {
		return a, err
	}
	return st.ResetPassword(ctx, a, password)
}

// ResetPassword gives an account a password, and ends its sessions.
func (st *Store) ResetPassword(ctx context.Context, a Account, password string) (Account, error) {
	if err := CheckPassword(a.Login, password); err != nil {
		return a, err
	}
	hash, err := hashPassword(ctx, password)
	if err != nil {
		return a, err
	}
	if err := st.db.GetContext(ctx, &a.Epoch, `UPDATE accounts SET password = $2, epoch = epoch + 1 WHERE id = $1
		RETURNING epoch`, a.ID, hash); err != nil {
		return a, fmt.Errorf("write the password: %w", err)
	}
	st.members.forgetAccount(a.ID)
	return a, nil
}

// Authenticate checks a name and password. An unknown name costs as much time as a wrong password, and so does a
// disabled account.
func (st *Store) Authenticate(ctx context.Context, login, password string) (Account, error) {
	var row struct {
		ID       int64  `db:"id"`
		Password string `db:"password"`
	}
	err := st.db.GetContext(
		ctx,
		&row,
		`SELECT id, password FROM accounts WHERE login = $1 AND disabled_at IS NULL`,
		lowered(login),
	)
	unknown := errors.Is(err, sql.ErrNoRows) || row.Password == "" // who was invited has none yet
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return Account{}, fmt.Errorf("the database does not answer: %w", err)
	}
	password = norm.NFKC.String(password)
	match, err := inTurn(ctx, func() (bool, error) {
		if unknown {
			_, err := argon2id.CreateHash(password, hashing)
			return false, err
		}
		return argon2id.ComparePasswordAndHash(password, row.Password)
	})
	switch {
	case errors.Is(err, ErrBusy), errors.Is(err, context.Canceled), errors.Is(err, context.DeadlineExceeded):
		return Account{}, err
	case err != nil || !match:
		return Account{}, ErrSignIn
	}
	return st.Account(ctx, row.ID)
}

// Account finds an account by id; sql.ErrNoRows if there is none, ErrDisabled if it is disabled.
func (st *Store) Account(ctx context.Context, id int64) (Account, error) {
	return account(ctx, st.db, id)
}

func account(ctx context.Context, q sqlx.QueryerContext, id int64) (Account, error) {
	var row struct {
		Login    string `db:"login"`
		Name     string `db:"name"`
		Epoch    int    `db:"epoch"`
		Disabled bool   `db:"disabled"`
		Roles    string `db:"roles"`
		Email    string `db:"email"`
		Sure     bool   `db:"confirmed"`
		Second   bool   `db:"second"`
		Outside  bool   `db:"outside"`
	}
	err := sqlx.GetContext(ctx, q, &row, `SELECT login, name, epoch, email, confirmed, totp <> '' AS second,
		issuer <> '' AS outside, disabled_at IS NOT NULL AS disabled,
		coalesce((SELECT string_agg(role, ' ' ORDER BY role) FROM held_roles WHERE account_id = a.id), '') AS roles
		FROM accounts a WHERE id = $1`, id)
	if err != nil {
		return Account{}, fmt.Errorf("read account %d: %w", id, err)
	}
	a := Account{
		ID: id, Login: row.Login, Name: row.Name, Roles: words[string](row.Roles), Epoch: row.Epoch,
		Email: row.Email, Confirmed: row.Sure, Second: row.Second, Outside: row.Outside,
	}
	if row.Disabled {
		return a, ErrDisabled
	}
	return a, nil
}

// RoleSets gives the role sets that accounts hold, most held first.
func (st *Store) RoleSets(ctx context.Context) ([][]string, error) { return heldRoleSets(ctx, st.db) }

func heldRoleSets(ctx context.Context, q sqlx.QueryerContext) ([][]string, error) {
	var rows []string
	err := sqlx.SelectContext(ctx, q, &rows, `SELECT roles FROM (
		SELECT account_id, string_agg(role, ' ' ORDER BY role) AS roles FROM held_roles GROUP BY account_id) held
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

func noAccount(login string) error {
	return &BadName{fmt.Sprintf("there is no account “%s”", cut(login, 100))}
}

// AccountByLogin finds an account by its sign-in name.
func (st *Store) AccountByLogin(ctx context.Context, login string) (Account, error) {
	var id int64
	err := st.db.GetContext(ctx, &id, `SELECT id FROM accounts WHERE login = $1`, lowered(login))
	if errors.Is(err, sql.ErrNoRows) {
		return Account{}, noAccount(login)
	}
	if err != nil {
		return Account{}, fmt.Errorf("read account: %w", err)
	}
	return st.Account(ctx, id)
}
