// Package desktest lays desks for the tests of areas.
package desktest

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/store"
	"vineladder/internal/web/workbench/desk"
)

// Of looks at a site with operations done in a draft.
func Of(t *testing.T, base *site.Site, ops ...edit.Op) *desk.Desk {
	next, _, err := edit.ApplyAll(base, ops, testkit.Now)
	require.NoError(t, err)
	return &desk.Desk{
		State: "after", Site: next, Lens: reach.Lens{At: testkit.Now}, Selected: base.Home(),
		Draft: &store.Draft{Base: &store.Published{Revision: 1, Site: base}, Site: next},
	}
}

// WithMenus looks at a menu of several sorts of items over a small site, with operations done in a draft.
func WithMenus(t *testing.T, ops ...edit.Op) *desk.Desk {
	s := testkit.Outline(t, `
Home
  Sailings
    Winter
    Fares
  Handbook | audience=staff
  Offline | status=offline`)
	shows := func(label string) map[edit.Field]string {
		return map[edit.Field]string{edit.FieldShows: fmt.Sprintf("page:%d", testkit.Find(t, s, label))}
	}
	branch := map[edit.Field]string{edit.FieldShows: fmt.Sprintf("branch:%d:0:not", testkit.Find(t, s, "Sailings"))}
	s, _, err := edit.ApplyAll(s, []edit.Op{
		edit.OpMakeMenu{Menu: 2, Name: "Tasks", Entries: []edit.EntryForm{
			{ID: 11, Fields: shows("Winter")},
			{ID: 12, Fields: map[edit.Field]string{edit.FieldShows: "heading", edit.FieldLabel: "For staff"}},
			{ID: 13, Parent: 12, Fields: shows("Handbook")},
			{ID: 14, Fields: shows("Offline")},
			{ID: 15, Fields: branch},
		}},
		edit.OpMakeBlock{
			Block:  3,
			Fields: map[edit.Field]string{edit.FieldName: "Tasks block", edit.FieldPiece: "menu:2:1:1:whole:0:all"},
		},
		edit.OpPutPlacement{Placement: 3, Block: 3, Slot: edit.Slot{Region: "side"}},
	}, testkit.Now)
	require.NoError(t, err)
	d := Of(t, s, ops...)
	d.Menu = d.Site.Menu(2)
	d.Block = d.Showing(0)
	return d
}
