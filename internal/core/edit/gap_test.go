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

// Whatever stands among siblings and goes to a position stands there afterwards, and one step is the position beside.
func TestPositionsAndSteps(t *testing.T) {
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
		after, before, steps := edit.Step(siblings, self, true)
		require.Equal(t, at > 0, steps)
		if steps {
			require.Equal(t, at, put(after, before))
		}
		after, before, steps = edit.Step(siblings, self, false)
		require.Equal(t, at < len(siblings)-1, steps)
		if steps {
			require.Equal(t, at+2, put(after, before))
		}
	})
	for _, typed := range []string{"", "0", "4", "-1", "two", "99999999999999999999"} {
		_, _, err := edit.Position([]int{1, 2, 3}, 2, typed)
		assert.ErrorContains(t, err, "A position here is a number from 1 to 3.", typed)
	}
	_, _, err := edit.Position([]int{1, 2, 3}, 9, " 4 ")
	assert.NoError(t, err, "it comes from elsewhere")
}
