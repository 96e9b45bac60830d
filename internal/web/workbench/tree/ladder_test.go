package tree

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/store"
	"vineladder/internal/web/workbench/desk"
	"vineladder/internal/web/workbench/desk/desktest"
)

func all(s *site.Site) map[site.PageID]bool {
	open := map[site.PageID]bool{}
	s.Walk(s.Home(), func(p *site.Page) bool { open[p.ID] = true; return true })
	return open
}

// draw writes a ladder as lines: level, shape, label, what the draft did.
func draw(l ladder) string {
	var lines []string
	for _, r := range l.Rows {
		line := fmt.Sprintf("%d %s %s", r.Level, r.Shape, r.Label)
		for _, word := range []string{r.Change, r.Ghost, r.Audience} {
			if word != "" {
				line += " | " + word
			}
		}
		lines = append(lines, line)
	}
	return strings.Join(lines, "\n")
}

func TestRungsShowTheEffectAndItsCause(t *testing.T) {
	s := testkit.Outline(t, `
Home
  Listed
    Off | status=offline
      Inside
  Hidden | listed=no
    Below
  Staff | audience=staff
  Soon | live_from=2026-12-01T00:00:00Z
  Ending | live_until=2026-12-01T00:00:00Z`)
	l := treeGrove.rows(desktest.Of(t, s), all(s), 0, 50)
	assert.Equal(t, strings.TrimSpace(`
1 full Home
2 full Listed
3 stub Off
4 stub Inside
2 half Hidden
3 half Below
2 full Staff | staff
2 clock Soon
2 full Ending`), draw(l))
	words := map[string]string{}
	for _, r := range l.Rows {
		words[r.Label] = fmt.Sprint(r.Words, " ", r.Cause, " ", r.Not)
	}
	assert.Equal(t, "Not online true ", words["Off"])
	assert.Equal(t, "Not online: “Off” is not false ", words["Inside"])
	assert.Equal(t, "Not listed: “Hidden” is not false ", words["Below"])
	assert.Equal(t, "Online and listed false not seen", words["Staff"])
	assert.Equal(t, "Online from 1 Dec 2026, 00:00 true ", words["Soon"])
	assert.Equal(t, "Online until 1 Dec 2026, 00:00 true ", words["Ending"])
}

func TestTheDraftShowsInTheLadder(t *testing.T) {
	s := testkit.Outline(t, "Home\n  A\n    A1\n    A2\n  B\n  C")
	find := func(label string) site.PageID { return testkit.Find(t, s, label) }
	d := desktest.Of(
		t,
		s,
		edit.OpMove{Page: find("A1"), To: edit.Place{Parent: find("B")}},
		edit.OpBin{Page: find("C")},
		edit.OpEdit{Page: find("A2"), Fields: []edit.FieldChange{{Field: edit.FieldTitle, New: "Long"}}},
		edit.OpMake{
			Page:   50,
			Place:  edit.Place{Parent: 1},
			Fields: []edit.FieldChange{{Field: edit.FieldLabel, New: "New"}},
		},
	)
	assert.Equal(t, strings.TrimSpace(`
1 full Home
2 full A
3 stub A1 | Moved | moved to “B”
3 full A2 | Edited
2 full B
3 full A1 | Moved
2 stub C | Binned | in the bin after publishing
2 stub New | New`), draw(treeGrove.rows(d, all(d.Site), 0, 50)))
	d.State, d.Site = "now", s
	assert.NotContains(t, draw(treeGrove.rows(d, all(s), 0, 50)), "moved to")
}

func TestTheWindowIsCutOutOfTheWhole(t *testing.T) {
	outline := "Home"
	for i := range 300 {
		outline += fmt.Sprintf("\n  Page %d", i)
		if i == 150 {
			outline += "\n    Kid"
		}
	}
	s := testkit.Outline(t, outline)
	d := desktest.Of(t, s)
	whole := treeGrove.rows(d, all(s), 0, 1000)
	assert.Len(t, whole.Rows, 302)
	for _, from := range []int{0, 1, 149, 240, 301, 500} {
		part := treeGrove.rows(d, all(s), from, 60)
		assert.Equal(t, 302, part.Total)
		end := min(from+60, 302)
		if from < end {
			assert.Equal(t, whole.Rows[from:end], part.Rows)
		} else {
			assert.Empty(t, part.Rows)
		}
	}
	assert.Equal(t, 301, treeGrove.rows(d, nil, 0, 10).Total, "what is closed has no rows")
	d.Selected = testkit.Find(t, s, "Kid")
	found := treeGrove.rows(d, all(s), -1, 60)
	assert.Equal(t, 152, found.Index)
	assert.Contains(t, draw(found), "3 full Kid", "the selected row is in sight")
}

func TestPlaceIsSaidWithItsNeighbours(t *testing.T) {
	s := testkit.Outline(t, "Home\n  A\n  B\n  C")
	assert.Equal(t, "The home page", desk.Place(s, 1))
	assert.Equal(t, "1 of 3 in “Home”, before “B”", desk.Place(s, 2))
	assert.Equal(t, "2 of 3 in “Home”, after “A”, before “C”", desk.Place(s, 3))
}

func TestSearchForgives(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Åsgarth and Muckle Tarn\n  Øyra\n    Sølvika anchorage\n  Season tickets")
	on := &desk.Desk{Site: s, Lens: reach.Lens{At: testkit.Now}}
	for words, want := range map[string]string{
		"oyra": "Øyra", "Øy": "Øyra", "tarn asgarth": "Åsgarth and Muckle Tarn",
		"/oyra/solvika-anchorage": "Sølvika anchorage",
		"oyra/solvika-anchorage":  "Sølvika anchorage", "TICKETS": "Season tickets", "/OYRA/": "Øyra",
	} {
		hits := on.PagesFor(words, testkit.Now)
		require.NotEmpty(t, hits, words)
		assert.Equal(t, want, hits[0].Label, words)
	}
	assert.Empty(t, on.PagesFor("no such page", testkit.Now))
	assert.Empty(t, on.PagesFor("", testkit.Now))
}

func TestSteps(t *testing.T) {
	s := testkit.Outline(t, "Home\n  A\n    A1\n    A2\n  B\n  C")
	shifted := func(labels, do, how string) ([]edit.Op, error) {
		i := &intent{
			do: do,
			form: func(name string) string {
				return map[string]string{"nudge way": how, "position position": how}[do+" "+name]
			},
		}
		for label := range strings.FieldsSeq(labels) {
			i.pages = append(i.pages, testkit.Find(t, s, label))
		}
		i.page = i.pages[0]
		ops, _, err := i.shifted(s)
		return ops, err
	}
	for _, c := range []struct{ labels, do, how, want string }{
		{"A2", "nudge", "up", "1 of 2 in “A”, before “A1”"},
		{"A1", "nudge", "down", "2 of 2 in “A”, after “A2”"},
		{"B", "nudge", "in", "3 of 3 in “A”, after “A2”"},
		{"A1", "nudge", "out", "2 of 4 in “Home”, after “A”, before “B”"},
		{"B C", "nudge", "up", "1 of 3 in “Home”, before “C”"},
		{"B C", "nudge", "in", "3 of 4 in “A”, after “A2”, before “C”"},
		{"A1 A2", "nudge", "out", "2 of 5 in “Home”, after “A”, before “A2”"},
		{"B C", "position", "1", "1 of 3 in “Home”, before “C”"},
		{"A", "position", " 2 ", "2 of 3 in “Home”, after “B”, before “C”"},
	} {
		ops, err := shifted(c.labels, c.do, c.how)
		require.NoError(t, err)
		next, _, err := edit.ApplyAll(s, ops, testkit.Now)
		require.NoError(t, err)
		first, _, _ := strings.Cut(c.labels, " ")
		assert.Equal(t, c.want, desk.Place(next, testkit.Find(t, s, first)), "%s %s", c.labels, c.how)
	}
	for _, c := range []struct{ labels, do, how, says string }{
		{"A", "nudge", "up", "first in “Home” already"},
		{"C", "nudge", "down", "last in “Home” already"},
		{"A B", "nudge", "up", "first in “Home” already"},
		{"A", "nudge", "in", "nothing before it"},
		{"A", "nudge", "out", "at the top level already"},
		{"Home", "nudge", "up", "stays where it is"},
		{"B C", "position", "3", "a number from 1 to 2"},
		{"A1", "position", "3", "a number from 1 to 2"},
		{"A1", "position", "0", "a number from 1 to 2"},
		{"A1", "position", "x", "a number from 1 to 2"},
		{"A1", "position", "", "a number from 1 to 2"},
	} {
		_, err := shifted(c.labels, c.do, c.how)
		assert.ErrorContains(t, err, c.says)
	}
}

func TestTheLens(t *testing.T) {
	s := testkit.Outline(t, "Home")
	for _, c := range []struct {
		as, at string
		want   reach.Lens
		words  string
	}{
		{"", "", reach.Lens{At: testkit.Now}, "a visitor who is not signed in"},
		{
			"signed-in", "",
			reach.Lens{Visitor: reach.Visitor{SignedIn: true}, At: testkit.Now},
			"somebody signed in without a role",
		},
		{"masters", "2027-03-01T08:30", reach.Lens{
			Visitor: reach.Visitor{SignedIn: true, Roles: []string{"masters", "staff"}},
			At:      time.Date(2027, 3, 1, 8, 30, 0, 0, time.UTC),
		}, "somebody with the role “harbour masters”, on 1 March 2027 at 08:30"},
		{"nobody", "soon", reach.Lens{At: testkit.Now}, "a visitor who is not signed in"},
	} {
		d := &desk.Desk{Site: s, As: c.as, At: c.at}
		d.Lens = d.LensAt(testkit.Now)
		assert.Equal(t, c.want, d.Lens)
		assert.Equal(t, c.words, d.LensWords())
	}
}

func TestWhereAPageShows(t *testing.T) {
	s := testkit.Outline(t, "Home\n  A\n    A1\n      A2\n  Hidden | listed=no\n  Staff | audience=staff")
	for label, want := range map[string]string{
		"A": "first in Header, level 1", "A1": "first in Header, level 2, in “A”; first in Side menu, level 2, in “A”",
		"A2":     "first in Side menu, level 3, in “A1”",
		"Hidden": "not: “Hidden” is not listed", "Staff": "not: this visitor does not reach the page",
		"Home": "not: no menu reaches this far",
	} {
		shown, not := shownIn(s, testkit.Find(t, s, label), reach.Lens{At: testkit.Now})
		got := strings.Join(shown, "; ")
		if not != "" {
			got = "not: " + not
		}
		assert.Equal(t, want, got, label)
	}
}

// The rows that arithmetic finds, window by window, against the rows listed one after another.
func TestRowsByArithmeticAreTheRowsOneByOne(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		base := testkit.Random(t, 40)
		is, next := base, site.PageID(1000)
		for range rapid.IntRange(0, 6).Draw(t, "ops") {
			if made, _, err := edit.Apply(is, testkit.RandomOp(t, is, &next), testkit.Now); err == nil {
				is = made
			}
		}
		d := &desk.Desk{
			Draft:    &store.Draft{Base: &store.Published{Site: base}, Site: is},
			Site:     is,
			State:    "after",
			Lens:     reach.Lens{At: testkit.Now},
			Selected: is.Home(),
		}
		open := map[site.PageID]bool{}
		is.Walk(is.Home(), func(p *site.Page) bool { open[p.ID] = rapid.Bool().Draw(t, "open"); return true })
		var pages []site.PageID
		is.Walk(is.Home(), func(p *site.Page) bool { pages = append(pages, p.ID); return true })
		d.Selected = rapid.SampledFrom(pages).Draw(t, "selected")

		_, ghosts := changes(d)
		var want []string
		index := -1
		var list func(site.PageID)
		list = func(id site.PageID) {
			if id == d.Selected {
				index = len(want)
			}
			want = append(want, fmt.Sprint(id))
			if !open[id] && id != is.Home() {
				return
			}
			ghostsAfter := func(kid site.PageID) {
				for _, g := range ghosts[id] {
					if g.after == kid {
						want = append(want, fmt.Sprint("ghost ", g.page.ID))
					}
				}
			}
			ghostsAfter(0)
			for _, kid := range is.Children(id) {
				list(kid)
				ghostsAfter(kid)
			}
		}
		list(is.Home())
		for from := 0; from < len(want)+3; from += 3 {
			got := treeGrove.rows(d, open, from, 5)
			if got.Total != len(want) || got.Index != index {
				t.Fatalf(
					"%d rows, selected %d; want %d and %d: %v, ghosts %v, home %v",
					got.Total,
					got.Index,
					len(want),
					index,
					want,
					ghosts,
					is.Children(is.Home()),
				)
			}
			var rows []string
			for i, row := range got.Rows {
				said := fmt.Sprint(row.ID)
				if row.Ghost != "" {
					said = "ghost " + said
				}
				rows = append(rows, said)
				if row.Row != from+i+1 {
					t.Fatalf("row %d says that it is row %d", from+i+1, row.Row)
				}
			}
			if end := min(from+5, len(want)); from < end && !slices.Equal(want[from:end], rows) ||
				from >= end && len(rows) > 0 {
				t.Fatalf("from %d: %v, want %v", from, rows, want[min(from, len(want)):end])
			}
		}
	})
}

// A topic that a menu leaves out says why: it has too few pages, or its line was hidden there.
func TestATopicThatAMenuLeavesOutSaysWhy(t *testing.T) {
	s := testkit.Outline(t, `
Home
  Fog | topics=page:4
  Places | kind=topic-list
    Øyra | kind=topic
    The Calf | kind=topic
    Vesterhav | kind=topic`)
	find := func(label string) site.PageID { return testkit.Find(t, s, label) }
	b := s.Builder()
	hidden := site.GrownLine{Hidden: true}
	b.SetMenus([]site.Menu{{ID: 1, Key: "main", Name: "Islands", Entries: []site.Entry{{
		ID: 1, Shows: site.ItemBranch{Root: find("Places"), Self: site.SelfNot, Least: 1},
		Grown: site.Values("").With(site.LineKey(find("The Calf")), hidden.String()),
	}}}})
	s = b.Site()
	for label, want := range map[string]string{
		"Vesterhav": "“Places” in “Islands” has lines for topics with at least 1 page",
		"The Calf":  "its line is hidden in “Islands”",
	} {
		shown, not := shownIn(s, find(label), reach.Lens{At: testkit.Now})
		assert.Empty(t, shown, label)
		assert.Equal(t, want, not, label)
	}
	shown, _ := shownIn(s, find("Øyra"), reach.Lens{At: testkit.Now})
	assert.NotEmpty(t, shown)
}
