package layouts

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/web/workbench/desk"
	"vineladder/internal/web/workbench/desk/desktest"
)

// mapDesk looks at the blocks of a small site: a header, two in the side, one of which has conditions, one in the tray.
func mapDesk(t *testing.T, ops ...edit.Op) *desk.Desk {
	s := testkit.Outline(t, `
Home
  Sailings
    Winter
    Fares
  Harbours
    North pier
  Wide page | layout=wide`)
	id := func(label string) site.PageID { return testkit.Find(t, s, label) }
	s, _, err := edit.ApplyAll(s, []edit.Op{
		edit.OpMakeBlock{Block: 3, Fields: map[edit.Field]string{edit.FieldName: "Radio", edit.FieldPiece: "text:h"}},
		edit.OpPutPlacement{Placement: 3, Block: 3, Slot: edit.Slot{Region: "side"}, Fields: map[edit.Field]string{
			edit.FieldWhere: fmt.Sprintf(
				"branch:%d|page:%d",
				id("Harbours"),
				id("Wide page"),
			), edit.FieldExcept: fmt.Sprintf("page:%d", id("North pier")),
		}},
		edit.OpMakeBlock{Block: 4, Fields: map[edit.Field]string{edit.FieldName: "Storm", edit.FieldPiece: "text:"}},
	}, testkit.Now)
	require.NoError(t, err)
	return desktest.Of(t, s, ops...)
}

func mapOf(d *desk.Desk, page site.PageID, chip string) *layoutsView {
	if d.Selected = page; page == 0 {
		d.Selected = d.Site.Home()
	}
	v := &layoutsView{
		Screen: desk.Screen{Desk: d},
		Layout: region.LayoutOf(d.Site, d.Selected).Layout,
		Chip:   readChip(chip),
	}
	if page != 0 {
		v.OnPage = d.Site.Page(page)
	}
	v.fill()
	return v
}

// drawMap writes a map as "region: chip (why not here), chip".
func drawMap(v *layoutsView) map[string]string {
	drawn := map[string]string{}
	for _, area := range v.Areas {
		for i, chip := range area.Chips {
			if i > 0 {
				drawn[area.Key] += ", "
			}
			drawn[area.Key] += chip.Name
			if chip.Ghost != "" {
				drawn[area.Key] += " (" + chip.Ghost + ")"
			}
		}
	}
	for _, chip := range v.Tray {
		drawn["tray"] += chip.Name
	}
	return drawn
}

func TestTheMapShowsALayoutAndAPage(t *testing.T) {
	d := mapDesk(t)
	assert.Equal(
		t,
		map[string]string{"header": "Header", "side": "Side menu, Radio", "tray": "Storm"},
		drawMap(mapOf(d, 0, "")),
	)
	assert.Equal(
		t,
		map[string]string{"header": "Header", "side": "Side menu, Radio (the page is left out)", "tray": "Storm"},
		drawMap(mapOf(d, testkit.Find(t, d.Site, "North pier"), "")),
	)
	assert.Equal(
		t,
		map[string]string{
			"header": "Header",
			"side":   "Side menu, Radio (the page is not among those that it is for)",
			"tray":   "Storm",
		},
		drawMap(mapOf(d, testkit.Find(t, d.Site, "Fares"), "")),
	)
	assert.Equal(
		t,
		map[string]string{"header": "Header", "tray": "Storm"},
		drawMap(mapOf(d, testkit.Find(t, d.Site, "Wide page"), "")),
		"its layout has no side",
	)
	v := mapOf(d, 0, "p3")
	chip := v.Areas[1].Chips[1]
	assert.True(t, chip.Selected)
	assert.Equal(t, 2, chip.Order)
	assert.Equal(t, "conditional · in all layouts", chip.Where)
	assert.Equal(t, []string{"header", "side", "content", "footer"}, v.Layout.Order(false), "row by row")
	assert.Equal(t, []string{"header", "content", "side", "footer"}, v.Layout.Order(true))
	assert.Equal(
		t,
		[]layoutBox{{0, 0, 2, 1, 2, false}, {0, 1, 1, 1, 2, false}, {1, 1, 1, 1, 2, true}, {0, 2, 2, 1, 2, false}},
		boxes(v.Layout),
	)
}

func TestTheMapMarksWhatTheDraftDid(t *testing.T) {
	d := mapDesk(
		t,
		edit.OpMovePlacement{Placement: 3, To: edit.Slot{Region: "side", Before: 2}},
		edit.OpEditPlacement{Placement: 1, Fields: []edit.FieldChange{{Field: edit.FieldOn, Old: "yes", New: "no"}}},
		edit.OpPutPlacement{Placement: 9, Block: 4, Slot: edit.Slot{Region: "footer"}},
	)
	assert.Equal(t, map[site.PlacementID]string{1: "Edited", 3: "Moved", 9: "New"}, changedPlaces(d))
	d.State = "now"
	assert.Empty(t, changedPlaces(d))
}

func TestConditionsInWords(t *testing.T) {
	d := mapDesk(t)
	p := d.Site.Placement(3)
	assert.Equal(t, "On Harbours and all below it and on Wide page, but not on North pier.", conditionWords(d, p))
	for want, c := range map[string]site.Conditions{
		"On every page.": {},
		"On every page, of the type page or page, not of the type page, for signed in.": {
			Kinds:    []string{"page", "page"},
			NotKinds: []string{"page"}, Audience: site.AudienceSignedIn,
		},
		"On addresses like /notices/**, from 24 Nov 2026, 12:00, until 24 Nov 2026, 12:00.": {
			Where: []site.Spot{{Pattern: "/notices/**"}}, LiveFrom: testkit.Now, LiveUntil: testkit.Now,
		},
		"On a page that is gone (in the bin).": {Where: []site.Spot{{Page: 99}}},
	} {
		assert.Equal(t, want, conditionWords(d, &site.Placement{Conditions: c}))
	}
}

// mapForm makes a form of the layouts area.
func mapForm(do, chip string, fields ...string) *mapIntent {
	form := map[string]string{}
	for i := 0; i < len(fields); i += 2 {
		form[fields[i]] = fields[i+1]
	}
	return &mapIntent{
		do:           do,
		chip:         readChip(chip),
		form:         func(name string) string { return form[name] },
		newBlock:     77,
		newPlacement: 77,
		hash:         "new",
	}
}

func TestWhatIsDoneOnTheMap(t *testing.T) {
	d := mapDesk(t)
	for _, c := range []struct {
		i      *mapIntent
		region string
		want   string
		words  string
	}{
		{mapForm("nudge", "p3", "way", "up", "layout", "standard"), "side", "Radio, Side menu", "moved “Radio”"},
		{mapForm("nudge", "p2", "way", "down", "layout", "standard"), "side", "Radio, Side menu", "moved “Side menu”"},
		{mapForm("nudge", "p3", "way", "right", "layout", "standard"), "footer", "Radio", "moved “Radio”"},
		{mapForm("nudge", "p3", "way", "left", "layout", "standard"), "header", "Header, Radio", "moved “Radio”"},
		{mapForm("move", "p1", "target", "p2", "way", "after"), "side", "Side menu, Header, Radio", "moved “Header”"},
		{mapForm("move", "p3", "target", "p2", "way", "before"), "side", "Radio, Side menu", "moved “Radio”"},
		{mapForm("move", "p3", "region", "header", "position", "1"), "header", "Radio, Header", "moved “Radio”"},
		{mapForm("position", "p3", "position", "1"), "side", "Radio, Side menu", "moved “Radio”"},
		{mapForm("place", "b4", "region", "side", "position", "2"), "side", "Side menu, Storm, Radio", "put “Storm”"},
		{mapForm("place", "p3", "region", "footer", "layout", "wide"), "footer", "", "put “Radio”"},
		{mapForm("take", "p3"), "side", "Side menu", "took “Radio” out of the region “Side”; the block is kept"},
		{
			mapForm("make", "", "sort", "menu", "of", "1", "region", "footer"), "footer", "Main menu",
			"made the block “Main menu”",
		},
		{
			mapForm("make", "", "sort", "breadcrumb", "region", "header"), "header", "Header, Breadcrumb",
			"made the block “Breadcrumb”",
		},
		{
			mapForm("field", "p3", "field", "on", "old", "yes", "new", "no"), "side", "Side menu, Radio",
			"switched off “Radio”",
		},
		{
			mapForm("block-field", "p3", "field", "name", "old", "Radio", "new", "Harbour radio"), "side",
			"Side menu, Harbour radio", "changed the name of “Radio”",
		},
		{mapForm("text", "p3", "old", "h"), "side", "Side menu, Radio", "wrote the text of “Radio”"},
	} {
		ops, words, err := c.i.operations(d.Draft.Site)
		require.NoError(t, err, c.words)
		next, _, err := edit.ApplyAll(d.Draft.Site, ops, testkit.Now)
		require.NoError(t, err, c.words)
		on := *d
		on.Site = next
		assert.Equal(t, c.want, drawMap(mapOf(&on, 0, ""))[c.region], "%s %s", c.i.do, c.words)
		assert.Equal(t, c.words, words)
	}
}

func TestItemsOfAConditionComeAndGo(t *testing.T) {
	d := mapDesk(t)
	ops, _, err := mapForm("add", "p3", "field", "except", "item", "pattern:/notices/**").operations(d.Draft.Site)
	require.NoError(t, err)
	next, _, err := edit.ApplyAll(d.Draft.Site, ops, testkit.Now)
	require.NoError(t, err)
	assert.Len(t, next.Placement(3).Except, 2)
	pier := fmt.Sprintf("page:%d", testkit.Find(t, next, "North pier"))
	ops, _, err = mapForm("drop", "p3", "field", "except", "item", pier).operations(next)
	require.NoError(t, err)
	next, _, err = edit.ApplyAll(next, ops, testkit.Now)
	require.NoError(t, err)
	assert.Equal(t, []site.Spot{{Pattern: "/notices/**"}}, next.Placement(3).Except)
}

func TestWhatIsRefusedOnTheMap(t *testing.T) {
	d := mapDesk(t)
	for _, c := range []struct {
		i    *mapIntent
		want string
	}{
		{mapForm("nudge", "p2", "way", "up", "layout", "standard"), "It is the first in “Side” already."},
		{mapForm("nudge", "p3", "way", "down", "layout", "standard"), "It is the last in “Side” already."},
		{
			mapForm("nudge", "p1", "way", "left", "layout", "standard"),
			"There is no region beyond “Header” in the layout “Standard”.",
		},
		{mapForm("move", "p3", "target", "p3"), "A block can't stand beside itself."},
		{mapForm("move", "p3"), "Choose the region to which the block should move."},
		{mapForm("place", "b4"), "Choose the region in which the block should stand."},
		{mapForm("take", "p99"), "The block is not there any more."},
		{mapForm("position", "b4", "position", "1"), "The block does not stand there any more."},
		{mapForm("make", "", "sort", "menu"), "Choose the menu that the block should show."},
		{mapForm("make", "", "sort", "image"), "Choose or upload the image"},
		{mapForm("dance", "p3"), "This edit is not known."},
	} {
		_, _, err := c.i.operations(d.Draft.Site)
		assert.ErrorContains(t, err, c.want, c.i.do)
	}
}

// A region says which pages' layouts lack it while a block counts on it, by name or by type.
func TestARegionThatALayoutLacks(t *testing.T) {
	d := mapDesk(t)
	sheet := regionSheetOf(d, d.Site.Theme().Region("side"))
	assert.Equal(t, []string{"Standard"}, sheet.Layouts)
	require.Len(t, sheet.Lacks, 1)
	assert.Equal(t, "Radio", sheet.Lacks[0].Name)
	assert.Equal(t, "Wide page", sheet.Lacks[0].First[0].Label)
	assert.Empty(t, regionSheetOf(d, d.Site.Theme().Region("header")).Lacks)
}

func TestTheSheetOfABlock(t *testing.T) {
	d := mapDesk(
		t,
		edit.OpPutPlacement{
			Placement: 9,
			Block:     3,
			Slot:      edit.Slot{Region: "footer"},
			Fields:    map[edit.Field]string{edit.FieldLayout: "wide", edit.FieldOn: "no"},
		},
	)
	sheet := blockSheetOf(d, readChip("p3"))
	assert.Equal(t, "Radio", sheet.Name)
	assert.Equal(
		t,
		[]blockPlace{{"p9", "Footer, 1 of 1, only in Wide, switched off", false}, {"p3", "Side, 2 of 2", true}},
		sheet.Places,
	)
	assert.Equal(t, 1, sheet.Pages, "Harbours; North pier is left out, and the wide layout has no side")
	assert.Equal(t, []spotWords{{"page:6", "North pier", false}}, sheet.Place.Pages.Except)
	tray := blockSheetOf(d, readChip("b4"))
	assert.True(t, tray.Removed)
	assert.Nil(t, tray.Place)
	assert.Nil(t, blockSheetOf(d, readChip("p99")))
	for typed, id := range map[string]chipID{
		"p12": {Placement: 12}, "b5": {Block: 5}, "r:side": {Region: "side"}, "": {}, "s7": {Set: 7}, "s": {Sets: true},
		"zzz": {},
	} {
		assert.Equal(t, id, readChip(typed))
		if id != (chipID{}) {
			assert.Equal(t, typed, id.String())
		}
	}
}

func TestWhatDecidesOnALayout(t *testing.T) {
	d := mapDesk(t)
	say := func(label string) string {
		d.Selected = testkit.Find(t, d.Site, label)
		return d.DecidedBy(region.LayoutOf(d.Site, d.Selected))
	}
	assert.Equal(t, "the one of the site", say("Fares"))
	assert.Equal(t, "set on the page itself", say("Wide page"))
	next, _, err := edit.ApplyAll(
		d.Site,
		[]edit.Op{
			edit.OpEdit{
				Page:   testkit.Find(t, d.Site, "Sailings"),
				Fields: []edit.FieldChange{{Field: edit.FieldBranchLayout, New: "wide"}},
			},
		},
		testkit.Now,
	)
	require.NoError(t, err)
	d.Site = next
	assert.Equal(t, "set for all below “Sailings”", say("Fares"))
	assert.Equal(t, "set here for it and all below", say("Sailings"))
}

func TestTargets(t *testing.T) {
	d := mapDesk(t)
	s := &desk.Server{Settings: desk.Settings{Site: "https://harbour.example"}}
	path, own := s.OwnPath("https://harbour.example/sailings/fares#prices")
	assert.True(t, own)
	hits := d.PagesFor(path, testkit.Now)
	require.NotEmpty(t, hits)
	assert.Equal(t, "Fares", hits[0].Label)
	assert.Equal(t, "Page, 2 of 2 in “Sailings”, after “Winter”", hits[0].Where)
	assert.Equal(t, "This visitor sees this page", hits[0].Reach)
	others, err := s.OtherTargets("https://tides.example/", false, []string{"web", "file", "link"})
	require.NoError(t, err)
	assert.Equal(t, "web:https://tides.example/", others[0].Key)
	others, _ = s.OtherTargets("gopher:x", false, []string{"web"})
	assert.NotEmpty(t, others[0].Fault)
	others, _ = s.OtherTargets("sign", false, []string{"link"})
	assert.Len(t, others, 2)
}
