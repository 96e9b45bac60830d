package store

import (
	"context"
	"fmt"

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

// NewSetID takes an id for a condition set.
func (st *Store) NewSetID(ctx context.Context) (site.SetID, error) {
	return newID[site.SetID](ctx, st, "set_ids")
}

func newID[ID ~int64](ctx context.Context, st *Store, sequence string) (id ID, err error) {
	if err := st.db.GetContext(ctx, &id, `SELECT nextval($1::regclass)`, sequence); err != nil {
		return 0, fmt.Errorf("take an id: %w", err)
	}
	return id, nil
}
