package consequence_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/core/text"
)

// What a page that goes leaves behind is named: the texts that link to it, and for whom their links become plain words.
func TestTextsThatLoseTheirLinksAreNamed(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Winter\n  Fares\n  Boats\n  Staff | audience=staff")
	folder, place := edit.FilesPlace(s, 6)
	s, _, err := edit.ApplyAll(s, append(
		folder, edit.MakeFile(7, place, "Chart", "chart.png", testkit.Bytes("chart")),
	), testkit.Now)
	require.NoError(t, err)
	texts := consequence.Texts{
		"a": `<p>See <a href="page:2">winter</a>.</p>`,
		"b": `<p><a href="page:2#boats">Winter</a></p><figure><img src="page:7" alt="A chart"/></figure>`,
	}
	b := s.Builder()
	for hash, kept := range texts {
		b.KnowText(hash, text.Links(kept))
	}
	for id, hash := range map[site.PageID]string{3: "a", 4: "b", 5: "a"} {
		p := *b.Peek().Page(id)
		p.Text = hash
		b.Put(&p)
	}
	s = b.Site()
	said := func(ops ...edit.Op) string {
		is, _, err := edit.ApplyAll(s, ops, testkit.Now)
		require.NoError(t, err)
		var lines []string
		for _, one := range consequence.Compare(s, is, consequence.ViewersOf(s, nil, testkit.Now), texts).Sentences() {
			if strings.Contains(one.Text, "link") || strings.Contains(one.Text, "picture") {
				lines = append(lines, one.Text)
			}
		}
		return strings.Join(lines, "\n")
	}
	assert.Contains(t, said(edit.OpBin{Page: 2}), "3 texts link to “Winter”: their links become plain words.")
	closed := said(edit.OpEdit{Page: 2, Fields: []edit.FieldChange{{Field: edit.FieldAudience, New: "staff"}}})
	assert.Contains(t, closed, "2 texts link to “Winter”: their links become plain words for everyone but ")
	assert.Contains(t, said(edit.OpBin{Page: 7}),
		"1 text shows the picture “Chart”: its description stands in its place.")
	assert.NotContains(t, said(edit.OpMove{Page: 2, To: edit.Place{Parent: 3}}), "plain words", "moving breaks no link")
}
