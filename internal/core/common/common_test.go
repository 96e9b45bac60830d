package common_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"vineladder/internal/core/common"
	_ "vineladder/internal/laws"
)

// The lines that two lists have in common, against their definition: in order in both, and none longer in small lists.
func TestCommonLines(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		draw := rapid.SliceOfN(rapid.SampledFrom([]string{"a", "b", "c"}), 0, 7)
		a, b := draw.Draw(t, "a"), draw.Draw(t, "b")
		pairs := common.Lines(a, b)
		for i, pair := range pairs {
			assert.Equal(t, a[pair[0]], b[pair[1]])
			assert.True(t, i == 0 || pairs[i-1][0] < pair[0] && pairs[i-1][1] < pair[1])
		}
		assert.Len(t, pairs, longest(a, b))
		for _, pair := range common.Once(a, b) {
			assert.Equal(t, a[pair[0]], b[pair[1]])
		}
	})
}

func longest(a, b []string) int {
	if len(a) == 0 || len(b) == 0 {
		return 0
	}
	if a[0] == b[0] {
		return 1 + longest(a[1:], b[1:])
	}
	return max(longest(a[1:], b), longest(a, b[1:]))
}
