package text_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"vineladder/internal/core/text"
)

func paragraphsOf(words ...string) string {
	var out strings.Builder
	for _, word := range words {
		out.WriteString("<p>" + word + "</p>")
	}
	return out.String()
}

func TestPartsSayWhichSideChangedThem(t *testing.T) {
	base := paragraphsOf("Ferries", "Fares", "Piers", "Ice")
	parts := text.Compare(base, paragraphsOf("Ferries", "New fares", "Piers", "Fog"),
		paragraphsOf("Ferries", "Fares", "Piers", "Storm", "Tides"))
	sides := []text.Side{}
	for _, part := range parts {
		if part.Differs() {
			sides = append(sides, part.Suggests)
		}
	}
	assert.Equal(t, []text.Side{text.SideWas, ""}, sides, "the fares were changed by one, the last paragraph by both")
	assert.Equal(t, paragraphsOf("Ferries", "New fares", "Piers", "Fog", "Storm", "Tides"),
		text.Join(parts, func(n int) text.Side { return []text.Side{text.SideWas, text.SideBoth}[n] }))

	gone := text.Compare(base, base, paragraphsOf("Ferries", "Piers", "Ice"))
	assert.Equal(t, text.SideIs, gone[1].Suggests, "what one took away goes")
}

// Laws: either side taken throughout is that text to the letter; of both nothing is lost; a text differs from itself in
// nothing; and two people who change different paragraphs get both changes by what is suggested.
func TestJoiningLaws(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		piece := rapid.SampledFrom([]string{
			"<p>Quay</p>", "<p>Ice</p>", "<h2 id=\"a\">Fog</h2>", "<ul><li>Pier</li></ul>", "loose <em>words</em>", "",
		})
		draw := func(of string) string { return strings.Join(rapid.SliceOfN(piece, 0, 6).Draw(t, of), "") }
		base, was, is := draw("base"), draw("was"), draw("is")
		parts := text.Compare(base, was, is)
		take := func(side text.Side) string { return text.Join(parts, func(int) text.Side { return side }) }
		assert.Equal(t, was, take(text.SideWas))
		assert.Equal(t, is, take(text.SideIs))
		both := take(text.SideBoth)
		assert.GreaterOrEqual(t, len(both), max(len(was), len(is)))
		assert.False(t, slices.ContainsFunc(text.Compare(base, was, was), text.Part.Differs))
	})
}

func TestTwoWhoChangeDifferentParagraphsGetBoth(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(3, 8).Draw(t, "paragraphs")
		base := make([]string, n)
		for i := range base {
			base[i] = string(rune('A' + i))
		}
		was, is, both := slices.Clone(base), slices.Clone(base), slices.Clone(base)
		mine := rapid.IntRange(0, n-1).Draw(t, "mine")
		at := rapid.IntRange(0, n-1).Filter(func(i int) bool { return i != mine }).Draw(t, "theirs")
		was[mine], both[mine] = "mine", "mine"
		is[at], both[at] = "theirs", "theirs"
		parts := text.Compare(paragraphsOf(base...), paragraphsOf(was...), paragraphsOf(is...))
		var sides []text.Side
		for _, part := range parts {
			if part.Differs() {
				sides = append(sides, part.Suggests)
			}
		}
		assert.Equal(t, paragraphsOf(both...), text.Join(parts, func(n int) text.Side { return sides[n] }))
	})
}
