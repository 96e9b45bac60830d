package store

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"time"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/clock"
	"vineladder/internal/core/care"
	"vineladder/internal/core/count"
	"vineladder/internal/core/site"
)

// A careVersion tells whether what is known of care is still so.
type careVersion struct {
	Reviews int64  `db:"reviews"`
	Gone    string `db:"gone"`
}

// Care gives what is known of care besides the site. It is read again only when somebody said something, or came or
// went; until then it is the same value.
func (st *Store) Care(ctx context.Context) (*care.Known, error) {
	var now careVersion
	if err := st.db.GetContext(ctx, &now, `SELECT coalesce((SELECT max(id) FROM reviews), 0) AS reviews, coalesce((
		SELECT string_agg(login, ' ' ORDER BY login) FROM accounts WHERE disabled_at IS NOT NULL), '') AS gone`); err != nil {
		return nil, fmt.Errorf("ask what is known of care: %w", err)
	}
	st.careful.Lock()
	defer st.careful.Unlock()
	if st.care != nil && st.careIs == now {
		return st.care, nil
	}
	made := &care.Known{
		Pages: map[site.PageID]time.Time{}, Branches: map[site.PageID]time.Time{}, Gone: map[string]bool{},
	}
	var rows []struct {
		Page   site.PageID `db:"page_id"`
		Branch bool        `db:"branch"`
		At     time.Time   `db:"at"`
	}
	if err := st.db.SelectContext(ctx, &rows, `SELECT page_id, branch, max(at) AS at FROM reviews WHERE id <= $1
		GROUP BY page_id, branch`, now.Reviews); err != nil {
		return nil, fmt.Errorf("read the reviews: %w", err)
	}
	for _, row := range rows {
		if made.Pages[row.Page] = row.At; row.Branch {
			made.Branches[row.Page] = row.At
		}
	}
	var gone []string
	if err := st.db.SelectContext(ctx, &gone, `SELECT login FROM accounts WHERE disabled_at IS NOT NULL`); err != nil {
		return nil, fmt.Errorf("read who is gone: %w", err)
	}
	for _, login := range gone {
		made.Gone[login] = true
	}
	st.care, st.careIs = made, now
	return made, nil
}

// StillRight says of a page, or of it and all below it, that it is still right. It holds at once, and is recorded.
func (st *Store) StillRight(ctx context.Context, page site.PageID, branch bool, who Account) error {
	err := st.inTx(ctx, func(tx *sqlx.Tx) error {
		// Numbers are given in the order in which they can be read, since the last one tells what is new.
		if _, err := tx.ExecContext(ctx, `LOCK TABLE reviews IN SHARE ROW EXCLUSIVE MODE`); err != nil {
			return err
		}
		_, err := tx.ExecContext(ctx, `INSERT INTO reviews (page_id, branch, account_id, at) VALUES ($1, $2, $3, $4)`,
			page, branch, who.ID, clock.Now())
		return err
	})
	if err != nil {
		return fmt.Errorf("keep that a page is still right: %w", err)
	}
	about := fmt.Sprintf("page %d", page)
	if branch {
		about += " with all below"
	}
	return st.Audit(ctx, AuditLine{What: "still right", Account: who.Login, About: about})
}

// A Review is somebody's word that a page is still right.
type Review struct {
	At     time.Time `db:"at"`
	By     string    `db:"name"`
	Branch bool      `db:"branch"`
}

// ReviewsOf gives the last reviews of one page itself, the newest first.
func (st *Store) ReviewsOf(ctx context.Context, page site.PageID, limit int) (all []Review, err error) {
	if err := st.db.SelectContext(ctx, &all, `SELECT r.at, a.name, r.branch FROM reviews r
		JOIN accounts a ON a.id = r.account_id WHERE r.page_id = $1 ORDER BY r.at DESC LIMIT $2`, page, limit); err != nil {
		return nil, fmt.Errorf("read the reviews of a page: %w", err)
	}
	return all, nil
}

// DateWords takes over when the own words of pages last changed, of pages that were written before they came here.
func (st *Store) DateWords(ctx context.Context, by Account, worded map[site.PageID]time.Time) error {
	return st.besides(ctx, func(tx *sqlx.Tx, was *Published, at time.Time) ([]*site.Page, error) {
		var changed []*site.Page
		for _, id := range slices.Sorted(maps.Keys(worded)) {
			if p := was.Site.Page(id); p != nil {
				dated := *p
				dated.Worded = worded[id].UTC().Truncate(time.Microsecond)
				changed = append(changed, &dated)
			}
		}
		n := notes{
			by:   by,
			said: []string{"took over when the words of " + count.Pages(len(changed)) + " were written"},
		}
		return changed, writeHistory(ctx, tx, was.Revision+1, at, nil, n, nil)
	}, func(context.Context, *sqlx.Tx, []*site.Page) error { return nil })
}
