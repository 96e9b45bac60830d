package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"
)

// A Sender hands a letter over to a mail server.
type Sender func(ctx context.Context, to, subject, body string) error

const (
	lettersEvery = 10 * time.Second // how often it is looked for letters to send
	lettersTries = 8                // after which a letter is given up; each waits twice as long as the one before
)

// SendLetters sends what lies in the outbox, until ctx ends. Of several instances one sends each letter.
func (st *Store) SendLetters(ctx context.Context, send Sender) {
	for {
		for sent := true; sent && ctx.Err() == nil; {
			var err error
			if sent, err = st.SendNext(ctx, send); err != nil && ctx.Err() == nil {
				st.log.Error("letters are not sent", "error", err)
			}
		}
		select {
		case <-ctx.Done():
			return
		case <-time.After(lettersEvery):
		}
	}
}

// SendNext sends the letter that waits longest, and says whether there was one. What the mail server refuses is tried
// again later.
func (st *Store) SendNext(ctx context.Context, send Sender) (was bool, err error) {
	err = st.inTx(ctx, func(tx *sqlx.Tx) error {
		var l struct {
			ID        int64  `db:"id"`
			Recipient string `db:"recipient"`
			Subject   string `db:"subject"`
			Body      string `db:"body"`
			Link      string `db:"link"`
			Tries     int    `db:"tries"`
		}
		err := tx.GetContext(ctx, &l, `SELECT id, recipient, subject, body, link, tries FROM outbox
			WHERE sent_at IS NULL AND link <> '' AND retry_at <= now() AND tries < $1
			ORDER BY retry_at LIMIT 1 FOR UPDATE SKIP LOCKED`, lettersTries)
		if errors.Is(err, sql.ErrNoRows) {
			return nil
		}
		if err != nil {
			return fmt.Errorf("look for letters: %w", err)
		}
		was = true
		if fault := send(ctx, l.Recipient, l.Subject, strings.ReplaceAll(l.Body, "%s", l.Link)); fault != nil {
			wait := (30 * time.Second) << l.Tries
			_, err = tx.ExecContext(ctx, `UPDATE outbox SET tries = tries + 1, fault = $2,
				retry_at = now() + make_interval(secs => $3) WHERE id = $1`, l.ID, cut(fault.Error(), 300), wait.Seconds())
			return err
		}
		_, err = tx.ExecContext(ctx, `UPDATE outbox SET sent_at = now(), link = '', fault = '' WHERE id = $1`, l.ID)
		return err
	})
	return was, err
}
