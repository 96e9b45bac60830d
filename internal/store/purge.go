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
	var made *Published
	err := st.inTx(ctx, func(tx *sqlx.Tx) error {
		was, err := st.lockSite(ctx, tx)
		if err != nil {
			return err
		}
		is, err := edit.Purge(was.Site, tops, clock.Now())
		if err != nil {
			return err
		}
		revision, at := was.Revision+1, clock.Now().UTC().Truncate(time.Microsecond)
		b := is.Builder()
		var changed []*site.Page
		for _, change := range site.Changes(was.Site, is) {
			p := *change.Is
			p.Revision, p.Changed = revision, at
			changed = append(changed, &p)
			b.Put(&p)
		}
		if err := keepPast(ctx, tx, was.Site, b.Peek(), revision, at, changed); err != nil {
			return err
		}
		if err := forgetPast(ctx, tx, changed); err != nil {
			return err
		}
		if err := writePages(ctx, tx, was.Site, changed); err != nil {
			return err
		}
		if err := writeWords(ctx, tx, was.Site, is, changed); err != nil {
			return err
		}
		words := fmt.Sprintf("emptied the bin of %s for good:", count.Pages(len(changed)))
		for i, id := range tops[:min(len(tops), 20)] {
			if i > 0 {
				words += ","
			}
			words += fmt.Sprintf(" “%s”", was.Site.Page(id).Label)
		}
		if err := record(ctx, tx, by, words); err != nil {
			return err
		}
		made = &Published{revision, b.Site()}
		return announce(ctx, tx, revision, changed)
	})
	if err != nil {
		return err
	}
	st.swap(made)
	return nil
}
