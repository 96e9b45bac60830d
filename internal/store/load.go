package store

import (
	"context"
	"database/sql"
	"fmt"
	"strconv"
	"strings"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/site"
	"vineladder/internal/theme"
)

// CatchUp brings the published Site to the revision of the tables: the pages changed after the revision at hand are
// read in one snapshot and put into a copy, so a first load and the news of one publication are the same thing.
func (st *Store) CatchUp(ctx context.Context) error {
	st.loading.Lock()
	defer st.loading.Unlock()
	tx, err := st.db.BeginTxx(ctx, &sql.TxOptions{Isolation: sql.LevelRepeatableRead, ReadOnly: true})
	if err != nil {
		return fmt.Errorf("the database does not answer: %w", err)
	}
	defer tx.Rollback()
	next, err := catchUp(ctx, tx, st.published.Load())
	if err != nil || next == st.published.Load() {
		return err
	}
	st.swap(next)
	return nil
}

// swap shows a newer revision to everyone, never an older one.
func (st *Store) swap(next *Published) {
	for {
		seen := st.published.Load()
		if seen != nil && seen.Revision >= next.Revision && seen.Revision > 0 {
			return
		}
		if st.published.CompareAndSwap(seen, next) {
			st.watchers.tell(News{Revision: next.Revision})
			return
		}
	}
}

func catchUp(ctx context.Context, tx *sqlx.Tx, seen *Published) (*Published, error) {
	kept, err := loadSettings(ctx, tx)
	if err != nil {
		return nil, err
	}
	if seen != nil && seen.Revision == kept.Revision && kept.Revision > 0 {
		return seen, nil
	}
	b, after := site.NewBuilder(kept.Settings), int64(-1)
	declared, err := theme.Of()
	if err != nil {
		return nil, err
	}
	b.SetTheme(declared)
	if seen != nil {
		b, after = seen.Site.Builder(), seen.Revision
		b.SetSettings(kept.Settings)
	}
	pages, err := loadPages(ctx, tx, after)
	if err != nil {
		return nil, err
	}
	if err := loadLinks(ctx, tx, after, b); err != nil { // before the pages, which are listed by what they link to
		return nil, err
	}
	if err := loadWeb(ctx, tx, after, b); err != nil {
		return nil, err
	}
	if err := loadFaults(ctx, tx, after, b); err != nil {
		return nil, err
	}
	b.Put(pages...)
	if err := loadFurniture(ctx, tx, b); err != nil {
		return nil, err
	}
	return &Published{kept.Revision, b.Site()}, nil
}

const linksQuery = `SELECT hash, array_to_string(links, ' ') FROM texts WHERE cardinality(links) > 0`

// LoadQueries are the queries whose answers grow with the site; the benchmark of loading is held against them.
func LoadQueries() []string {
	return []string{pageRow().selects(""), spellRow().selects(""), linksQuery, faultsQuery, webQuery}
}

// loadFurniture reads all that stands beside the pages and is read whole.
func loadFurniture(ctx context.Context, tx *sqlx.Tx, b *site.Builder) error {
	if err := loadRoles(ctx, tx, b); err != nil {
		return err
	}
	kinds, err := loadKinds(ctx, tx)
	if err != nil {
		return err
	}
	details, err := loadDetails(ctx, tx)
	if err != nil {
		return err
	}
	menus, err := loadMenus(ctx, tx)
	if err != nil {
		return err
	}
	blocks, err := loadBlocks(ctx, tx)
	if err != nil {
		return err
	}
	sets, err := loadSets(ctx, tx)
	if err != nil {
		return err
	}
	placements, err := loadPlacements(ctx, tx)
	if err != nil {
		return err
	}
	b.SetKinds(kinds)
	b.SetDetails(details)
	b.SetMenus(menus)
	b.SetConditionSets(sets)
	b.SetBlocks(blocks, placements)
	return nil
}

const faultsQuery = `SELECT hash, array_to_string(faults, E'\n') FROM texts WHERE cardinality(faults) > 0`

// loadFaults reads what is wrong in texts, as loadLinks reads to which pages they link.
func loadFaults(ctx context.Context, tx *sqlx.Tx, after int64, b *site.Builder) error {
	return eachText(ctx, tx, faultsQuery, after, func(hash, faults string) {
		b.Peek().Texts().KnowFaults(hash, strings.Split(faults, "\n"))
	})
}

const webQuery = `SELECT hash, array_to_string(web, ' ') FROM texts WHERE cardinality(web) > 0`

// loadWeb reads to which web addresses texts link, in the same way.
func loadWeb(ctx context.Context, tx *sqlx.Tx, after int64, b *site.Builder) error {
	return eachText(ctx, tx, webQuery, after, func(hash, addresses string) {
		b.Peek().Texts().KnowWeb(hash, strings.Fields(addresses))
	})
}

// loadLinks reads to which pages texts link: all of them at first, so that drafts find theirs, then those of changed
// pages.
func loadLinks(ctx context.Context, tx *sqlx.Tx, after int64, b *site.Builder) error {
	return eachText(ctx, tx, linksQuery, after, func(hash, joined string) {
		var links []site.PageID
		for _, word := range strings.Fields(joined) {
			id, _ := strconv.ParseInt(word, 10, 64)
			links = append(links, site.PageID(id))
		}
		b.KnowText(hash, links)
	})
}

// eachText reads one thing that is known of texts: of all of them, or of those of the pages that changed after a
// revision.
func eachText(ctx context.Context, tx *sqlx.Tx, query string, after int64, know func(hash, what string)) error {
	args := []any{}
	if after >= 0 {
		query += ` AND hash IN (SELECT unnest(text_hash || ARRAY(SELECT value FROM json_each_text(details)))
			FROM pages WHERE id = ` + changedIDs + ` UNION SELECT text_hash FROM blocks)`
		args = append(args, after)
	}
	rows, err := tx.QueryContext(ctx, query, args...)
	if err != nil {
		return fmt.Errorf("read what is known of texts: %w", err)
	}
	defer rows.Close()
	for rows.Next() {
		var hash, what string
		if err := rows.Scan(&hash, &what); err != nil {
			return fmt.Errorf("read what is known of texts: %w", err)
		}
		know(hash, what)
	}
	return rows.Err()
}
