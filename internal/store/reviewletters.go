package store

import (
	"context"
	"fmt"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/clock"
	"vineladder/internal/core/care"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// remindEvery is how often it is looked whether somebody is to be written to.
const remindEvery = time.Hour

// RemindOfReviews writes to people about the pages that they look after and that are due, until ctx ends. at is the
// screen on which these are.
func (st *Store) RemindOfReviews(ctx context.Context, at string) {
	for ctx.Err() == nil {
		if _, err := st.WriteAboutReviews(ctx, at); err != nil && ctx.Err() == nil {
			st.log.Error("letters about reviews can't be written", "error", err)
		}
		select {
		case <-ctx.Done():
		case <-time.After(remindEvery):
		}
	}
}

// WriteAboutReviews puts a letter into the outbox for everybody who has an address and looks after a page that is due,
// themselves or by a role, and gives their number. Nobody gets two within a week, however many instances look.
func (st *Store) WriteAboutReviews(ctx context.Context, at string) (written int, err error) {
	known, err := st.Care(ctx)
	if err != nil {
		return 0, err
	}
	now, s := clock.Now(), st.Published().Site
	due := known.DuePages(s, now)
	if len(due) == 0 {
		return 0, nil
	}
	people, err := st.People(ctx)
	if err != nil {
		return 0, err
	}
	for _, who := range people {
		owns := []site.Owner{site.PersonOwner(who.Login)}
		for _, key := range reach.As(s, who.Roles).Roles {
			owns = append(owns, site.RoleOwner(key))
		}
		pages := care.ToldOf(due, now, func(o site.Owner) bool { return slices.Contains(owns, o) })
		if who.Email == "" || len(pages) == 0 {
			continue
		}
		subject, body := care.Letter(s, who.Name, pages, now)
		told, err := st.writeOnce(ctx, who, now, Letter{Subject: subject, Body: body}, at)
		if err != nil {
			return written, err
		}
		if told {
			written++
		}
	}
	return written, nil
}

// writeOnce puts a letter about reviews into the outbox, unless that person got one within a week.
func (st *Store) writeOnce(
	ctx context.Context, who Account, now time.Time, l Letter, at string,
) (told bool, err error) {
	err = st.inTx(ctx, func(tx *sqlx.Tx) error {
		claimed, err := tx.ExecContext(ctx, `INSERT INTO review_letters (account_id, at) VALUES ($1, $2)
			ON CONFLICT (account_id) DO UPDATE SET at = excluded.at WHERE review_letters.at <= $3`,
			who.ID, now, now.Add(-care.LetterEvery))
		if err != nil {
			return err
		}
		if n, err := claimed.RowsAffected(); err != nil || n == 0 {
			return err
		}
		told = true
		_, err = tx.ExecContext(ctx, `INSERT INTO outbox (account_id, recipient, subject, body, link)
			VALUES ($1, $2, $3, $4, $5)`, who.ID, who.Email, l.Subject, l.Body, at)
		return err
	})
	if err != nil {
		return false, fmt.Errorf("write about reviews: %w", err)
	}
	return told, nil
}
