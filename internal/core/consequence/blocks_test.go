package consequence_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// Where blocks appear and disappear when pages, menus, blocks and places are edited, against asking for every block on every page for
// every lens before and after. A page that a lens did not reach before, or does not now, is told as such and not here.
func TestCoverageAgreesWithAskingPageByPage(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 18)
		m := testkit.RandomMenu(t, s)
		block := testkit.RandomBlock(t, m)
		b := s.Edit()
		b.SetMenus([]site.Menu{*m})
		block.ID = 9
		blocks := append(s.Blocks()[:0:0], block)
		for _, other := range s.Blocks() {
			if id, _, isMenu := other.Menu(); !isMenu || id == m.ID {
				blocks = append(blocks, other)
			}
		}
		slices.SortFunc(blocks, func(a, b site.Block) int { return int(a.ID - b.ID) })
		b.SetBlocks(blocks, append(testkit.RandomPlacements(t, s, 9), testkit.Place(blocks[:len(blocks)-1]...)...))
		was := edit.Settle(site.NewBuilder(testkit.Settings()).Site(), testkit.RandomLayouts(t, b.Site()), testkit.Now)
		is, page, entry, next := was, site.PageID(1000), site.EntryID(1000), int64(1000)
		for range rapid.IntRange(1, 4).Draw(t, "ops") {
			var op edit.Op
			switch rapid.IntRange(0, 3).Draw(t, "on") {
			case 0:
				op = testkit.RandomMenuOp(t, is, &entry)
			case 1:
				op = testkit.RandomBlockOp(t, is, &next)
			default:
				op = testkit.RandomOp(t, is, &page)
			}
			if made, _, err := edit.Apply(is, op, testkit.Now); err == nil {
				is = made
			}
		}
		is = edit.Settle(was, is, testkit.Now)
		report := consequence.Compare(was, is, viewers())
		var got []string
		for _, change := range report.Covers {
			for _, p := range change.Pages {
				for i := range report.Names {
					if p.Gained.Has(i) {
						got = append(got, fmt.Sprintf("block %d appears on %d for %d", change.Block.ID, p.Page, i))
					}
					if p.Lost.Has(i) {
						got = append(got, fmt.Sprintf("block %d disappears from %d for %d", change.Block.ID, p.Page, i))
					}
				}
			}
		}
		var want []string
		for i, lens := range testkit.Lenses() {
			before, after := stands(was, lens), stands(is, lens)
			for key := range after {
				if !before[key] && reach.Ask(was, key.page, lens) == reach.Sees {
					want = append(want, fmt.Sprintf("block %d appears on %d for %d", key.block, key.page, i))
				}
			}
			for key := range before {
				if !after[key] && reach.Ask(is, key.page, lens) == reach.Sees {
					want = append(want, fmt.Sprintf("block %d disappears from %d for %d", key.block, key.page, i))
				}
			}
		}
		slices.Sort(got)
		slices.Sort(want)
		assert.Equal(t, want, got)
	})
}

type onPage struct {
	block site.BlockID
	page  site.PageID
}

// stands gives the blocks that show on each page that a lens reaches.
func stands(s *site.Site, lens reach.Lens) map[onPage]bool {
	found := map[onPage]bool{}
	frame := region.NewFrame(s, lens)
	s.Walk(s.Home(), func(p *site.Page) bool {
		if reach.Ask(s, p.ID, lens) != reach.Sees {
			return true
		}
		_, areas := frame.On(p.ID)
		for _, area := range areas {
			for _, st := range area.Standings {
				if st.Why == "" {
					found[onPage{st.Block.ID, p.ID}] = true
				}
			}
		}
		return true
	})
	return found
}
