package menu_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// Trails of all pages and lenses at once, against the trail of each page as each lens sees it.
func TestTrailsAgreeWithAskingPageByPage(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.RandomTopics(t, testkit.Random(t, 20), 5)
		m := testkit.RandomMenu(t, s)
		panel := reach.NewPanel(testkit.Lenses()...)
		trails := menu.NewTrails(s, m, panel)
		s.Walk(s.Home(), func(p *site.Page) bool {
			at := trails.Walk(p.ID)
			for i, lens := range testkit.Lenses() {
				assert.Equal(t, steps(menu.NewView(s, m, lens).Trail(p.ID)), chain(at, i), "page %d, lens %d", p.ID, i)
			}
			return true
		})
	})
}

type step struct {
	entry site.EntryID
	page  site.PageID
	level int
}

func steps(lines []menu.Line) []step {
	var all []step
	for _, l := range lines {
		all = append(all, step{l.Entry, l.Page, l.Level})
	}
	return all
}

func chain(at menu.Footing, lens int) []step {
	var all []step
	for _, end := range at.Ends {
		if !end.Lenses.Has(lens) {
			continue
		}
		for s := end.Step; s != nil; s = s.Above {
			all = append([]step{{s.Entry, s.Page, s.Level}}, all...)
		}
	}
	return all
}

// Lenses that are said to see the same through a window do.
func TestLensesThatAreAlikeSeeTheSame(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.RandomTopics(t, testkit.Random(t, 15), 4)
		m := testkit.RandomMenu(t, s)
		block := testkit.RandomBlock(t, m)
		_, window, isMenu := block.Menu()
		if !isMenu {
			return
		}
		lenses := testkit.Lenses()
		views := menu.NewViews(s, m, reach.NewPanel(lenses...))
		s.Walk(s.Home(), func(p *site.Page) bool {
			for i := range lenses {
				nodes, alike := views.Window(window, p.ID, i)
				assert.True(t, alike.Has(i))
				for k, lens := range lenses {
					if want := menu.NewView(s, m, lens).Window(window, p.ID); alike.Has(k) {
						assert.Equal(t, draw(want), draw(nodes), "page %d, lens %d as %d", p.ID, k, i)
					}
				}
			}
			return true
		})
	})
}

// A block that starts from a run with its root beside it shows the root as the first line (rules 5.1 and 5.5).
func TestARunBesideItsRootBeginsWithIt(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings\n    Winter\n    Summer\n  Contact")
	sailings := testkit.Find(t, s, "Sailings")
	m := &site.Menu{ID: 9, Entries: []site.Entry{{ID: 1, Shows: site.ItemBranch{Root: sailings, Self: site.SelfBeside}}}}
	view := menu.NewView(s, m, reach.Lens{At: testkit.Now})
	window := site.Window{From: site.FromEntry, Entry: 1, Unfold: site.UnfoldAll}
	assert.Equal(t, "Sailings, Winter•*, Summer", draw(view.Window(window, testkit.Find(t, s, "Winter"))))
	assert.Empty(t, view.OutsideOf(window, sailings, view.Trail(sailings)), "the root is in")
}
