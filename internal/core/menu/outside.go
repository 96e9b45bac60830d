package menu

import (
	"slices"

	"vineladder/internal/core/site"
)

// Outside says why a line that shows is not in what a block shows on a page.
type Outside string

// Reasons, in the order in which they are asked for.
const (
	OutsideAbove  Outside = "above"  // it stands above the first level shown
	OutsideBelow  Outside = "below"  // it stands below the last level shown
	OutsideEntry  Outside = "entry"  // it is not below the entry that the block starts from
	OutsideTrail  Outside = "trail"  // the trail does not reach the level above the first one
	OutsideBranch Outside = "branch" // the trail goes through another branch
	OutsideShut   Outside = "shut"   // a level above it is open only along the trail
)

// OutsideOf says why a shown line is left out by a window on the current page; "" if it is in. path has the line with
// those above it, from the top.
func (v *View) OutsideOf(w site.Window, current site.PageID, path []Line) Outside {
	first := w.First
	if w.From == site.FromEntry {
		at := slices.IndexFunc(path, func(l Line) bool { return l.Entry == w.Entry })
		e := v.menu.Entry(w.Entry)
		if at < 0 && !v.inside(path, w.Entry) || e == nil {
			return OutsideEntry
		}
		first = firstBelow(v.site, v.menu, e)
		to, _ := e.Shows.(site.ItemBranch)
		if line := path[len(path)-1]; line.Entry == w.Entry &&
			(line.Own && to.Self != site.SelfBeside || line.Level < first) {
			return OutsideEntry
		}
	}
	level := path[len(path)-1].Level
	switch {
	case level < first:
		return OutsideAbove
	case w.Levels > 0 && level >= first+w.Levels:
		return OutsideBelow
	}
	trail := v.Trail(current)
	if w.From == site.FromTrail && first > 1 {
		if len(trail) < first-1 {
			return OutsideTrail
		}
		if above := path[first-2]; !above.same(trail[first-2]) {
			return OutsideBranch
		}
	}
	if w.Unfold != site.UnfoldTrail {
		return ""
	}
	for _, above := range path[:len(path)-1] {
		if above.Level >= first && !slices.ContainsFunc(trail, above.same) {
			return OutsideShut
		}
	}
	return ""
}

// inside says whether the last line of a path is of an entry below another.
func (v *View) inside(path []Line, top site.EntryID) bool {
	for e := v.menu.Entry(path[len(path)-1].Entry); e != nil; e = v.menu.Entry(e.Parent) {
		if e.ID == top {
			return true
		}
	}
	return false
}
