package edit_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// grownSite has a menu whose one item grows from a topic list, with an item below one of its lines.
func grownSite(t *testing.T) *site.Site {
	s := testkit.Outline(t, `
Home
  Fog | topics=page:4 listing=notice;;;newest;5
  Places | kind=topic-list
    Øyra | kind=topic
    The Calf | kind=topic
  Crew | audience=staff`)
	for _, op := range []edit.Op{
		edit.OpMakeMenu{Menu: 9, Name: "Islands"},
		put(50, edit.Gap{Menu: 9}, "branch:3:1:not:least=1:by=count:count", ""),
		put(51, edit.Gap{Menu: 9, Parent: 50, Under: 4}, "web:https://tides.example/", "Tides"),
	} {
		next, _, err := edit.Apply(s, op, testkit.Now)
		require.NoError(t, err)
		s = next
	}
	return s
}

func put(id site.EntryID, gap edit.Gap, shows, label string) edit.Op {
	return edit.OpPutEntries{Gap: gap, Entries: []edit.EntryForm{
		{ID: id, Fields: map[edit.Field]string{edit.FieldShows: shows, edit.FieldLabel: label}},
	}}
}

func editItem(id site.EntryID, field edit.Field, old, now string) edit.Op {
	return edit.OpEditEntry{Menu: 9, Entry: id, Fields: []edit.FieldChange{{Field: field, Old: old, New: now}}}
}

func TestGrowthThatCanNotBeIsRefused(t *testing.T) {
	s := grownSite(t)
	const stands = "branch:3:1:not:least=1:by=count:count"
	for says, op := range map[string]edit.Op{
		"“Fog” is no topic list and no topic": put(60, edit.Gap{Menu: 9}, "branch:2:0:not:least=2", ""),
		"lines have no counts":                put(60, edit.Gap{Menu: 9}, "branch:2:0:not:by=count", ""),
		"“Places” lists no pages by itself":   put(60, edit.Gap{Menu: 9}, "branch:3:0:not:hits=3", ""),
		"in the order of its list":            put(60, edit.Gap{Menu: 9}, "branch:2:0:not:hits=3:by=label", ""),
		"is a number from 0 to 50":            put(60, edit.Gap{Menu: 9}, "branch:2:0:not:hits=51", ""),
		"is a number from 0 to 1,000,000":     put(60, edit.Gap{Menu: 9}, "branch:3:0:not:least=many", ""),
		"has no setting “most”":               put(60, edit.Gap{Menu: 9}, "branch:3:0:not:most=1", ""),
		"There are items below its automatic": editItem(50, edit.FieldShows, stands, "page:3"),
		"makes no lines by itself any more":   put(60, edit.Gap{Menu: 9, Parent: 51, Under: 4}, "page:2", ""),
		"none can be put among them by hand":  put(60, edit.Gap{Menu: 9, Parent: 50}, "page:2", ""),
		"the line to put it below is not":     put(60, edit.Gap{Menu: 9, Parent: 50, Under: 99}, "page:2", ""),
		"“up;;” can't be set of a line":       editItem(50, edit.LineField(4), "", "up;;"),
		"The page of the line is not there":   editItem(50, edit.LineField(99), "", "first;;"),
		"settings of single lines can't be":   editItem(50, edit.FieldLines, "", "[]"),
		"The line of the item “Places” was":   editItem(50, edit.LineField(4), "last;;", "first;;"),
	} {
		_, _, err := edit.Apply(s, op, testkit.Now)
		assert.ErrorContains(t, err, says)
	}
}

// Two people who set different lines of one item don't meet; what is set stays while the line is not there, and is
// taken back alone.
func TestLinesAreSetOneByOne(t *testing.T) {
	s := grownSite(t)
	mine, settled, err := edit.Apply(s, editItem(50, edit.LineField(4), "", "first;;The big island"), testkit.Now)
	require.NoError(t, err)
	both, _, err := edit.Apply(mine, editItem(50, edit.LineField(5), "", ";hidden;"), testkit.Now)
	require.NoError(t, err)
	e := both.Menu(9).Entry(50)
	assert.Equal(t, site.GrownLine{Pin: site.GrownFirst, Label: "The big island"}, e.Line(4))
	assert.Equal(t, site.GrownLine{Hidden: true}, e.Line(5))
	back, _, err := edit.Apply(both, settled.Inverse(), testkit.Now)
	require.NoError(t, err)
	assert.Equal(t, map[site.PageID]site.GrownLine{5: {Hidden: true}}, back.Menu(9).Entry(50).Lines())
}

// An item that leaves a line for some takes their audience along, as one that leaves an item for some does (rules 2.6).
func TestAnItemThatLeavesALineStaysClosed(t *testing.T) {
	s := grownSite(t)
	for _, op := range []edit.Op{
		put(70, edit.Gap{Menu: 9}, "branch:1:1:not", ""),
		put(71, edit.Gap{Menu: 9, Parent: 70, Under: 6}, "web:https://rota.example/", "Rota"),
		edit.OpMoveEntry{Entry: 71, To: edit.Gap{Menu: 9}},
	} {
		next, _, err := edit.Apply(s, op, testkit.Now)
		require.NoError(t, err)
		s = next
	}
	assert.Equal(t, site.Audience("staff"), s.Menu(9).Entry(71).Audience)
}
