package edit

import (
	"maps"
	"slices"
	"time"

	"vineladder/internal/core/site"
)

// Along gives the steps that go with a page if its edits are published apart from the others of a draft on a Site, by
// index, in order: those about the page and those that put items for it into menus; what these build on; and what could
// not be done without them. So they can be published first, and what is left is whole before and after.
func Along(s *site.Site, steps [][]Op, page site.PageID, now time.Time) []int {
	taken := make([]bool, len(steps))
	for i, ops := range steps {
		taken[i] = slices.ContainsFunc(ops, func(op Op) bool { return IsAbout(op, page) })
	}
	if !slices.Contains(taken, true) {
		return nil
	}
	waits := heldIn(NewRebase(s, now), steps, func(int) bool { return true }) // they wait in any case
	for {
		closeOver(steps, taken)
		r := NewRebase(s, now)
		apart := heldIn(r, steps, func(i int) bool { return taken[i] })
		rest := heldIn(NewRebase(r.Site, now), steps, func(i int) bool { return !taken[i] })
		maps.Copy(rest, heldIn(NewRebase(s, now), steps, func(i int) bool { return !taken[i] }))
		if !widen(taken, apart, rest, waits) {
			break
		}
	}
	var along []int
	for i, is := range taken {
		if is {
			along = append(along, i)
		}
	}
	return along
}

// closeOver takes along what the taken steps name as needed, and what names them.
func closeOver(steps [][]Op, taken []bool) {
	for grows := true; grows; {
		grows = false
		made, used, set := map[tie]bool{}, map[tie]bool{}, map[tie]bool{}
		for i, ops := range steps {
			if taken[i] {
				note(made, ops, makes)
				note(used, ops, uses)
				note(set, ops, sets)
			}
		}
		for i, ops := range steps {
			if !taken[i] && slices.ContainsFunc(ops, func(op Op) bool {
				return anyOf(made, uses(op)) || anyOf(used, makes(op)) || anyOf(set, sets(op))
			}) {
				taken[i], grows = true, true
			}
		}
	}
}

// widen takes one more step along where a half can't be done by itself: the one of the rest that can't, or the last one
// before a taken one that can't. An order of moves, or an address that one page leaves and another takes, ties steps by
// more than names.
func widen(taken []bool, apart, rest, waits map[int]bool) bool {
	for i := range taken {
		if rest[i] && !waits[i] {
			taken[i] = true
			return true
		}
	}
	for i := range taken {
		if !apart[i] || waits[i] {
			continue
		}
		for before := i - 1; before >= 0; before-- {
			if !taken[before] {
				taken[before] = true
				return true
			}
		}
	}
	return false
}

// heldIn does some of the steps and gives those of which something is held.
func heldIn(r *Rebasing, steps [][]Op, chosen func(int) bool) map[int]bool {
	held := map[int]bool{}
	for i, ops := range steps {
		if chosen(i) {
			if _, waiting := r.Add(ops); len(waiting) > 0 {
				held[i] = true
			}
		}
	}
	return held
}

// IsAbout says whether an operation is about a page: on it, or putting an item for it into a menu.
func IsAbout(op Op, page site.PageID) bool {
	if put, isPut := op.(OpPutEntries); isPut {
		return slices.Contains(uses(put), pageTie(page))
	}
	return op.Subject() == page
}

func note(all map[tie]bool, ops []Op, of func(Op) []tie) {
	for _, op := range ops {
		for _, t := range of(op) {
			all[t] = true
		}
	}
}

func anyOf(all map[tie]bool, ties []tie) bool {
	return slices.ContainsFunc(ties, func(t tie) bool { return all[t] })
}
