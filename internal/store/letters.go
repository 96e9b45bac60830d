package store

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/base64"
	"errors"
	"fmt"
	"net/mail"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/edit"
)

// A Purpose is what a personal link is good for.
type Purpose string

const (
	ForInvitation Purpose = "invitation" // to choose a first password
	ForPassword   Purpose = "password"   // to choose another one
	ForAddress    Purpose = "address"    // to confirm an address
)

// How long links are good for.
const (
	invitationLasts = 7 * 24 * time.Hour
	passwordLasts   = time.Hour
	addressLasts    = 24 * time.Hour
)

// A Letter is something that is to be sent to a person. A link in it is a secret of theirs.
type Letter struct {
	ID        int64          `db:"id"`
	At        time.Time      `db:"at"`
	Account   sql.NullInt64  `db:"account_id"`
	Recipient string         `db:"recipient"`
	Subject   string         `db:"subject"`
	Body      string         `db:"body"`
	HasLink   bool           `db:"has_link"`
	Sent      sql.NullTime   `db:"sent_at"`
	ShownBy   string         `db:"shown_by"`
	Fault     string         `db:"fault"`
	Name      sql.NullString `db:"name"`
}

// CheckAddress gives a mail address as it is kept, or says what is wrong with it (RFC 5322, as net/mail reads it).
func CheckAddress(typed string) (string, error) {
	typed = strings.TrimSpace(typed)
	if typed == "" {
		return "", nil
	}
	at, err := mail.ParseAddress(typed)
	if err != nil || at.Address != typed || len(typed) > 200 {
		return "", &BadName{fmt.Sprintf("“%s” is not a mail address; they look like name@site.example.", cut(typed, 60))}
	}
	return at.Address, nil
}

// Invite makes an account whose owner chooses a password by a link that is good once, for a week. The letter lies in
// the outbox.
func (st *Store) Invite(ctx context.Context, by Account, login, name, address string, roles []string, at string) error {
	login = lowered(login)
	if err := CheckLogin(login, name); err != nil {
		return err
	}
	if strings.TrimSpace(name) == "" {
		return &BadName{"A person needs a name."}
	}
	address, err := CheckAddress(address)
	switch {
	case err != nil:
		return err
	case address == "":
		return &BadName{"An invitation needs a mail address to which it goes."}
	}
	if err := st.knowRoles(roles); err != nil {
		return &edit.Refusal{Sentence: err.Error()}
	}
	if err := st.mayGive(by, roles...); err != nil {
		return err
	}
	return st.inTx(ctx, func(tx *sqlx.Tx) error {
		var id int64
		err := tx.GetContext(ctx, &id, `INSERT INTO accounts (login, name, password, email) VALUES ($1, $2, '', $3)
			ON CONFLICT (login) DO NOTHING RETURNING id`, login, strings.TrimSpace(name), address)
		if errors.Is(err, sql.ErrNoRows) {
			return &BadName{fmt.Sprintf("There is an account “%s” already.", login)}
		}
		if err != nil {
			return fmt.Errorf("make the account: %w", err)
		}
		if err := giveRoles(ctx, tx, id, roles); err != nil {
			return err
		}
		site := st.Published().Site.Settings().Name
		err = st.writeTo(ctx, tx, id, ForInvitation, address, at, Letter{
			Subject: "Your account at " + site,
			Body: fmt.Sprintf("%s has made you an account at %s. Its sign-in name is %s.\n\n"+
				"Choose a password here, within a week:\n\n%%s\n", by.Name, site, login),
		})
		if err != nil {
			return err
		}
		return record(ctx, tx, by, fmt.Sprintf("invited %s (“%s”) as %s", name, login, strings.Join(roles, ", ")))
	})
}

// SendPasswordLink writes somebody a link by which they choose another password, good once and for an hour.
func (st *Store) SendPasswordLink(ctx context.Context, by Account, a Account, at string) error {
	if a.Email == "" {
		return &BadName{fmt.Sprintf("%s has no mail address to which a link could go.", a.Name)}
	}
	if by.ID != a.ID {
		if err := st.mayGive(by, a.Roles...); err != nil {
			return err
		}
	}
	return st.inTx(ctx, func(tx *sqlx.Tx) error {
		err := st.writeTo(ctx, tx, a.ID, ForPassword, a.Email, at, Letter{
			Subject: "Another password for " + st.Published().Site.Settings().Name,
			Body: fmt.Sprintf("Somebody, perhaps you, asked for another password of the account “%s”.\n\n"+
				"Choose it here, within an hour:\n\n%%s\n\nIf you don't need it, leave it be.\n", a.Login),
		})
		if err != nil {
			return err
		}
		return record(ctx, tx, by, "had a link for another password sent to "+a.Name)
	})
}

// writeTo makes a link and puts the letter with it into the outbox. Earlier links for the same are good no more.
func (st *Store) writeTo(
	ctx context.Context, tx *sqlx.Tx, account int64, purpose Purpose, address, at string, letter Letter,
) error {
	secret := make([]byte, 24)
	if _, err := rand.Read(secret); err != nil {
		return err
	}
	token := base64.RawURLEncoding.EncodeToString(secret)
	lasts := map[Purpose]time.Duration{
		ForInvitation: invitationLasts, ForPassword: passwordLasts, ForAddress: addressLasts,
	}[purpose]
	for _, do := range []struct {
		query string
		args  []any
	}{
		{
			`UPDATE personal_links SET ends_at = now() WHERE account_id = $1 AND purpose = $2 AND used_at IS NULL`,
			[]any{account, purpose},
		},
		{
			`UPDATE outbox SET link = '' WHERE account_id = $1 AND sent_at IS NULL AND link LIKE '%/sign-in/link?link=%'`,
			[]any{account},
		},
		{
			`INSERT INTO personal_links (hash, account_id, purpose, address, ends_at)
			VALUES ($1, $2, $3, $4, now() + make_interval(secs => $5))`,
			[]any{hashOf(token), account, purpose, address, lasts.Seconds()},
		},
		{
			`INSERT INTO outbox (account_id, recipient, subject, body, link) VALUES ($1, $2, $3, $4, $5)`,
			[]any{account, address, letter.Subject, letter.Body, strings.TrimRight(at, "/") + "/sign-in/link?link=" + token},
		},
	} {
		if _, err := tx.ExecContext(ctx, do.query, do.args...); err != nil {
			return fmt.Errorf("write the letter: %w", err)
		}
	}
	return nil
}

// ErrLink is a link that is good no more, or never was.
var ErrLink = errors.New(
	"this link is good no more: it works once, and for a time; ask for another one",
)

// LinkedAccount finds whose a link is, and for what; ErrLink for one that is good no more.
func (st *Store) LinkedAccount(ctx context.Context, token string) (Account, Purpose, error) {
	var row struct {
		Account int64   `db:"account_id"`
		Purpose Purpose `db:"purpose"`
	}
	err := st.db.GetContext(ctx, &row, `SELECT account_id, purpose FROM personal_links
		WHERE hash = $1 AND used_at IS NULL AND ends_at > now()`, hashOf(token))
	if errors.Is(err, sql.ErrNoRows) {
		return Account{}, "", ErrLink
	}
	if err != nil {
		return Account{}, "", fmt.Errorf("look for the link: %w", err)
	}
	a, err := st.Account(ctx, row.Account)
	if errors.Is(err, ErrDisabled) {
		return a, "", ErrLink
	}
	return a, row.Purpose, err
}

// UseLink gives the account of a link a password; its address is confirmed by that. Of two who use it at once one does.
func (st *Store) UseLink(ctx context.Context, token, password string) (a Account, err error) {
	a, _, err = st.LinkedAccount(ctx, token)
	if err != nil {
		return a, err
	}
	if err := CheckPassword(a.Login, password); err != nil {
		return a, err
	}
	hash, err := hashPassword(ctx, password)
	if err != nil {
		return a, err
	}
	err = st.inTx(ctx, func(tx *sqlx.Tx) error {
		used, err := tx.ExecContext(ctx, `UPDATE personal_links SET used_at = now()
			WHERE hash = $1 AND used_at IS NULL AND ends_at > now()`, hashOf(token))
		if err != nil {
			return fmt.Errorf("use the link: %w", err)
		}
		if n, _ := used.RowsAffected(); n == 0 {
			return ErrLink
		}
		err = tx.GetContext(ctx, &a.Epoch, `UPDATE accounts a SET password = $2, epoch = epoch + 1,
				confirmed = confirmed OR email = (SELECT address FROM personal_links WHERE hash = $3)
			WHERE id = $1 AND disabled_at IS NULL RETURNING epoch`, a.ID, hash, hashOf(token))
		if errors.Is(err, sql.ErrNoRows) {
			return ErrLink
		}
		return err
	})
	st.members.forgetAccount(a.ID)
	return a, err
}

// Outbox gives what was written lately, the newest first.
func (st *Store) Outbox(ctx context.Context, limit int) ([]Letter, error) {
	var letters []Letter
	err := st.db.SelectContext(ctx, &letters, `SELECT o.id, o.at, o.account_id, o.recipient, o.subject, o.body,
		o.link <> '' AS has_link, o.sent_at, o.shown_by, o.fault, a.name
		FROM outbox o LEFT JOIN accounts a ON a.id = o.account_id ORDER BY o.id DESC LIMIT $1`, limit)
	if err != nil {
		return nil, fmt.Errorf("read the outbox: %w", err)
	}
	return letters, nil
}

// ShowLink gives the link of a letter that was not sent, once, to who may grant all that its receiver holds; that is
// recorded.
func (st *Store) ShowLink(ctx context.Context, by Account, letter int64) (link string, err error) {
	err = st.inTx(ctx, func(tx *sqlx.Tx) error {
		var row struct {
			Account int64  `db:"account_id"`
			Link    string `db:"link"`
		}
		err := tx.GetContext(ctx, &row, `SELECT account_id, link FROM outbox
			WHERE id = $1 AND sent_at IS NULL AND account_id IS NOT NULL FOR UPDATE`, letter)
		if errors.Is(err, sql.ErrNoRows) || err == nil && row.Link == "" {
			return &edit.Refusal{Sentence: "This link was shown or sent already; have another one made."}
		}
		if err != nil {
			return fmt.Errorf("read the letter: %w", err)
		}
		a, err := account(ctx, tx, row.Account)
		if err != nil {
			return err
		}
		if err := st.mayGive(by, a.Roles...); err != nil {
			return err
		}
		if _, err := tx.ExecContext(ctx, `UPDATE outbox SET link = '', shown_by = $2 WHERE id = $1`, letter,
			by.Name); err != nil {
			return err
		}
		link = row.Link
		return record(ctx, tx, by, "was shown the link that was meant for "+a.Name)
	})
	return link, err
}
