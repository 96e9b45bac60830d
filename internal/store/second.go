package store

import (
	"context"
	"crypto/rand"
	"database/sql"
	"encoding/base32"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/pquerna/otp"
	"github.com/pquerna/otp/totp"

	"vineladder/internal/clock"
)

// ErrCode does not say what of a code was wrong: that it is another one's, old, or used.
var ErrCode = errors.New("the code is not right, or was used already; wait for the next one")

// Codes are of six digits, a new one every 30 seconds, SHA-1 (RFC 6238, 4: the defaults that devices know). One from
// the step before or after is taken, for clocks that are off.
const (
	codeStep  = 30
	codeSkew  = 1
	codesLeft = 10 // recovery codes of a new device
)

// NewSecond makes the secret of a device for an account; it is kept nowhere until SetSecond.
func (st *Store) NewSecond(a Account) (*otp.Key, error) {
	key, err := totp.Generate(totp.GenerateOpts{
		Issuer: st.Published().Site.Settings().Name, AccountName: a.Login, Period: codeStep, Digits: otp.DigitsSix,
		Algorithm: otp.AlgorithmSHA1,
	})
	if err != nil {
		return nil, fmt.Errorf("make a secret: %w", err)
	}
	return key, nil
}

// stepOf gives the step of time of which a code is; 0 if it is of none that is near.
func stepOf(secret, code string, now time.Time) int64 {
	step := now.Unix() / codeStep
	for _, off := range []int64{0, -codeSkew, codeSkew} {
		at := time.Unix((step+off)*codeStep, 0)
		want, err := totp.GenerateCodeCustom(secret, at, totp.ValidateOpts{
			Period: codeStep, Digits: otp.DigitsSix, Algorithm: otp.AlgorithmSHA1,
		})
		if err == nil && want == code {
			return step + off
		}
	}
	return 0
}

// SetSecond has an account ask for codes of a device from now on, if this one is right, and gives recovery codes, which
// are told this once.
func (st *Store) SetSecond(ctx context.Context, a Account, secret, code string) (recovery []string, err error) {
	step := stepOf(secret, strings.TrimSpace(code), clock.Now())
	if step == 0 {
		return nil, ErrCode
	}
	hashes := make([][]byte, codesLeft)
	recovery = make([]string, codesLeft)
	for i := range recovery {
		random := make([]byte, 10)
		if _, err := rand.Read(random); err != nil {
			return nil, err
		}
		word := strings.ToLower(base32.StdEncoding.EncodeToString(random))
		recovery[i] = word[:4] + "-" + word[4:8] + "-" + word[8:12] + "-" + word[12:]
		hashes[i] = hashOf(recovery[i])
	}
	err = st.inTx(ctx, func(tx *sqlx.Tx) error {
		_, err := tx.ExecContext(ctx, `UPDATE accounts SET totp = $2, totp_step = $3, recovery = $4 WHERE id = $1`,
			a.ID, secret, step, hashes)
		if err != nil {
			return fmt.Errorf("write the second factor: %w", err)
		}
		return record(ctx, tx, a, "set up a second factor")
	})
	return recovery, err
}

// DropSecond has an account ask for no more codes, for who has one.
func (st *Store) DropSecond(ctx context.Context, a Account, code string) error {
	if err := st.CheckCode(ctx, a.ID, code); err != nil {
		return err
	}
	return st.dropSecond(ctx, a, a)
}

// DropSecondBy lets somebody in again who has lost a device, in the name of who may give all that they hold.
func (st *Store) DropSecondBy(ctx context.Context, by Account, login string) error {
	a, err := st.AccountByLogin(ctx, login)
	if err != nil {
		return err
	}
	if err := st.mayGive(by, a.Roles...); err != nil {
		return err
	}
	return st.dropSecond(ctx, by, a)
}

func (st *Store) dropSecond(ctx context.Context, by, of Account) error {
	return st.inTx(ctx, func(tx *sqlx.Tx) error {
		_, err := tx.ExecContext(ctx, `UPDATE accounts SET totp = '', totp_step = 0, recovery = '{}' WHERE id = $1`, of.ID)
		if err != nil {
			return fmt.Errorf("take the second factor off: %w", err)
		}
		return record(ctx, tx, by, "took the second factor off the account of "+of.Name)
	})
}

// CheckCode takes a code of an account's device, or one of its recovery codes; each is good once, at whichever
// instance.
func (st *Store) CheckCode(ctx context.Context, id int64, code string) error {
	code = strings.ToLower(strings.Join(strings.Fields(code), ""))
	var secret string
	err := st.db.GetContext(ctx, &secret, `SELECT totp FROM accounts WHERE id = $1 AND disabled_at IS NULL`, id)
	switch {
	case errors.Is(err, sql.ErrNoRows), err == nil && secret == "":
		return ErrCode
	case err != nil:
		return fmt.Errorf("read the second factor: %w", err)
	}
	var used sql.Result
	if step := stepOf(secret, code, clock.Now()); step != 0 {
		used, err = st.db.ExecContext(ctx, `UPDATE accounts SET totp_step = $2 WHERE id = $1 AND totp_step < $2`, id, step)
	} else {
		used, err = st.db.ExecContext(ctx, `UPDATE accounts SET recovery = array_remove(recovery, $2)
			WHERE id = $1 AND $2 = ANY (recovery)`, id, hashOf(code))
	}
	if err != nil {
		return fmt.Errorf("use the code: %w", err)
	}
	if n, _ := used.RowsAffected(); n == 0 {
		return ErrCode
	}
	return nil
}

// An OwnSession is a place at which an account is signed in.
type OwnSession struct {
	Site  string    `db:"site"`
	Began time.Time `db:"began"`
	Seen  time.Time `db:"seen"`
	Here  bool      `db:"here"` // it is the one that asks
}

// OwnSessions gives where an account is signed in, the latest first; token is that of who asks.
func (st *Store) OwnSessions(ctx context.Context, id int64, token string) ([]OwnSession, error) {
	var all []OwnSession
	err := st.db.SelectContext(ctx, &all, `SELECT site, began, seen, hash = $2 AS here FROM sessions
		WHERE account = $1 AND expiry > now() AND seen > now() - make_interval(secs => $3) ORDER BY seen DESC`,
		id, hashOf(token), sessionIdle.Seconds())
	if err != nil {
		return nil, fmt.Errorf("list the sessions: %w", err)
	}
	return all, nil
}

// EndOtherSessions ends all sessions of an account and gives it as it is then: good for one that begins now.
func (st *Store) EndOtherSessions(ctx context.Context, a Account) (Account, error) {
	err := st.inTx(ctx, func(tx *sqlx.Tx) error {
		if err := tx.GetContext(ctx, &a.Epoch, `UPDATE accounts SET epoch = epoch + 1 WHERE id = $1 RETURNING epoch`,
			a.ID); err != nil {
			return fmt.Errorf("end the sessions: %w", err)
		}
		_, err := tx.ExecContext(ctx, `DELETE FROM sessions WHERE account = $1`, a.ID)
		return err
	})
	st.members.forgetAccount(a.ID)
	return a, err
}
