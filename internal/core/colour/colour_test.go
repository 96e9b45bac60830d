package colour_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"vineladder/internal/core/colour"
)

// WCAG 2.2, contrast ratio: black on white is 21:1. That #777777 on white is 4.48:1 and #767676 the first grey that
// passes, with 4.54:1, is widely published; the values are from memory.
func TestContrastOfKnownPairs(t *testing.T) {
	for _, c := range []struct {
		pair, ratio string
		enough      bool
	}{
		{"#000000 on #ffffff", "21.00", true},
		{"#ffffff on #000000", "21.00", true},
		{"#ffffff on #ffffff", "1.00", false},
		{"#777777 on #ffffff", "4.47", false}, // 4.478, cut: not enough is never written as more
		{"#767676 on #ffffff", "4.54", true},
	} {
		pair, ok := colour.ParsePair(c.pair)
		assert.True(t, ok)
		assert.Equal(t, c.ratio, pair.Ratio(), c.pair)
		assert.Equal(t, c.enough, pair.Contrast() >= colour.Enough, c.pair)
	}
	grey, _ := colour.ParsePair("#777777 on #ffffff")
	assert.InDelta(t, 4.48, grey.Contrast(), 0.005)
}

func TestPairsAreReadAndWritten(t *testing.T) {
	pair, ok := colour.ParsePair("#1E2B27 on #f7f5ef")
	assert.True(t, ok)
	assert.Equal(t, "#1e2b27 on #f7f5ef", pair.String())
	back, ok := colour.Named(pair.Name())
	assert.True(t, ok)
	assert.Equal(t, pair, back)
	for _, wrong := range []string{
		"", "#fff on #000", "red on blue", "#gggggg on #000000", "#000000",
		"#000000 on #0000001", "#+00000 on #000000",
	} {
		_, ok := colour.ParsePair(wrong)
		assert.False(t, ok, wrong)
	}
}

func FuzzPairs(f *testing.F) {
	for _, seed := range []string{"#112233 on #ffffff", "#FFF on #000", "on", "#12345g on #ffffff"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, written string) {
		pair, is := colour.ParsePair(written)
		if !is {
			return
		}
		again, is := colour.ParsePair(pair.String())
		assert.True(t, is)
		assert.Equal(t, pair, again)
		assert.GreaterOrEqual(t, pair.Contrast(), 1.0)
		assert.LessOrEqual(t, pair.Contrast(), 21.0)
	})
}
