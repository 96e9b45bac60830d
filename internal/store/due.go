package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/clock"
	"vineladder/internal/core/edit"
)

// plannedChannel is the name under which a change of what is planned is announced, so that every instance sets its
// timer anew.
const plannedChannel = "vineladder_planned"

// wake has the schedule looked at again.
func (st *Store) wake() {
	select {
	case st.planned <- struct{}{}:
	default:
	}
}

// Schedule publishes drafts at the moments that were set, until ctx ends. Nothing is polled: one timer stands at the
// next moment, and is set anew when that changes. What was due while nobody was there is published at once, in order.
func (st *Store) Schedule(ctx context.Context) {
	for ctx.Err() == nil {
		wait := time.Hour
		for {
			done, err := st.PublishNextDue(ctx)
			if err != nil && ctx.Err() == nil {
				st.log.Error("what is planned can't be looked at; it is tried again", "error", err)
				wait = firstPause
			}
			if !done || err != nil {
				break
			}
		}
		if next, err := st.nextPlanned(ctx); err == nil && !next.IsZero() && wait != firstPause {
			wait = min(wait, max(next.Sub(clock.Now()), 0))
		}
		timer := time.NewTimer(wait)
		select {
		case <-ctx.Done():
		case <-timer.C:
		case <-st.planned:
		}
		timer.Stop()
	}
}

func (st *Store) nextPlanned(ctx context.Context) (time.Time, error) {
	var next sql.NullTime
	err := st.db.GetContext(
		ctx,
		&next,
		`SELECT min(greatest(publish_at, retry_at)) FROM drafts WHERE publish_at IS NOT NULL`,
	)
	return next.Time, err
}

// PublishNextDue publishes the draft that has been due longest; done is false if none is, or another instance has
// taken it. A conflict or a right that was lost publishes nothing, holds the draft and says why on it (rules 9.5).
func (st *Store) PublishNextDue(ctx context.Context) (done bool, err error) {
	if next, err := st.nextPlanned(ctx); err != nil || next.IsZero() || next.After(clock.Now()) {
		return false, err
	}
	var made *Published
	var id int64
	err = st.inTx(ctx, func(tx *sqlx.Tx) error {
		was, err := st.lockSite(ctx, tx)
		if err != nil {
			return err
		}
		err = tx.GetContext(
			ctx,
			&id,
			`SELECT id FROM drafts WHERE greatest(publish_at, retry_at) <= $1 ORDER BY publish_at, id LIMIT 1 FOR UPDATE SKIP
				LOCKED`,
			clock.Now(),
		)
		if errors.Is(err, sql.ErrNoRows) {
			return nil
		}
		if err != nil {
			return fmt.Errorf("find what is due: %w", err)
		}
		done = true
		d, err := st.lockDraft(ctx, tx, id, was)
		if err != nil {
			return err
		}
		by, err := account(ctx, tx, d.PlannedBy)
		if errors.Is(err, ErrDisabled) {
			return holdBack(ctx, tx, d, &edit.Refusal{Sentence: "the account that planned it is disabled"})
		}
		if err != nil {
			return err
		}
		if err := mayPublish(ctx, tx, d, by, ""); err != nil {
			return holdBack(ctx, tx, d, err)
		}
		made, err = st.publishDraft(ctx, tx, was, d, by, "")
		return err
	})
	if err == nil && made != nil {
		st.swap(made)
	}
	if err != nil && id != 0 && ctx.Err() == nil {
		return true, st.postpone(ctx, id, err)
	}
	return done, err
}

// Pauses before a planned draft is tried again: the first, doubled each time, up to the last.
const firstPause, lastPause = 10 * time.Second, time.Hour

// postpone has a planned draft tried again later, says so on it, and lets the others go on.
func (st *Store) postpone(ctx context.Context, id int64, why error) error {
	var attempts int
	err := st.db.GetContext(ctx, &attempts, `UPDATE drafts SET attempts = attempts + 1, version = version + 1,
		retry_at = $4::timestamptz + make_interval(secs => least($2 * 2 ^ least(attempts, 20), $3)),
		trouble = 'This draft could not be published when it was due, by a fault that is none of its edits; it is tried
			again.'
		WHERE id = $1 RETURNING attempts`, id, firstPause.Seconds(), lastPause.Seconds(), clock.Now())
	if err != nil {
		return errors.Join(why, fmt.Errorf("put a planned draft off: %w", err))
	}
	st.log.Error(
		"a planned publication failed and is tried again later",
		"draft",
		id,
		"attempt",
		attempts,
		"error",
		why,
	)
	return nil
}

// holdBack takes the moment away from a draft that could not be published, and says why on it.
func holdBack(ctx context.Context, tx *sqlx.Tx, d *Draft, why error) error {
	var refusal *edit.Refusal
	if !errors.As(why, &refusal) && !errors.Is(why, ErrHeld) && !errors.Is(why, ErrNothing) {
		return why
	}
	_, err := tx.ExecContext(
		ctx,
		`UPDATE drafts SET publish_at = NULL, retry_at = NULL, attempts = 0, trouble = $2, version = version + 1
			WHERE id = $1`,
		d.ID,
		fmt.Sprintf(
			"This draft was to be published on %s and was not: %s.",
			d.Planned.In(d.Site.Settings().Zone).Format("2 January 2006 at 15:04"),
			why,
		),
	)
	return err
}
