package text_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
)

// Sources: WCAG 2.2 failures F84 and F91, by their examples.
func TestFaultsOfTexts(t *testing.T) {
	for _, c := range []struct {
		html string
		want []string
	}{
		{`<p>For times <a href="page:3">click here</a>.</p>`, []string{site.FaultVagueLink + "click here"}},
		{`<p><a href="page:3"><strong>More</strong>…</a></p>`, []string{site.FaultVagueLink + "More…"}},
		{`<p><a href="page:3">Times of the winter ferry</a></p>`, nil},
		{`<table><tbody><tr><td>Skerrow</td><td>4</td></tr></tbody></table>`, []string{site.FaultBareTable}},
		{`<table><tbody><tr><th scope="row">Skerrow</th><td>4</td></tr></tbody></table>`, nil},
		{
			`<table><tr><th>a</th></tr></table><table><tr><td>b</td></tr></table><table><tr><td>c</td></tr></table>`,
			[]string{site.FaultBareTable},
		},
		{`<p>here and more</p>`, nil},
		{``, nil},
	} {
		assert.Equal(t, c.want, text.Faults(c.html), c.html)
	}
}
