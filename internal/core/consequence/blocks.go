package consequence

import (
	"maps"
	"reflect"
	"slices"

	menus "vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
)

// covers compares on which pages each block shows (rules 9.3). Only what an edit can have touched is looked at: every page for a block
// that was edited itself, or whose menu was; else the branches that differ.
func (c *comparison) covers() {
	branches := c.differing()
	for _, pair := range c.blockPairs() {
		before, after := pair[0], pair[1]
		tops, all := branches, c.coverDiffers(before, after)
		if !all && len(c.alike) > 0 && !region.NamesPages(c.Is, after) {
			tops = c.unlike(branches, after)
		}
		if !all && (len(tops) == 0 || region.Steady(c.Is, after)) {
			continue
		}
		if all {
			tops = []site.PageID{c.Is.Home()}
		}
		if change := c.cover(before, after, tops); len(change.Pages) > 0 {
			c.Covers = append(c.Covers, change)
		}
	}
}

// unlike leaves out the branches in which a block shows as before, wherever they were moved; but for those inside one that is looked at,
// where they would seem to be new.
func (c *comparison) unlike(branches []site.PageID, b *site.Block) []site.PageID {
	kept := map[site.PageID]bool{}
	for _, top := range branches {
		kept[top] = !c.alike[top] || !region.FillsAlike(c.Was, c.Is, b, c.Panel, top)
	}
	inside := func(s *site.Site, id site.PageID) bool {
		for p := s.Page(s.Page(id).Parent); p != nil; p = s.Page(p.Parent) {
			if kept[p.ID] {
				return true
			}
		}
		return false
	}
	return slices.DeleteFunc(slices.Clone(branches), func(top site.PageID) bool {
		return !kept[top] && !inside(c.Was, top) && !inside(c.Is, top)
	})
}

// blockPairs gives every block as it was and as it is; nil where there is none.
func (c *comparison) blockPairs() [][2]*site.Block {
	var pairs [][2]*site.Block
	for i := range c.Is.Blocks() {
		b := &c.Is.Blocks()[i]
		pairs = append(pairs, [2]*site.Block{c.Was.Block(b.ID), b})
	}
	for i := range c.Was.Blocks() {
		if b := &c.Was.Blocks()[i]; c.Is.Block(b.ID) == nil {
			pairs = append(pairs, [2]*site.Block{b, nil})
		}
	}
	return pairs
}

// coverDiffers says whether a block can show on other pages although no page changed.
func (c *comparison) coverDiffers(before, after *site.Block) bool {
	if before == nil || after == nil || !reflect.DeepEqual(before.Shows, after.Shows) || c.layoutsDiffer() {
		return true
	}
	was, is := c.Was.PlacementsOf(before.ID), c.Is.PlacementsOf(after.ID)
	if !slices.EqualFunc(was, is, func(a, b *site.Placement) bool { return reflect.DeepEqual(a, b) }) {
		return true
	}
	id, _, isMenu := after.Menu()
	if !isMenu {
		return false
	}
	if lenses, steady := region.SteadyFill(c.Was, before, c.Panel); steady {
		now, _ := region.SteadyFill(c.Is, after, c.Panel)
		return lenses != now
	}
	return c.shownDiffers(id)
}

// shownDiffers says whether the entries of a menu, what each shows and for whom, are others than before.
func (c *comparison) shownDiffers(id site.MenuID) bool {
	if differs, known := c.shownOther[id]; known {
		return differs
	}
	was, is := c.Was.Menu(id), c.Is.Menu(id)
	differs := (was == nil) != (is == nil)
	if was != nil && is != nil {
		same := func(a, b site.Entry) bool { return a.ID == b.ID && a.Parent == b.Parent && a.Shows == b.Shows }
		differs = !slices.EqualFunc(was.Entries, is.Entries, same) ||
			!maps.Equal(menus.Shown(c.Was, was, c.Panel), menus.Shown(c.Is, is, c.Panel))
	}
	c.shownOther[id] = differs
	return differs
}

// layoutsDiffer says whether layouts come from elsewhere than from pages.
func (c *comparison) layoutsDiffer() bool {
	return c.Was.Settings().Layout != c.Is.Settings().Layout || !slices.Equal(c.Was.Kinds(), c.Is.Kinds()) || c.Was.Theme() != c.Is.Theme()
}

// differing gives the tops of the branches in which a block can show on other pages because pages changed: the changed ones, and
// pages that have listed children now and had none, or the other way round.
func (c *comparison) differing() []site.PageID {
	tops := map[site.PageID]bool{}
	family := func(id site.PageID) {
		if id != 0 && c.Was.InTree(id) && c.Is.InTree(id) && !tops[id] &&
			menus.ListedBelow(c.Was, c.Panel, id, c.Panel.At(c.Was, id)) != menus.ListedBelow(c.Is, c.Panel, id, c.Panel.At(c.Is, id)) {
			tops[id] = true
		}
	}
	for _, change := range c.changes {
		id, branch := branchDiffers(change)
		if !branch && !layoutDiffers(change) {
			continue
		}
		tops[id] = true
		if c.inheritsAlike(change) {
			c.alike[id] = true
		}
		for _, p := range []*site.Page{change.Was, change.Is} {
			if p != nil {
				family(p.Parent)
			}
		}
	}
	return slices.Sorted(maps.Keys(tops))
}

// inheritsAlike says that a page, wherever it was moved, gets the same reach and the same branch layout from the pages above, and has
// the layout settings that it had: what depends on nothing else is the same in its whole branch.
func (c *comparison) inheritsAlike(change site.Change) bool {
	a, b := change.Was, change.Is
	if a == nil || b == nil || layoutDiffers(change) || !c.Was.InTree(a.ID) || !c.Is.InTree(b.ID) {
		return false
	}
	return c.Panel.At(c.Was, a.ID) == c.Panel.At(c.Is, b.ID) && branchLayoutAbove(c.Was, a) == branchLayoutAbove(c.Is, b)
}

// branchLayoutAbove is the layout that a page gets from the nearest page above that sets one for its branch.
func branchLayoutAbove(s *site.Site, p *site.Page) string {
	for above := s.Page(p.Parent); above != nil; above = s.Page(above.Parent) {
		if s.Layout(above.BranchLayout) != nil {
			return above.BranchLayout
		}
	}
	return ""
}

// layoutDiffers says whether a change of a page can change its layout or that of pages below it, or the conditions that hold for it.
func layoutDiffers(c site.Change) bool {
	return c.Was != nil && c.Is != nil && (c.Was.Layout != c.Is.Layout || c.Was.BranchLayout != c.Is.BranchLayout || c.Was.Kind != c.Is.Kind)
}

// cover compares the pages of branches. A page that nobody reached before, or reaches now, is told as such and not here.
func (c *comparison) cover(before, after *site.Block, tops []site.PageID) CoverChange {
	change := CoverChange{Block: after}
	if after == nil {
		change.Block = before
	}
	pages := 0
	for _, top := range tops {
		pages += 1 + c.Was.Below(top)
	}
	shown := make(map[site.PageID]reach.Mask, pages)
	if before != nil {
		region.CoverBranches(c.Was, before, c.Panel, tops, func(p *site.Page, shows reach.Mask) {
			if shows != 0 {
				shown[p.ID] = shows
			}
		})
	}
	reached := func(in *site.Site, id site.PageID) reach.Mask { return c.Panel.At(in, id).Reachable() }
	if after != nil {
		region.CoverBranches(c.Is, after, c.Panel, tops, func(p *site.Page, shows reach.Mask) {
			was := shown[p.ID]
			delete(shown, p.ID)
			made := PageChange{p.ID, shows &^ was, was &^ shows}
			if made.Gained != 0 {
				made.Gained &= reached(c.Was, p.ID)
			}
			if made.Lost != 0 {
				made.Lost &= reached(c.Is, p.ID)
			}
			if made.Gained|made.Lost != 0 {
				change.Pages = append(change.Pages, made)
			}
		})
	}
	for id, was := range shown {
		if lost := was & reached(c.Is, id); lost != 0 {
			change.Pages = append(change.Pages, PageChange{Page: id, Lost: lost})
		}
	}
	slices.SortFunc(change.Pages, func(a, b PageChange) int { return int(a.Page - b.Page) })
	return change
}

// places finds the placements that are new or stand elsewhere: in another region, or out of the order that the others keep.
func (c *comparison) places() {
	was, is := c.Was.Placements(), c.Is.Placements()
	if reflect.DeepEqual(was, is) {
		return
	}
	for i := range is {
		p := &is[i]
		before := c.Was.Placement(p.ID)
		position, of := region.Position(c.Is, p)
		if before != nil && before.Region == p.Region {
			if at, _ := region.Position(c.Was, before); at == position {
				continue
			}
		}
		if r := c.Is.Theme().Region(p.Region); r != nil && (before == nil || before.Region != p.Region || region.MovedAmong(c.Was, c.Is, p)) {
			c.Places = append(c.Places, PlaceChange{c.Is.Block(p.Block), r.Name, position, of})
		}
	}
}

// layouts finds the pages that have another layout.
func (c *comparison) layouts() {
	var tops []site.PageID
	if c.layoutsDiffer() {
		tops = []site.PageID{c.Is.Home()}
	} else {
		for _, change := range c.changes {
			moved := change.Was != nil && change.Is != nil && change.Was.Parent != change.Is.Parent
			if layoutDiffers(change) || moved && branchLayoutAbove(c.Was, change.Was) != branchLayoutAbove(c.Is, change.Is) {
				tops = append(tops, subject(change))
			}
		}
	}
	found, seen := map[string][]site.PageID{}, map[site.PageID]bool{}
	for _, top := range tops {
		if !c.Is.InTree(top) {
			continue
		}
		c.Is.Walk(top, func(p *site.Page) bool {
			if seen[p.ID] || !c.Was.InTree(p.ID) {
				return true
			}
			seen[p.ID] = true
			was, is := region.LayoutOf(c.Was, p.ID).Layout, region.LayoutOf(c.Is, p.ID).Layout
			if was != nil && is != nil && was.Key != is.Key {
				found[is.Name] = append(found[is.Name], p.ID)
			}
			return true
		})
	}
	for _, name := range slices.Sorted(maps.Keys(found)) {
		c.Layouts = append(c.Layouts, LayoutChange{name, found[name]})
	}
}
