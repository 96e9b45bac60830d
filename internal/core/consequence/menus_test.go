package consequence_test

import (
	"fmt"
	"sort"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// What menu blocks gain and lose when pages and menus are edited, against every line of both Sites listed for every lens.
func TestMenuEditsAgreeWithFullRecomputation(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s, page, entry := testkit.Random(t, 15), site.PageID(1000), site.EntryID(100)
		blocks := s.Blocks()
		b := s.Edit()
		b.SetMenus([]site.Menu{*testkit.RandomMenu(t, s), {ID: 2, Key: "other", Name: "Other"}})
		was := edit.Settle(site.NewBuilder(testkit.Settings()).Site(), b.Site(), testkit.Now)
		is := was
		for range rapid.IntRange(1, 6).Draw(t, "ops") {
			op := testkit.RandomMenuOp(t, is, &entry)
			if rapid.Bool().Draw(t, "on a page") {
				op = testkit.RandomOp(t, is, &page)
			}
			if made, _, err := edit.Apply(is, op, testkit.Now); err == nil {
				is = made
			}
		}
		report := consequence.Compare(was, edit.Settle(was, is, testkit.Now), viewers())
		var got, want []string
		for _, change := range report.Blocks {
			for _, l := range change.Lines {
				for i := range report.Names {
					if l.Gained.Has(i) {
						got = append(got, fmt.Sprintf("%s gains %d/%d for %d", change.Block.Name, l.Entry, l.Page, i))
					}
					if l.Lost.Has(i) {
						got = append(got, fmt.Sprintf("%s loses %d/%d for %d", change.Block.Name, l.Entry, l.Page, i))
					}
				}
			}
		}
		for _, block := range blocks {
			for i, lens := range testkit.Lenses() {
				before, after := standing(was, block, lens), standing(is, block, lens)
				for k := range after {
					if !before[k] {
						want = append(want, fmt.Sprintf("%s gains %s for %d", block.Name, k, i))
					}
				}
				for k := range before {
					if !after[k] {
						want = append(want, fmt.Sprintf("%s loses %s for %d", block.Name, k, i))
					}
				}
			}
		}
		sort.Strings(got)
		sort.Strings(want)
		assert.Equal(t, want, got)
	})
}

// standing gives the lines of a menu that a block can show, by entry and page.
func standing(s *site.Site, block site.Block, lens reach.Lens) map[string]bool {
	m, window, _ := block.Menu()
	view := menu.NewView(s, s.Menu(m), lens)
	found := map[string]bool{}
	var walk func([]menu.Line)
	walk = func(lines []menu.Line) {
		for _, l := range lines {
			if window.Holds(l.Level) {
				found[fmt.Sprintf("%d/%d", l.Entry, l.Page)] = true
			}
			walk(view.Children(l))
		}
	}
	walk(view.Top())
	return found
}

func TestMenuEditsAreSaid(t *testing.T) {
	s := published(t, "Home\n  Sailings\n    Fares\n  Contact")
	b := s.Edit()
	b.SetMenus([]site.Menu{{ID: 1, Key: "main", Name: "Main", Entries: []site.Entry{
		{ID: 1, Shows: site.ToPage{Page: testkit.Find(t, s, "Sailings")}}, {ID: 2, Label: "Write to us", Shows: site.ToPage{Page: testkit.Find(t, s, "Contact")}},
		{ID: 3, Label: "Tides", Shows: site.ToWeb{Address: "https://tides.example/"}}}}})
	s = b.Site()
	for _, c := range []struct {
		name string
		op   edit.Op
		want []string
	}{
		{"an item is switched off", edit.EditEntry{Entry: 3, Fields: []edit.FieldChange{{Field: edit.On, Old: "yes", New: "no"}}}, []string{"Header loses 1 item for everyone: “Tides”."}},
		{"an item moves", edit.MoveEntry{Entry: 3, To: edit.Gap{Menu: 1, Before: 1}}, []string{"Header has 1 item in another place for everyone: “Tides”, first in “Main”."}},
		{"an item moves below another", edit.MoveEntry{Entry: 3, To: edit.Gap{Menu: 1, Parent: 1}}, []string{"Header has 1 item in another place for everyone: “Tides”, first in “Sailings”.",
			"Side menu gains 1 item for everyone: “Tides”, first in “Sailings”.", "“Side menu” appears on 2 pages, alone in the region “Side”, for everyone."}},
		{"an item is put between", edit.PutEntries{Gap: edit.Gap{Menu: 1, After: 2}, Entries: []edit.EntryForm{{ID: 9, Fields: map[edit.Field]string{edit.Shows: "page:3"}}}},
			[]string{"Header gains 1 item for everyone: “Fares”, after “Write to us” in “Main”."}},
		{"an item leads elsewhere", edit.EditEntry{Entry: 1, Fields: []edit.FieldChange{{Field: edit.Shows, Old: "page:2", New: "page:3"}}},
			[]string{"Header gains 1 item for everyone: “Fares”, first in “Main”.", "Header loses 1 item for everyone: “Sailings”."}},
		{"an item is renamed", edit.EditEntry{Entry: 2, Fields: []edit.FieldChange{{Field: edit.Label, Old: "Write to us", New: "Contact us"}}}, []string{"Header has 1 item renamed for everyone: “Write to us” becomes “Contact us”."}},
		{"a menu is renamed", edit.EditMenu{Menu: 1, Fields: []edit.FieldChange{{Field: edit.Name, Old: "Main", New: "Top"}}}, []string{"Nobody can tell the difference in public: the edits do not show anywhere."}},
	} {
		is, _, err := edit.Apply(s, c.op, testkit.Now)
		require.NoError(t, err)
		assert.Equal(t, c.want, texts(consequence.Compare(s, is, viewers())), c.name)
	}
}
