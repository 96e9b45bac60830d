package menus

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/web/workbench/desk"
	"vineladder/internal/web/workbench/desk/desktest"
)

func drawItems(l itemLadder) string {
	var lines []string
	for _, r := range l.Rows {
		line := fmt.Sprintf("%s%s %s", strings.Repeat("  ", r.Level-1), r.Label, r.Shape)
		for _, word := range []string{r.Change, r.Ghost} {
			if word != "" {
				line += " | " + word
			}
		}
		if r.Cut {
			line += " | shown here"
		}
		lines = append(lines, line)
	}
	return strings.Join(lines, "\n")
}

func TestTheLadderOfAMenu(t *testing.T) {
	d := desktest.WithMenus(t)
	assert.Equal(t, `Winter full | shown here
For staff stub
  Handbook stub
Offline stub
Sailings full
  Winter full | shown here
  Fares full | shown here`,
		drawItems(items(d, nil, nil, 0, 100)), "automatic lines stand below the item that makes them")
	d.Lens.Visitor = reach.Visitor{SignedIn: true, Roles: []string{"staff"}}
	rows := items(d, nil, nil, 0, 100).Rows
	assert.Equal(t, "Yes", rows[1].Shows)
	assert.Equal(t, "the block ends above this level", rows[2].Outside)
	d.Lens.Visitor = reach.Visitor{}
	rows = items(d, nil, nil, 0, 100).Rows
	assert.Equal(t, "No: nothing below it shows", rows[1].Shows)
	assert.Equal(t, "No: its page is for staff", rows[2].Shows)
	assert.Equal(t, "No: its page is not online", rows[3].Shows)
	assert.Equal(
		t,
		3,
		len(items(d, map[site.PageID]bool{12: true, 15: true}, nil, 0, 100).Rows)-1,
		"closed items are one row",
	)
	assert.Equal(
		t,
		"Offline stub\nSailings full",
		drawItems(items(d, map[site.PageID]bool{15: true}, nil, 3, 2)),
		"one window",
	)
	d.Filter.Question = "stub"
	assert.Equal(
		t,
		"For staff stub\n  Handbook stub\nOffline stub",
		drawItems(items(d, nil, nil, 0, 100)),
		"the Key keeps one shape, with what stands above",
	)
}

func TestTheLadderMarksWhatTheDraftDid(t *testing.T) {
	d := desktest.WithMenus(
		t,
		edit.OpMoveEntry{Entry: 14, To: edit.Gap{Menu: 2, Before: 11}},
		edit.OpTakeEntry{Entry: 13},
		edit.OpEditEntry{
			Menu:   2,
			Entry:  11,
			Fields: []edit.FieldChange{{Field: edit.FieldLabel, Old: "", New: "Timetable"}},
		},
		edit.OpPutEntries{
			Gap: edit.Gap{Menu: 2},
			Entries: []edit.EntryForm{
				{
					ID: 21,
					Fields: map[edit.Field]string{
						edit.FieldShows: "web:https://tides.example/",
						edit.FieldLabel: "Tides",
					},
				},
			},
		},
		edit.OpMoveEntry{Entry: 15, To: edit.Gap{Menu: 1}},
	)
	assert.Equal(t, `Offline stub | Moved
Sailings stub | moved to “Main menu”
Timetable full | Edited | shown here
For staff stub
  Handbook stub | taken out
Tides full | New | shown here`, drawItems(items(d, nil, nil, 0, 100)))
}

// intent makes a form of the menus area.
func intentOf(d *desk.Desk, do string, fields ...string) *menuIntent {
	form := map[string]string{}
	for i := 0; i < len(fields); i += 2 {
		form[fields[i]] = fields[i+1]
	}
	i := &menuIntent{do: do, menu: d.Menu.ID, form: func(name string) string { return form[name] }}
	for part := range strings.SplitSeq(form["items"], ",") {
		if id := desk.ReadItem(part); id.Entry != 0 {
			i.items = append(i.items, id)
		}
	}
	i.pretend(d.Draft.Site)
	return i
}

// did applies a form and draws the menu.
func did(t *testing.T, d *desk.Desk, i *menuIntent) (string, string) {
	ops, words, err := i.operations(d.Draft.Site)
	require.NoError(t, err)
	next, _, err := edit.ApplyAll(d.Draft.Site, ops, testkit.Now)
	require.NoError(t, err)
	on := *d
	on.Site, on.Menu = next, next.Menu(2)
	if on.Menu == nil {
		return "", words
	}
	var labels []string
	var list func(parent site.EntryID)
	list = func(parent site.EntryID) {
		for _, id := range on.Menu.Below(parent) {
			labels = append(labels, next.EntryLabel(on.Menu.Entry(id)))
			if len(on.Menu.Below(id)) > 0 {
				labels = append(labels, "(")
				list(id)
				labels = append(labels, ")")
			}
		}
	}
	list(0)
	return strings.Join(labels, " "), words
}

func TestWhatIsDoneWithItems(t *testing.T) {
	d := desktest.WithMenus(t)
	for _, c := range []struct {
		i           *menuIntent
		want, words string
	}{
		{
			intentOf(d, "put", "shows", "page:3", "target", "11", "way", "before"),
			"Winter Winter For staff ( Handbook ) Offline Sailings", "put an item into “Tasks”",
		},
		{
			intentOf(d, "put", "shows", "web:https://tides.example/", "label", "Tides", "target", "12", "way", "into"),
			"Winter For staff ( Handbook Tides ) Offline Sailings", "put an item into “Tasks”",
		},
		{
			intentOf(d, "nudge", "items", "14", "way", "up"), "Winter Offline For staff ( Handbook ) Sailings",
			"moved “Offline”",
		},
		{
			intentOf(d, "nudge", "items", "14", "way", "in"), "Winter For staff ( Handbook Offline ) Sailings",
			"moved “Offline”",
		},
		{intentOf(d, "nudge", "items", "13", "way", "out"), "Winter For staff Handbook Offline Sailings", "moved “Handbook”"},
		{
			intentOf(d, "nudge", "items", "11", "way", "down"), "For staff ( Handbook ) Winter Offline Sailings",
			"moved “Winter”",
		},
		{
			intentOf(d, "position", "items", "15", "position", "1"), "Sailings Winter For staff ( Handbook ) Offline",
			"moved “Sailings”",
		},
		{
			intentOf(d, "move", "items", "11,14", "target", "13", "way", "after"),
			"For staff ( Handbook Winter Offline ) Sailings", "moved 2 items",
		},
		{
			intentOf(d, "copy", "items", "12", "target", "11", "way", "before"),
			"For staff ( Handbook ) Winter For staff ( Handbook ) Offline Sailings", "copied “For staff”",
		},
		{intentOf(d, "take", "items", "12,13"), "Winter Offline Sailings", "took 2 items out of “Tasks”"},
		{
			intentOf(d, "take", "items", "11"), "For staff ( Handbook ) Offline Sailings",
			"took “Winter” out of “Tasks”; its page stays",
		},
		{
			intentOf(d, "field", "items", "11", "field", "label", "new", "Timetable"),
			"Timetable For staff ( Handbook ) Offline Sailings", "changed the label of “Winter”",
		},
		{
			intentOf(d, "field", "items", "11", "field", "shows", "old", "page:3", "new", "heading", "label", "Winter"),
			"Winter For staff ( Handbook ) Offline Sailings", "changed where it leads: “Winter”",
		},
		{
			intentOf(d, "set", "items", "11,14", "field", "on", "new", "no"), "Winter For staff ( Handbook ) Offline Sailings",
			"switched off 2 items",
		},
	} {
		got, words := did(t, d, c.i)
		assert.Equal(t, c.want, got, "%s %+v", c.i.do, c.i.items)
		assert.Equal(t, c.words, words)
	}
}

func TestWhatIsRefusedWithItems(t *testing.T) {
	d := desktest.WithMenus(t)
	for _, c := range []struct {
		i    *menuIntent
		want string
	}{
		{intentOf(d, "nudge", "items", "11", "way", "up"), "“Winter” is the first here already."},
		{intentOf(d, "nudge", "items", "15", "way", "down"), "“Sailings” is the last here already."},
		{intentOf(d, "nudge", "items", "11", "way", "in"), "“Winter” has nothing before it to go into."},
		{intentOf(d, "nudge", "items", "11", "way", "out"), "“Winter” is at the top level already."},
		{intentOf(d, "position", "items", "11", "position", "9"), "A position here is a number from 1 to 4."},
		{intentOf(d, "take", "items", "15-3"), "This line is automatic: “Sailings” makes it"},
		{intentOf(d, "put", "shows", "page:3", "target", "15-3", "way", "after"), "This line is automatic"},
		{intentOf(d, "put", "shows", "page:3", "target", "99"), "The item to put it by is not there any more."},
		{intentOf(d, "take", "items", "99"), "The item is not in this menu any more."},
		{intentOf(d, "dance", "items", "11"), "This edit is not known."},
		{intentOf(d, "take-menu"), "“Tasks block” shows this menu and stands in 1 place; take it out there first."},
		{intentOf(d, "window", "block", "99"), "The block is not there any more."},
		{intentOf(d, "window", "block", "1"), "“Header” shows another menu by now."},
		{intentOf(d, "window", "block", "3", "first", "x"), "The first level is a number."},
		{intentOf(d, "place"), "Choose the region in which the menu should stand."},
	} {
		_, _, err := c.i.operations(d.Draft.Site)
		assert.ErrorContains(t, err, c.want, c.i.do)
	}
}

func TestMenusAreMadeCopiedAndPlaced(t *testing.T) {
	d := desktest.WithMenus(t)
	apply := func(i *menuIntent) *site.Site {
		ops, _, err := i.operations(d.Draft.Site)
		require.NoError(t, err)
		next, _, err := edit.ApplyAll(d.Draft.Site, ops, testkit.Now)
		require.NoError(t, err)
		return next
	}
	next := apply(
		intentOf(
			d,
			"make-menu",
			"name",
			"Seasons",
			"region",
			"side",
			"position",
			"1",
			"title",
			"This season",
			"levels",
			"1",
		),
	)
	made := next.MenuByKey("seasons")
	require.NotNil(t, made)
	on := *d
	on.Site = next
	choices, where := blockChoices(&on, made)
	assert.Equal(t, "level 1", choices[0].Words)
	assert.Empty(t, where, "an empty menu renders nowhere")
	assert.Equal(t, "Side, 1 of 3", on.PlaceWords(next.Placement(desk.TryEntry)))
	assert.True(t, next.Block(desk.TryEntry).Titled)

	next = apply(intentOf(d, "copy-menu", "name", "More tasks"))
	assert.Len(t, next.MenuByKey("more-tasks").Entries, 5)
	next = apply(intentOf(d, "menu-field", "field", "name", "old", "Tasks", "new", "Errands"))
	assert.Equal(t, "Errands", next.Menu(2).Name)
	next = apply(intentOf(d, "window", "block", "3", "first", "2", "levels", "1", "from", "entry"))
	_, window, _ := next.Block(3).Menu()
	assert.Equal(
		t,
		site.Window{First: 2, Levels: 1, From: site.FromEntry, Entry: 12, Unfold: site.UnfoldAll},
		window,
		"the first item that has any below it",
	)
	_, where = blockChoices(d, d.Menu)
	assert.Equal(t, "On 4 pages through “Tasks block”", where)
}

func TestWindowsInWords(t *testing.T) {
	d := desktest.WithMenus(t)
	for want, w := range map[string]site.Window{
		"all levels":                            {First: 1, From: site.FromWhole},
		"level 1":                               {First: 1, Levels: 1, From: site.FromTrail},
		"levels 1 to 2":                         {First: 1, Levels: 2, From: site.FromTrail},
		"from level 2 on, where the visitor is": {First: 2, From: site.FromTrail},
		"level 2, of the whole menu":            {First: 2, Levels: 1, From: site.FromWhole},
		"all levels below “For staff”":          {First: 2, From: site.FromEntry, Entry: 12},
		"level 1 below one item":                {Levels: 1, From: site.FromEntry, Entry: 99},
	} {
		assert.Equal(t, want, d.WindowWordsOf(d.Menu, w))
	}
	form := windowFormOf(d, 2)
	assert.Equal(t, []head{{1, true}, {2, false}, {3, false}}, form.Heads)
	assert.Equal(t, 1, form.Last())
	assert.Len(t, form.From, 2)
}

func TestWhoSeesWhichItem(t *testing.T) {
	d := desktest.WithMenus(
		t,
		edit.OpEditEntry{
			Menu:   2,
			Entry:  11,
			Fields: []edit.FieldChange{{Field: edit.FieldAudience, Old: "", New: "staff"}},
		},
	)
	viewers := consequence.ViewersOf(d.Site, nil, testkit.Now)
	rows := matrix(d, viewers)
	assert.Equal(t, "Winter", rows[0].Label)
	assert.Equal(
		t,
		[]string{"sees → not", "sees → not", "sees", "sees", "sees → not"},
		rows[0].Cells,
		"signed out, signed in, staff, harbour masters, operators",
	)
	assert.True(t, rows[0].Differs)
	assert.Equal(t, []string{"not", "not", "sees", "sees", "not"}, rows[2].Cells, "the page is for staff")
	assert.Equal(t, "Fares", rows[6].Label, "automatic lines are told apart too")
	assert.False(t, rows[6].Differs)
	assert.True(t, resultOf(d, viewers).Placed)
	d.Site = testkit.Outline(t, "Home")
	d.Block = nil
	assert.Equal(t, "No block shows this menu.", resultOf(d, viewers).Why)
}

func TestTheSheetOfAnItem(t *testing.T) {
	s := &Area{Server: &desk.Server{}}
	d := desktest.WithMenus(
		t,
		edit.OpEditEntry{
			Menu:  2,
			Entry: 11,
			Fields: []edit.FieldChange{
				{Field: edit.FieldBadgeText, New: "New"},
				{Field: edit.FieldBadgePair, New: "#ffffff on #12414a"},
			},
		},
	)
	d.Item = desk.ReadItem("11")
	sheet := s.itemSheet(d)
	assert.Equal(t, "1 of 4 in “Tasks”, before “For staff”", sheet.Where)
	assert.Equal(t, "11.16", sheet.Ratio)
	assert.True(t, sheet.Free())
	assert.Equal(t, "page", sheet.Sort)
	d.Item = desk.ReadItem("13")
	assert.Equal(t, "1 of 1 below “For staff”, level 2 of “Tasks”", s.itemSheet(d).Where)
	d.Item = desk.ReadItem("15-3")
	sheet = s.itemSheet(d)
	assert.Equal(
		t,
		"Grown by “Sailings”: it follows the tree, where it is 1 of 2 in “Sailings”, before “Fares”",
		sheet.Where,
	)
	d.Item = desk.ItemID{}
	assert.Nil(t, s.itemSheet(d))
	for typed, id := range map[string]desk.ItemID{
		"12": {Entry: 12}, "12-345": {Entry: 12, Page: 345}, "": {}, "x": {},
	} {
		assert.Equal(t, id, desk.ReadItem(typed))
	}
}

// A ladder that is kept is the one that would be laid out: for another Site, visitor, item, fold or moment it is
// another.
func TestKeptLaddersOfItemsAreAsFreshOnes(t *testing.T) {
	d := desktest.WithMenus(t)
	ladders := &itemLadders{}
	for range 2 {
		for _, as := range []string{"", "staff"} {
			for _, closed := range []map[site.PageID]bool{nil, {12: true}, {12: false}, {12: true, 15: true}} {
				for _, question := range []string{"", "stub"} {
					d.As, d.Filter.Question = as, question
					d.Lens = d.LensAt(testkit.Now)
					assert.Equal(
						t,
						drawItems(items(d, closed, nil, 1, 4)),
						drawItems(ladders.of(d, closed, nil).window(1, 4)),
					)
				}
			}
		}
	}
	assert.Len(t, ladders.kept, 12, "nothing closed, and one item that is not, are the same")
	before := drawItems(ladders.of(d, nil, nil).window(0, 100))
	d.Lens.At = testkit.Now.AddDate(1, 0, 0)
	assert.Equal(t, drawItems(items(d, nil, nil, 0, 100)), drawItems(ladders.of(d, nil, nil).window(0, 100)), before)
}

// The bracket has every level that lines of the menu can stand at, closed ones among them.
func TestHowDeepMenusGo(t *testing.T) {
	s := testkit.Outline(
		t,
		"Home\n  A\n    B\n      C\n        D\n  E | listed=no\n    F\n      G\n        H\n          I",
	)
	root := testkit.Find(t, s, "Home")
	for want, entries := range map[int][]site.Entry{
		1: {{ID: 1, Shows: site.ItemHeading{}}},
		2: {{ID: 1, Shows: site.ItemHeading{}}, {ID: 2, Parent: 1, Shows: site.ItemPage{Page: root}}},
		4: {{ID: 1, Shows: site.ItemBranch{Root: root, Self: site.SelfBeside}}},
		5: {{ID: 1, Shows: site.ItemBranch{Root: root, Self: site.SelfAbove}}},
		3: {{ID: 1, Shows: site.ItemBranch{Root: root, Self: site.SelfNot, Depth: 3}}},
	} {
		m := &site.Menu{ID: 1, Entries: entries}
		assert.Equal(t, want, depthOf(s, m))
	}
}
