package text_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"vineladder/internal/core/text"
)

func TestWordsOfAText(t *testing.T) {
	assert.Equal(
		t,
		[]string{
			"## Boats",
			"Boats leave <strong>daily</strong> from the [/north-pier](north pier).",
			"<ul>",
			"• at eight",
			"• at ten",
			"</ul>",
		},
		text.Words(
			`<h2>Boats</h2><p>Boats leave <strong>daily</strong> from the <a href="/north-pier">north pier</a>.</p><ul><li>at eight</li><li>at ten</li></ul>`,
		),
	)
	assert.Empty(t, text.Words(""))
}

// Texts that look different have different words.
func TestTextsThatLookDifferentReadDifferently(t *testing.T) {
	seen := map[string]string{}
	for _, kept := range []string{
		"<p>a</p>", "<h2>a</h2>", "<h3>a</h3>", "<h4>a</h4>", "<ul><li>a</li></ul>", "<ol><li>a</li></ol>",
		"<p><em>a</em></p>", "<p><s>a</s></p>", "<blockquote>a</blockquote>", "<pre>a</pre>", `<p><a href="/a">a</a></p>`,
		`<p><a href="/b">a</a></p>`,
		"<p>a</p><hr>", "<p>a</p><p>a</p>", "<table><tr><td>a</td></tr></table>", "<table><tr><th>a</th></tr></table>",
	} {
		words := strings.Join(text.Words(kept), "\n")
		assert.Empty(t, seen[words], "%s reads as %s", kept, seen[words])
		seen[words] = kept
	}
}
