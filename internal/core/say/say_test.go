package say_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"vineladder/internal/core/say"
)

func TestSentencesBeginWithACapital(t *testing.T) {
	for words, want := range map[string]string{
		"": "", "moved “Fares”": "Moved “Fares”", "“Fares” moved": "“Fares” moved", "øyra": "Øyra", "12 pages": "12 pages",
		"\xff": "\xff",
	} {
		assert.Equal(t, want, say.Capital(words))
		assert.Equal(t, say.Inside(want), say.Inside(words))
	}
}
