package text_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"vineladder/internal/core/text"
)

// Words as readers count them: common practice, no source; word boundaries compare Unicode UAX #29, from memory.
func TestWordsAreCounted(t *testing.T) {
	for html, want := range map[string]int{
		"": 0, "<p></p>": 0, "<p>One</p><p>two</p>": 2, "<p>don’t re-open</p>": 2, "<p>Åsgarth &amp; Øyra, 7.40</p>": 4,
		"<p>har<strong>bour</strong> light</p>": 2, "<ul><li>a</li><li>b</li></ul>": 2, "<p> – … – </p>": 0,
		`<p><a href="https://tides.example">tides today</a></p>`: 2,
	} {
		assert.Equal(t, want, text.Length(html), html)
	}
}
