package theme_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/theme"
)

func TestTheThemeThatShips(t *testing.T) {
	shipped, err := theme.Of()
	require.NoError(t, err)
	var names []string
	for _, l := range shipped.Layouts {
		names = append(names, l.Name)
		assert.True(t, l.Has("content"), l.Name)
	}
	assert.Equal(t, []string{"Standard", "Front", "Wide", "Form"}, names)
	css := theme.Style(shipped)
	assert.Contains(
		t,
		css,
		`.layout-front{grid-template-rows:auto auto auto 1fr auto;grid-template-areas:"header""content""tasks""below""footer"}`,
	)
	assert.Contains(
		t,
		css,
		`grid-template-columns:minmax(0, 1fr) fit-content(22rem);grid-template-rows:auto auto 1fr auto;grid-template-areas:"header header""content tasks"`,
	)
	assert.Contains(t, css, ".pair-sand{color:#21302f;background:#f6efe2}")
}

func TestAThemeThatDoesNotHold(t *testing.T) {
	file := func(wide, phone string) string {
		return `{"regions":[{"key":"content"},{"key":"side"}],"layouts":[{"key":"a","name":"A","columns":["1fr","1fr"],"wide":` + wide + `,"phone":` + phone + `}]}`
	}
	for name, c := range map[string]struct{ file, says string }{
		"not JSON":                      {"{", "read the theme"},
		"a row too short":               {file(`[["content"]]`, `["content"]`), "1 cells for 2 columns"},
		"a region that is not declared": {file(`[["content","attic"]]`, `["content","attic"]`), "no region “attic”"},
		"a region round a corner": {
			file(`[["content","content"],["side","content"]]`, `["content","side"]`),
			"not one rectangle",
		},
		"missing when narrow": {file(`[["content","side"]]`, `["content"]`), "missing on narrow"},
		"more when narrow":    {file(`[["content","content"]]`, `["content","side"]`), "other regions on narrow"},
		"without content":     {file(`[["side","side"]]`, `["side"]`), "no region “content”"},
		"a width that is none": {strings.Replace(file(`[["content","side"]]`, `["content","side"]`), `"1fr"`,
			`"1fr;}body{"`, 1), "not the width"},
		"a pair that can't be read": {`{"pairs":[{"key":"pale","text":"#777777","back":"#ffffff"}]}`, "pair “pale”"},
	} {
		_, err := theme.Parse([]byte(c.file))
		assert.ErrorContains(t, err, c.says, name)
	}
}
