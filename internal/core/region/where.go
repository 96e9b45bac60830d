package region

import (
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A Showing is a menu block that shows a page, and where in it.
type Showing struct {
	Block    *site.Block
	Menu     *site.Menu
	Entry    site.EntryID // whose own line it is, or whose run
	Own      bool         // it is the entry's own line
	Level    int
	Position int    // among the lines of its level below the same line, from 1
	Above    string // label of the line above it; "" at the top
}

// Where gives the placed menu blocks that can show a page to a lens, with its place in each (rules 5.7); none is "in no
// menu".
func Where(s *site.Site, id site.PageID, lens reach.Lens) []Showing {
	var found []Showing
	for i := range s.Blocks() {
		block := &s.Blocks()[i]
		key, window, isMenu := block.Menu()
		m := s.Menu(key)
		if !isMenu || m == nil || !placed(s, block.ID, lens) {
			continue
		}
		view := menu.NewView(s, m, lens)
		trail := view.Trail(id)
		if len(trail) == 0 || trail[len(trail)-1].Page != id {
			continue
		}
		last := trail[len(trail)-1]
		if !menu.CanShow(m, window, last.Entry, last.Level) {
			continue
		}
		made := Showing{Block: block, Menu: m, Entry: last.Entry, Own: last.Own, Level: last.Level, Position: 1}
		beside := view.Top()
		if len(trail) > 1 {
			above := trail[len(trail)-2]
			made.Above, beside = above.Label, view.Children(above)
		}
		for _, line := range beside {
			if line.Entry == last.Entry && line.Page == last.Page {
				break
			}
			made.Position++
		}
		found = append(found, made)
	}
	return found
}

// placed says whether a block stands anywhere for a lens, as far as no page decides it.
func placed(s *site.Site, block site.BlockID, lens reach.Lens) bool {
	for _, p := range s.PlacementsOf(block) {
		if always(p, lens) == "" {
			return true
		}
	}
	return false
}
