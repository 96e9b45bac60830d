package edit_test

import (
	"slices"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
)

// Whatever stands among siblings and goes to a position stands there afterwards.
func TestPositions(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		siblings := rapid.SliceOfNDistinct(rapid.IntRange(1, 99), 1, 8, rapid.ID[int]).Draw(t, "siblings")
		at := rapid.IntRange(0, len(siblings)-1).Draw(t, "at")
		self := siblings[at]
		position := rapid.IntRange(1, len(siblings)).Draw(t, "position")
		put := func(after, before int) int {
			others := slices.DeleteFunc(slices.Clone(siblings), func(id int) bool { return id == self })
			index := slices.Index(others, after) + 1
			if index < len(others) {
				require.Equal(t, others[index], before)
			} else {
				require.Zero(t, before)
			}
			return slices.Index(slices.Insert(others, index, self), self) + 1
		}
		after, before, err := edit.Position(siblings, self, strconv.Itoa(position))
		require.NoError(t, err)
		require.Equal(t, position, put(after, before))
	})
	for _, typed := range []string{"", "0", "4", "-1", "two", "99999999999999999999"} {
		_, _, err := edit.Position([]int{1, 2, 3}, 2, typed)
		assert.ErrorContains(t, err, "A position here is a number from 1 to 3.", typed)
	}
	_, _, err := edit.Position([]int{1, 2, 3}, 9, " 4 ")
	assert.NoError(t, err, "it comes from elsewhere")
}

// A forest is an order of numbers below one another, moved as shifts say.
type forest map[int][]int

func (f forest) kin() edit.Kin[int] {
	above := func(id int) int {
		for parent, kids := range f {
			if slices.Contains(kids, id) {
				return parent
			}
		}
		return 0
	}
	return edit.Kin[int]{
		Above: above, Below: func(id int) []int { return f[id] }, Name: strconv.Itoa,
		Out: func(parent int) (int, bool) { return parent, parent != 0 },
	}
}

func (f forest) shift(t *rapid.T, s edit.Shift[int]) {
	from := f.kin().Above(s.ID)
	f[from] = slices.DeleteFunc(slices.Clone(f[from]), func(id int) bool { return id == s.ID })
	at := slices.Index(f[s.Parent], s.After) + 1
	require.Equal(t, s.After != 0, at > 0, "it goes after what stands there")
	next := 0
	if at < len(f[s.Parent]) {
		next = f[s.Parent][at]
	}
	require.Equal(t, s.Before, next, "between neighbours")
	f[s.Parent] = slices.Insert(slices.Clone(f[s.Parent]), at, s.ID)
}

func randomForest(t *rapid.T) (forest, []int) {
	f, n := forest{}, rapid.IntRange(1, 12).Draw(t, "size")
	for id := 1; id <= n; id++ {
		parent := rapid.IntRange(0, id-1).Draw(t, "parent")
		f[parent] = append(f[parent], id)
	}
	var tops []int
	var look func(parent int)
	look = func(parent int) {
		for _, id := range f[parent] {
			if rapid.IntRange(0, 2).Draw(t, "chosen") == 0 {
				tops = append(tops, id)
			} else {
				look(id)
			}
		}
	}
	look(0)
	return f, tops
}

// Several that go a step each stand where each would have gone, keep their order, and all others keep theirs.
func TestSeveralGoAStep(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f, chosen := randomForest(t)
		way := rapid.SampledFrom([]string{"up", "down", "in", "out"}).Draw(t, "way")
		was := forest{}
		for parent, kids := range f {
			was[parent] = slices.Clone(kids)
		}
		shifts, err := edit.Steps(f.kin(), chosen, way)
		if err != nil {
			require.True(t, blocked(was, chosen, way), "%v", err)
			return
		}
		require.Len(t, shifts, len(chosen))
		for _, s := range shifts {
			f.shift(t, s)
		}
		for parent, kids := range was {
			others := func(of []int) []int {
				return slices.DeleteFunc(slices.Clone(of), func(id int) bool { return slices.Contains(chosen, id) })
			}
			require.Equal(t, others(kids), others(f[parent]), "the others keep their order")
		}
		for _, id := range chosen {
			before, after := was.kin().Above(id), f.kin().Above(id)
			switch way {
			case "up", "down":
				by := map[string]int{"up": -1, "down": 1}[way]
				require.Equal(t, before, after)
				require.Equal(t, slices.Index(was[before], id)+by, slices.Index(f[after], id))
			case "out":
				require.Equal(t, was.kin().Above(before), after)
			case "in":
				require.Less(t, slices.Index(was[before], after), slices.Index(was[before], id))
				require.NotContains(t, chosen, after)
			}
		}
	})
}

// blocked says whether one of the chosen has nowhere to go.
func blocked(f forest, chosen []int, way string) bool {
	return slices.ContainsFunc(chosen, func(id int) bool {
		parent := f.kin().Above(id)
		kids := f[parent]
		if way == "down" {
			kids = slices.Clone(kids)
			slices.Reverse(kids)
		}
		free := slices.IndexFunc(kids, func(other int) bool { return !slices.Contains(chosen, other) })
		return way == "out" && parent == 0 || way != "out" && (free < 0 || slices.Index(kids, id) < free)
	})
}

func TestSeveralGoToAPosition(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		f, chosen := randomForest(t)
		position := rapid.IntRange(1, 4).Draw(t, "position")
		shifts, err := edit.Positions(f.kin(), chosen, strconv.Itoa(position))
		if err != nil {
			require.ErrorContains(t, err, "A position here is a number from 1 to")
			return
		}
		for _, s := range shifts {
			f.shift(t, s)
		}
		seen := map[int]int{}
		for _, id := range chosen {
			parent := f.kin().Above(id)
			require.Equal(t, position-1+seen[parent], slices.Index(f[parent], id))
			seen[parent]++
		}
	})
}
