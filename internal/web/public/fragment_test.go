package public

import (
	"html/template"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"
	"pgregory.net/rapid"

	_ "vineladder/internal/laws"
)

var reference = template.Must(
	template.New(
		"",
	).Parse(
		`<a href="{{.Href}}"{{if .Trail}} class="trail"{{with .Current}} aria-current="{{.}}"{{end}}{{end}}{{with .Hint}} title="{{.}}"{{end}} dir="auto">{{.Label}}</a>`,
	),
)

// nodes reads markup as a browser does: elements with their attributes, and text.
func nodes(t require.TestingT, markup string) []html.Token {
	var found []html.Token
	for in := html.NewTokenizer(strings.NewReader(markup)); in.Next() != html.ErrorToken; {
		found = append(found, in.Token())
	}
	return found
}

// Source: html/template as the reference for escaping: whatever the words are, a browser reads the same element from
// both.
func TestAnchorsAreEscapedAsTheTemplateDoes(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		words := rapid.StringOf(rapid.SampledFrom([]rune(`ab<>&"'/ =;:#é` + "`\u00a0")))
		i := &item{
			Label: words.Draw(t, "label"), Hint: words.Draw(t, "hint"), Trail: rapid.Bool().Draw(t, "trail"),
			Current: rapid.SampledFrom([]string{"", "page", "true"}).Draw(t, "current"),
			Href:    "/" + rapid.StringMatching(`[a-z0-9/-]*`).Draw(t, "path"),
		}
		var want strings.Builder
		require.NoError(t, reference.Execute(&want, i))
		require.Equal(t, nodes(t, want.String()), nodes(t, string(anchor(i))))
	})
}

func TestOnlyKnownSchemesAreWrittenByHand(t *testing.T) {
	unknown := []string{
		"javascript:alert(1)", " javascript:alert(1)", "JAVASCRIPT:x", "vbscript:x", "data:text/html,x", "",
	}
	for _, href := range unknown {
		assert.Empty(t, anchor(&item{Href: href, Label: "x"}), href)
	}
	assert.Equal(
		t,
		template.HTML(`<a href="https://tides.example/?a=1&amp;b=2" dir="auto">Tides</a>`),
		anchor(&item{Href: "https://tides.example/?a=1&b=2", Label: "Tides"}),
	)
}
