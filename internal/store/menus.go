package store

import (
	"context"
	"fmt"
	"reflect"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/site"
)

// NewMenuID, NewEntryIDs, NewBlockID and NewPlacementID take ids that were never used (rules 9.1).
func (st *Store) NewMenuID(ctx context.Context) (site.MenuID, error) {
	return newID[site.MenuID](ctx, st, "menu_ids")
}

// NewEntryIDs takes n ids for menu items, ascending.
func (st *Store) NewEntryIDs(ctx context.Context, n int) (ids []site.EntryID, err error) {
	if err := st.db.SelectContext(ctx, &ids, `SELECT nextval('entry_ids') FROM generate_series(1, $1)`, n); err != nil {
		return nil, fmt.Errorf("take items' ids: %w", err)
	}
	return ids, nil
}

// NewBlockID takes an id for a block.
func (st *Store) NewBlockID(ctx context.Context) (site.BlockID, error) {
	return newID[site.BlockID](ctx, st, "block_ids")
}

// NewPlacementID takes an id for a placement.
func (st *Store) NewPlacementID(ctx context.Context) (site.PlacementID, error) {
	return newID[site.PlacementID](ctx, st, "placement_ids")
}

func newID[ID ~int64](ctx context.Context, st *Store, sequence string) (id ID, err error) {
	if err := st.db.GetContext(ctx, &id, `SELECT nextval($1::regclass)`, sequence); err != nil {
		return 0, fmt.Errorf("take an id: %w", err)
	}
	return id, nil
}

// writeMenus writes the menus in which two Sites differ.
func writeMenus(ctx context.Context, tx *sqlx.Tx, was, is *site.Site) error {
	for _, menu := range was.Menus() {
		if is.Menu(menu.ID) == nil {
			if _, err := tx.ExecContext(ctx, `DELETE FROM entries WHERE menu_id = $1`, int64(menu.ID)); err != nil {
				return fmt.Errorf("take a menu away: %w", err)
			}
			if _, err := tx.ExecContext(ctx, `DELETE FROM menus WHERE id = $1`, int64(menu.ID)); err != nil {
				return fmt.Errorf("take a menu away: %w", err)
			}
		}
	}
	for position, menu := range is.Menus() {
		if before := was.Menu(menu.ID); before == nil || !reflect.DeepEqual(*before, menu) {
			if err := writeMenu(ctx, tx, menu, position); err != nil {
				return err
			}
		}
	}
	return nil
}

// writeMenu writes a menu and its entries as they are. An item that comes from another menu is taken over, or was taken
// away with that one just before; parents are checked when the transaction ends. So the order of menus and items does
// not matter.
func writeMenu(ctx context.Context, tx *sqlx.Tx, menu site.Menu, position int) error {
	if _, err := tx.ExecContext(ctx, `INSERT INTO menus (id, key, name, position, programs) VALUES ($1, $2, $3, $4, $5)
		ON CONFLICT (id) DO UPDATE SET name = excluded.name, position = excluded.position, programs = excluded.programs`, int64(menu.ID), menu.Key, menu.Name, position, menu.Programs); err != nil {
		return fmt.Errorf("write the menu “%s”: %w", menu.Name, err)
	}
	ids := make([]int64, len(menu.Entries))
	for i, e := range menu.Entries {
		ids[i] = int64(e.ID)
	}
	if _, err := tx.ExecContext(ctx, `DELETE FROM entries WHERE menu_id = $1 AND NOT id = ANY ($2::bigint[])`, int64(menu.ID), ids); err != nil {
		return fmt.Errorf("take items away: %w", err)
	}
	ranks := site.Ranks(len(menu.Entries))
	for i, e := range menu.Entries {
		kind, page, depth, self, leadsTo := rowOf(e)
		if _, err := tx.ExecContext(ctx, `INSERT INTO entries (id, menu_id, parent_id, rank, type, page_id, depth, self, leads_to, label, hint, off, audience,
				live_from, live_until, new_tab, badge, badge_pair, badge_before, icon)
			VALUES ($1, $2, nullif($3, 0), $4, $5, nullif($6, 0), $7, $8, $9, $10, $11, $12, $13, $14, $15, $16, $17, $18, $19, $20)
			ON CONFLICT (id) DO UPDATE SET menu_id = excluded.menu_id, parent_id = excluded.parent_id, rank = excluded.rank, type = excluded.type,
				page_id = excluded.page_id, depth = excluded.depth, self = excluded.self, leads_to = excluded.leads_to, label = excluded.label,
				hint = excluded.hint, off = excluded.off, audience = excluded.audience, live_from = excluded.live_from, live_until = excluded.live_until,
				new_tab = excluded.new_tab, badge = excluded.badge, badge_pair = excluded.badge_pair, badge_before = excluded.badge_before, icon = excluded.icon`,
			int64(e.ID), int64(menu.ID), int64(e.Parent), ranks[i], kind, int64(page), depth, string(self), leadsTo, e.Label, e.Hint, e.Off, string(e.Audience),
			timeOrNull(e.LiveFrom), timeOrNull(e.LiveUntil), e.NewTab, e.Badge.Text, e.Badge.Pair, e.Badge.Before, e.Icon); err != nil {
			return fmt.Errorf("write item %d of “%s”: %w", e.ID, menu.Name, err)
		}
	}
	return nil
}
