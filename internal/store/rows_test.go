package store_test

import (
	"fmt"
	"reflect"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
)

// filledSite has things of which every field has a value, as far as the tables let them: four pages, a menu with three
// items, three blocks, each with a place.
func filledSite(t *rapid.T, text string) *site.Site {
	var settings site.Settings
	testkit.Fill(t, &settings)
	b := site.NewBuilder(settings)
	b.SetTheme(testkit.Theme())
	ordered := func(from, until *time.Time) {
		if !until.After(*from) {
			*from, *until = *until, from.Add(time.Minute)
		}
	}
	for id := site.PageID(1); id <= 4; id++ {
		p := &site.Page{}
		testkit.Fill(t, p)
		p.ID, p.Parent, p.Key = id, min(id-1, 1), fmt.Sprintf("key-%d", id)
		p.Rank, p.Segment, p.Text, p.Date = fmt.Sprintf(
			"r%d",
			id,
		), fmt.Sprintf(
			"s%d",
			id,
		), text, "2026-11-2"+fmt.Sprint(
			id,
		)
		ordered(&p.LiveFrom, &p.LiveUntil)
		p.Binned, p.Purged = id == 3, id == 4
		for i := range p.Spells {
			p.Spells[i].Parent = 1
			ordered(&p.Spells[i].From, &p.Spells[i].Until)
		}
		b.Put(p)
	}
	kinds := make([]site.Kind, 2)
	menu := site.Menu{}
	testkit.Fill(t, &menu)
	menu.ID, menu.Entries = 1, make([]site.Entry, 3)
	for i := range menu.Entries {
		e := &menu.Entries[i]
		testkit.Fill(t, e)
		e.ID, e.Parent = site.EntryID(i+1), 0
		ordered(&e.LiveFrom, &e.LiveUntil)
	}
	menu.Entries[2].Parent = 2
	menus := []site.Menu{menu}
	for id := site.MenuID(2); id <= 4; id++ { // what blocks may show
		menus = append(menus, site.Menu{ID: id, Key: fmt.Sprint("m", id), Name: "Another", Entries: []site.Entry{
			{ID: site.EntryID(id + 2), Shows: site.ItemHeading{}, Label: "Heading"},
		}})
	}
	blocks, placements := make([]site.Block, 3), make([]site.Placement, 3)
	for i := range blocks {
		testkit.Fill(t, &blocks[i])
		testkit.Fill(t, &placements[i])
		blocks[i].ID, blocks[i].Heading = site.BlockID(i+1), 2+i
		if shows, isText := blocks[i].Shows.(site.BlockText); isText {
			shows.Text = text
			blocks[i].Shows = shows
		}
		p := &placements[i]
		p.ID, p.Block, p.Region = site.PlacementID(i+1), blocks[i].ID, fmt.Sprint("region ", i)
		ordered(&p.LiveFrom, &p.LiveUntil)
		for _, spots := range [][]site.Spot{p.Where, p.Except} {
			spots[0].Page, spots[1].Pattern = 0, "" // it names a page or a pattern
		}
	}
	for i := range kinds {
		testkit.Fill(t, &kinds[i])
		kinds[i].Key = fmt.Sprint("kind-", i)
	}
	details := make([]site.Detail, 2)
	for i := range details {
		testkit.Fill(t, &details[i])
		details[i].Key = fmt.Sprintf("kind-0.detail-%d", i)
	}
	b.SetRoles([]site.Role{{Key: "gone", Name: "Gone"}})
	b.SetRoles([]site.Role{
		{Key: "crew", Name: "Crew", Includes: []string{"hands", "mates"}, Grants: []site.Grant{
			{Action: site.ActionEdit, On: site.KindThing("notice")}, {Action: site.ActionLink, On: site.MenuThing(2)},
		}},
		{Key: "hands", Name: "Hands"},
		{Key: "mates", Name: "Mates", Grants: site.OnSite(site.ActionEdit, site.ActionKeep)},
	})
	b.SetKinds(kinds)
	b.SetDetails(details)
	b.SetMenus(menus)
	sets := []site.ConditionSet{{ID: 1, Name: "Isles"}, {ID: 2, Name: "All"}}
	testkit.Fill(t, &sets[0].Kinds)
	testkit.Fill(t, &sets[0].NotKinds)
	sets[0].Where = []site.Spot{{Page: 2, Branch: true}, {Pattern: "/a/**"}, {Page: 3}}
	sets[0].Except = []site.Spot{{Page: 4, Topic: true}}
	for i := range placements {
		placements[i].Set = rapid.SampledFrom([]site.SetID{0, 1, 2}).Draw(t, "set")
	}
	b.SetConditionSets(sets)
	b.SetBlocks(blocks, placements)
	return b.Site()
}

// Whatever fields things have, they come back from the tables as they were written: a column that is left out, or read
// into another's place, is found, and so is a field that is added and not kept.
func TestEveryFieldComesBackFromTheTables(t *testing.T) {
	st := storetest.New(t)
	hashes, err := st.SaveTexts(ctx, "<p>words</p>")
	require.NoError(t, err)
	filled := map[string]bool{} // fields that had a value once
	rapid.Check(t, func(rt *rapid.T) {
		is := filledSite(rt, hashes[0])
		read, err := st.WrittenAndRead(ctx, is)
		require.NoError(rt, err)
		require.Equal(rt, is.Settings(), read.Settings())
		require.Equal(rt, is.Kinds(), read.Kinds())
		require.Equal(rt, is.AllDetails(), read.AllDetails())
		for id := site.PageID(1); id <= 4; id++ {
			require.Equal(rt, *is.Page(id), *read.Page(id))
			noteFilled(filled, *is.Page(id))
		}
		for i := range is.Menus() {
			require.Equal(rt, is.Menus()[i], read.Menus()[i])
		}
		require.Equal(rt, is.Blocks(), read.Blocks())
		require.Equal(rt, is.Placements(), read.Placements())
		require.Equal(rt, is.ConditionSets(), read.ConditionSets())
		noteFilled(filled, is.ConditionSets()[0])
		noteFilled(filled, is.Settings())
		require.Equal(rt, is.Roles(), read.Roles())
		require.Equal(rt, is.RolesGone(), read.RolesGone())
		noteFilled(filled, is.Roles()[0])
		noteFilled(filled, is.Kinds()[0])
		noteFilled(filled, is.AllDetails()[0])
		noteFilled(filled, is.Menus()[0])
		noteFilled(filled, is.Menus()[0].Entries[2])
		noteFilled(filled, is.Blocks()[0])
		noteFilled(filled, is.Placements()[0])
	})
	for name, had := range filled {
		assert.True(t, had, "%s had no value in any case, so nothing is known of it", name)
	}
}

// noteFilled notes which fields of a struct have a value.
func noteFilled(filled map[string]bool, thing any) {
	v := reflect.ValueOf(thing)
	for i := range v.NumField() {
		if f := v.Type().Field(i); f.IsExported() {
			name := v.Type().Name() + "." + f.Name
			filled[name] = filled[name] || !v.Field(i).IsZero()
		}
	}
}

// Every field that operations edit is kept by some column, and no column says that it keeps one that there is not.
func TestEveryFieldIsKept(t *testing.T) {
	kept := store.KeptFields()
	for family, fields := range edit.Fields() {
		for _, field := range fields {
			assert.Contains(t, kept[family], field, "%s of a %s is in no table", field, family)
		}
		for _, field := range kept[family] {
			assert.Contains(t, fields, field, "a column keeps %s of a %s, which it does not have", field, family)
		}
	}
}

// The tables have the columns that rows are written to, and no others but those that they make themselves.
func TestTablesHaveTheColumnsThatRowsSay(t *testing.T) {
	st := storetest.New(t)
	own := map[string][]string{"site": {"id", "secret"}}
	for table, columns := range store.Tables() {
		var there []string
		require.NoError(t, st.DB().Select(&there, `SELECT column_name FROM information_schema.columns
			WHERE table_name = $1 AND is_generated = 'NEVER'`, table))
		there = slices.DeleteFunc(there, func(name string) bool { return slices.Contains(own[table], name) })
		assert.ElementsMatch(t, columns, there, table)
	}
}

// A row of a type that the program does not know is an error that names it, not something else.
func TestUnknownTypesAreRefusedAtLoad(t *testing.T) {
	st, _, _ := founded(t, "Home")
	st.DB().
		MustExec(`INSERT INTO blocks (id, name, title, titled, heading, type, settings) VALUES (77, 'X', '', false, 2,
			'carousel', '{}')`)
	assert.ErrorContains(t, st.Reload(ctx), "blocks of the type “carousel” are not known to this program")
	st.DB().MustExec(`UPDATE blocks SET type = 'image', settings = '{"file": "a.png", "zoom": 2}' WHERE id = 77`)
	assert.ErrorContains(t, st.Reload(ctx), "unknown field \"zoom\"")
}
