package store

import (
	"context"
	"fmt"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// WrittenAndRead gives a Site as the tables have it after it was written into empty ones, and leaves them as they were.
func (st *Store) WrittenAndRead(ctx context.Context, is *site.Site) (read *site.Site, err error) {
	tx, err := st.db.BeginTxx(ctx, nil)
	if err != nil {
		return nil, err
	}
	defer tx.Rollback()
	var pages []*site.Page
	for id := site.PageID(1); is.Page(id) != nil; id++ {
		pages = append(pages, is.Page(id))
	}
	before := site.NewBuilder(site.Settings{})
	var gone []site.Role
	for _, key := range is.RolesGone() {
		gone = append(gone, site.Role{Key: key, Name: key})
	}
	before.SetRoles(gone)
	was := before.Site()
	if err := writePages(ctx, tx, was, pages); err != nil {
		return nil, err
	}
	for _, write := range []func(context.Context, *sqlx.Tx, *site.Site, *site.Site) error{
		writeMenus, writeBlocks, writeSettings, writeRoles,
	} {
		if err := write(ctx, tx, was, is); err != nil {
			return nil, err
		}
	}
	next, err := catchUp(ctx, tx, nil)
	if err != nil {
		return nil, err
	}
	return next.Site, nil
}

// KeptFields names the fields that the tables keep of each family.
func KeptFields() map[string][]edit.Field {
	return map[string][]edit.Field{
		"page": fieldsOf(pageRow()), "menu": fieldsOf(menuRow()), "item": fieldsOf(entryRow()),
		"block": fieldsOf(blockRow()), "place": append(fieldsOf(placementRow()), fieldsOf(spotRow())...),
		"settings": fieldsOf(settingsRow()), "kind": fieldsOf(kindRow()), "detail": fieldsOf(detailRow()),
		"set":  fieldsOf(setRow()),
		"role": fieldsOf(roleRow()),
	}
}

func fieldsOf[T any](r row[T]) []edit.Field {
	var fields []edit.Field
	for _, c := range r.columns {
		if c.field != "" {
			fields = append(fields, c.field)
		}
	}
	return fields
}

// Tables names the columns of each table that rows are written to.
func Tables() map[string][]string {
	return map[string][]string{
		"pages": namesOf(pageRow()), "page_spells": namesOf(spellRow()), "menus": namesOf(menuRow()),
		"entries": namesOf(entryRow()), "blocks": namesOf(blockRow()), "placements": namesOf(placementRow()),
		"placement_spots": namesOf(spotRow()), "condition_sets": namesOf(setRow()),
		"kinds": namesOf(kindRow()), "details": namesOf(detailRow()),
		"site": namesOf(settingsRow()), "roles": namesOf(roleRow()),
	}
}

func namesOf[T any](r row[T]) []string {
	names := make([]string, len(r.columns))
	for i, c := range r.columns {
		if names[i] = c.name; c.into == nil || c.values == nil || c.kind == "" {
			panic(fmt.Sprintf("the column %s of %s can't be read and written", c.name, r.table))
		}
	}
	return names
}

// StepOf gives the step of time of which a code is.
var StepOf = stepOf
