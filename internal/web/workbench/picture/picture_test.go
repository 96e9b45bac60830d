package picture

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// A label is whole, or ends at a word with an ellipsis; it never takes more than its box, and never says a stump.
func TestLabelsFitTheirBoxes(t *testing.T) {
	assert.Equal(t, "Notices", fitted("Notices", 200))
	assert.Equal(t, "Notices…", fitted("Notices of 2024", 90))
	assert.Equal(t, "", fitted("Notices of 2024", 20))
	rapid.Check(t, func(t *rapid.T) {
		label := rapid.StringMatching(`[A-Za-zØæ]{1,12}( [A-Za-zøÅ,]{1,12}){0,4}`).Draw(t, "label")
		width := rapid.Float64Range(0, 400).Draw(t, "width")
		got := fitted(label, width)
		var used float64
		for _, r := range strings.TrimSuffix(got, "…") {
			used += widthOf(r)
		}
		require.LessOrEqual(t, used, max(width, 0))
		whole, cut := strings.CutSuffix(got, "…")
		require.True(t, strings.HasPrefix(label, whole))
		if got != "" && !cut {
			require.Equal(t, label, got)
		}
		if cut {
			require.GreaterOrEqual(t, len([]rune(whole)), 4)
		}
	})
}
