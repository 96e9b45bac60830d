package store

import (
	"context"
	"fmt"
	"reflect"
	"time"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/target"
)

// A keptMenu is a menu with its place among the menus; its entries are rows of their own.
type keptMenu struct {
	site.Menu
	Position int
}

func menuRow() row[keptMenu] {
	return row[keptMenu]{table: "menus", key: "id", order: "position, id", columns: []column[keptMenu]{
		number("id", "", func(k *keptMenu) *site.MenuID { return &k.ID }),
		phrase("key", "", func(k *keptMenu) *string { return &k.Key }),
		phrase("name", edit.FieldName, func(k *keptMenu) *string { return &k.Name }),
		truth("programs", edit.FieldPrograms, func(k *keptMenu) *bool { return &k.Programs }),
		number("position", "", func(k *keptMenu) *int { return &k.Position }),
	}}
}

// A keptEntry is an entry in its menu, with what it shows as type and settings.
type keptEntry struct {
	site.Entry
	Menu     site.MenuID
	Rank     string
	Type     string
	Settings string // JSON
}

func entryRow() row[keptEntry] {
	settings := phrase("settings", edit.FieldShows, func(k *keptEntry) *string { return &k.Settings })
	settings.reads, settings.stored = "settings::text", "settings::jsonb"
	grown := phrase("grown", edit.FieldLines, func(k *keptEntry) *site.Values { return &k.Grown })
	grown.reads, grown.stored = `coalesce(grown::text, '')`, `nullif(grown, '')::json`
	return row[keptEntry]{
		table: "entries", key: "id", order: "menu_id, rank, id",
		read: func(k *keptEntry) (err error) { k.Shows, err = target.Decode(k.Type, []byte(k.Settings)); return err },
		columns: []column[keptEntry]{
			number("id", "", func(k *keptEntry) *site.EntryID { return &k.ID }),
			number("menu_id", "", func(k *keptEntry) *site.MenuID { return &k.Menu }),
			reference("parent_id", "", func(k *keptEntry) *site.EntryID { return &k.Parent }),
			reference("under_page", "", func(k *keptEntry) *site.PageID { return &k.Under }),
			phrase("rank", "", func(k *keptEntry) *string { return &k.Rank }),
			few("type", edit.FieldShows, func(k *keptEntry) *string { return &k.Type }),
			settings,
			phrase("label", edit.FieldLabel, func(k *keptEntry) *string { return &k.Label }),
			phrase("hint", edit.FieldHint, func(k *keptEntry) *string { return &k.Hint }),
			truth("off", edit.FieldOn, func(k *keptEntry) *bool { return &k.Off }),
			few("audience", edit.FieldAudience, func(k *keptEntry) *site.Audience { return &k.Audience }),
			instant("live_from", edit.FieldLiveFrom, func(k *keptEntry) *time.Time { return &k.LiveFrom }),
			instant("live_until", edit.FieldLiveUntil, func(k *keptEntry) *time.Time { return &k.LiveUntil }),
			truth("new_tab", edit.FieldNewTab, func(k *keptEntry) *bool { return &k.NewTab }),
			phrase("badge", edit.FieldBadgeText, func(k *keptEntry) *string { return &k.Badge.Text }),
			few("badge_pair", edit.FieldBadgePair, func(k *keptEntry) *string { return &k.Badge.Pair }),
			truth("badge_before", edit.FieldBadgeBefore, func(k *keptEntry) *bool { return &k.Badge.Before }),
			few("icon", edit.FieldIcon, func(k *keptEntry) *string { return &k.Icon }),
			grown,
		},
	}
}

func loadMenus(ctx context.Context, tx *sqlx.Tx) ([]site.Menu, error) {
	rows, err := menuRow().load(ctx, tx, "")
	if err != nil {
		return nil, err
	}
	entries, err := entryRow().load(ctx, tx, "")
	if err != nil {
		return nil, err
	}
	in := map[site.MenuID][]site.Entry{}
	for _, k := range entries {
		in[k.Menu] = append(in[k.Menu], k.Entry)
	}
	menus := make([]site.Menu, len(rows))
	for i, k := range rows {
		menus[i] = k.Menu
		menus[i].Entries = in[k.ID]
	}
	return menus, nil
}

// writeMenus writes the menus in which two Sites differ, whole: an item that comes from another menu is taken over, or
// was taken away with that one just before, and parents are checked when the transaction ends. So the order of menus
// and items does not matter.
func writeMenus(ctx context.Context, tx *sqlx.Tx, was, is *site.Site) error {
	gone, written, kept := []int64{}, []int64{}, []int64{} // never null, which would be in the way of “not one of them”
	for _, m := range was.Menus() {
		if is.Menu(m.ID) == nil {
			gone = append(gone, int64(m.ID))
		}
	}
	var menus []*keptMenu
	var entries []*keptEntry
	for position, m := range is.Menus() {
		if before := was.Menu(m.ID); before != nil && reflect.DeepEqual(*before, m) {
			continue
		}
		written, menus = append(written, int64(m.ID)), append(menus, &keptMenu{m, position})
		ranks := site.Ranks(len(m.Entries))
		for i, e := range m.Entries {
			key, settings, err := target.Encode(e.Shows)
			if err != nil {
				return fmt.Errorf("write item %d of “%s”: %w", e.ID, m.Name, err)
			}
			entries = append(entries, &keptEntry{e, m.ID, ranks[i], key, string(settings)})
			kept = append(kept, int64(e.ID))
		}
	}
	if len(gone)+len(written) == 0 {
		return nil
	}
	const others = `DELETE FROM entries
		WHERE menu_id = ANY ($1::bigint[]) OR menu_id = ANY ($2::bigint[]) AND NOT id = ANY ($3::bigint[])`
	if _, err := tx.ExecContext(ctx, others, gone, written, kept); err != nil {
		return fmt.Errorf("take items away: %w", err)
	}
	if err := remove(ctx, tx, "menus", gone); err != nil {
		return err
	}
	if err := menuRow().save(ctx, tx, menus); err != nil {
		return err
	}
	return entryRow().save(ctx, tx, entries)
}
