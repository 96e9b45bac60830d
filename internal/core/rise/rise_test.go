package rise_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"vineladder/internal/core/rise"
	_ "vineladder/internal/laws"
)

func TestOutside(t *testing.T) {
	for _, c := range []struct{ numbers, want []int }{
		{nil, nil}, {[]int{1, 2, 3}, nil}, {[]int{3, 1, 2}, []int{0}}, {[]int{2, 3, 1}, []int{2}}, {
			[]int{0, 4, 1, 2, 3},
			[]int{1},
		},
	} {
		assert.Equal(t, c.want, rise.Outside(c.numbers))
	}
}

// What stays is a rise, and no longer one exists: against all subsets.
func TestOutsideIsTheFewest(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		numbers := rapid.Permutation(
			[]int{0, 1, 2, 3, 4, 5, 6, 7}[:rapid.IntRange(0, 8).Draw(t, "n")],
		).Draw(
			t,
			"numbers",
		)
		outside := rise.Outside(numbers)
		longest := 0
		for set := range 1 << len(numbers) {
			var kept []int
			for i, n := range numbers {
				if set>>i&1 == 1 {
					kept = append(kept, n)
				}
			}
			if slices.IsSorted(kept) {
				longest = max(longest, len(kept))
			}
		}
		var stays []int
		for i, n := range numbers {
			if !slices.Contains(outside, i) {
				stays = append(stays, n)
			}
		}
		assert.True(t, slices.IsSorted(stays))
		assert.Len(t, stays, longest)
	})
}
