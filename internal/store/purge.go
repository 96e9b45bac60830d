package store

import (
	"context"
	"fmt"
	"time"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/clock"
	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// EmptyBin takes binned branches out of the bin for good, at once and for everybody (rules 2.9). The record says who
// did it.
func (st *Store) EmptyBin(ctx context.Context, by Account, tops []site.PageID) error {
	var before *site.Site
	forget := func(ctx context.Context, tx *sqlx.Tx, pages []*site.Page) error {
		if err := forgetPast(ctx, tx, pages); err != nil {
			return err
		}
		return forgetHistory(ctx, tx, before, pages)
	}
	return st.besides(ctx, func(tx *sqlx.Tx, was *Published, at time.Time) ([]*site.Page, error) {
		before = was.Site
		is, err := edit.Purge(was.Site, tops, clock.Now())
		if err != nil {
			return nil, err
		}
		var changed []*site.Page
		for _, change := range site.Changes(was.Site, is) {
			p := *change.Is
			p.Changed = at
			changed = append(changed, &p)
		}
		words := fmt.Sprintf("emptied the bin of %s for good:", count.Pages(len(changed)))
		for i, id := range tops[:min(len(tops), 20)] {
			if i > 0 {
				words += ","
			}
			words += fmt.Sprintf(" “%s”", was.Site.Page(id).Label)
		}
		return changed, record(ctx, tx, by, words)
	}, forget)
}

// besides changes pages at once and for everybody, in one transaction, and not through a draft. change gives them as
// they come to be, and then is told which they were once the past has them.
func (st *Store) besides(
	ctx context.Context,
	change func(*sqlx.Tx, *Published, time.Time) ([]*site.Page, error),
	then func(context.Context, *sqlx.Tx, []*site.Page) error,
) error {
	var made *Published
	err := st.inTx(ctx, func(tx *sqlx.Tx) error {
		was, err := st.lockSite(ctx, tx)
		if err != nil {
			return err
		}
		revision, at := was.Revision+1, clock.Now().UTC().Truncate(time.Microsecond)
		changed, err := change(tx, was, at)
		if err != nil {
			return err
		}
		b := was.Site.Builder()
		for _, p := range changed {
			p.Revision = revision
			b.Put(p)
		}
		is := b.Site()
		if err := keepPast(ctx, tx, was.Site, is, revision, at, changed); err != nil {
			return err
		}
		if err := then(ctx, tx, changed); err != nil {
			return err
		}
		if err := writePages(ctx, tx, was.Site, changed); err != nil {
			return err
		}
		if err := writeWords(ctx, tx, was.Site, is, changed); err != nil {
			return err
		}
		made = &Published{revision, is}
		return announce(ctx, tx, revision, changed)
	})
	if err != nil {
		return err
	}
	st.swap(made)
	return nil
}
