package text_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"vineladder/internal/core/text"
)

func TestWebAddressesOfATextAreFound(t *testing.T) {
	for html, want := range map[string][]string{
		"": nil, `<p><a href="/fares">Fares</a> <a href="page:3">x</a> <a href="mailto:a@tides.example">y</a></p>`: nil,
		`<p><a href="https://tides.example/a?b=1&amp;c=2#today">Tides</a> <a href="https://tides.example/a?b=1&amp;c=2">
			again</a> <a class="x" href="http://ice.example/">ice</a></p>`: {
			"https://tides.example/a?b=1&c=2", "http://ice.example/",
		},
		`<p>"http://no.example" is no link</p>`: nil,
	} {
		assert.Equal(t, want, text.Web(html), html)
	}
}
