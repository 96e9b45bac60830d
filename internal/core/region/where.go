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
	for _, b := range NewFinder(s, lens).blocks {
		last, trail := b.lineOf(id)
		if last == nil {
			continue
		}
		made := Showing{Block: b.block, Menu: b.menu, Entry: last.Entry, Own: last.Own, Level: last.Level, Position: 1}
		beside := b.view.Top()
		if len(trail) > 1 {
			above := trail[len(trail)-2]
			made.Above, beside = above.Label, b.view.Children(above)
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

// A Finder finds for many pages in which menus a lens sees them.
type Finder struct{ blocks []placedMenu }

// A placedMenu is a block that stands somewhere, with the menu that it shows.
type placedMenu struct {
	site   *site.Site
	block  *site.Block
	menu   *site.Menu
	window site.Window
	view   *menu.View
}

// NewFinder looks up the blocks that stand somewhere for a lens; each view of a menu is made once.
func NewFinder(s *site.Site, lens reach.Lens) *Finder {
	f, views := &Finder{}, map[site.MenuID]*menu.View{}
	for i := range s.Blocks() {
		block := &s.Blocks()[i]
		key, window, isMenu := block.Menu()
		m := s.Menu(key)
		if !isMenu || m == nil || !placed(s, block.ID, lens) {
			continue
		}
		if views[key] == nil {
			views[key] = menu.NewView(s, m, lens)
		}
		f.blocks = append(f.blocks, placedMenu{s, block, m, window, views[key]})
	}
	return f
}

// lineOf gives the line of a page that the block can show, and the trail to it; nil if there is none.
func (b *placedMenu) lineOf(id site.PageID) (*menu.Line, []menu.Line) {
	trail := b.view.Trail(id)
	if len(trail) == 0 || trail[len(trail)-1].Page != id {
		return nil, nil
	}
	if last := &trail[len(trail)-1]; menu.CanShow(b.site, b.menu, b.window, last.Entry, last.Level) {
		return last, trail
	}
	return nil, nil
}

// Menus counts the menus that can show a page.
func (f *Finder) Menus(id site.PageID) int {
	in := map[site.MenuID]bool{}
	for i := range f.blocks {
		if last, _ := f.blocks[i].lineOf(id); last != nil {
			in[f.blocks[i].menu.ID] = true
		}
	}
	return len(in)
}

// Shows gives a block that can show an item of a menu, which stands at a level, on some page; nil if none can.
func Shows(s *site.Site, m *site.Menu, entry site.EntryID, level int, lens reach.Lens) *site.Block {
	for i := range s.Blocks() {
		b := &s.Blocks()[i]
		key, window, isMenu := b.Menu()
		if isMenu && key == m.ID && placed(s, b.ID, lens) && menu.CanShow(s, m, window, entry, level) {
			return b
		}
	}
	return nil
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
