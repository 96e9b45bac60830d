package count

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"golang.org/x/text/language"
	"golang.org/x/text/message"
	"pgregory.net/rapid"

	_ "vineladder/internal/laws"
)

// Source: CLDR's decimal format of English, as x/text has it.
func TestNumberAgreesWithCLDR(t *testing.T) {
	english := message.NewPrinter(language.English)
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(-5_000_000, 5_000_000).Draw(t, "n")
		assert.Equal(t, english.Sprintf("%d", n), Number(n))
	})
	for _, n := range []int{0, 7, -7, 999, -999, 1000, -1000, 999_999, 1_000_000} {
		assert.Equal(t, english.Sprintf("%d", n), Number(n))
	}
}

func TestCountsAndPlaces(t *testing.T) {
	assert.Equal(t, []string{"0 pages", "1 page", "2,399 pages"}, []string{Pages(0), Pages(1), Pages(2399)})
	assert.Equal(t, []string{"none", "three", "2,399"}, []string{Cardinal(0), Cardinal(3), Cardinal(2399)})
	for n, want := range map[int]string{
		1: "first", 10: "tenth", 11: "11th", 13: "13th", 21: "21st", 102: "102nd",
		1003: "1,003rd", 1112: "1,112th",
	} {
		assert.Equal(t, want, Ordinal(n))
	}
}
