package text_test

import (
	"strings"
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"vineladder/internal/core/testkit"
	"vineladder/internal/core/text"
)

func all(int) bool { return true }

// Words are found as people read them.
func TestWordsAreFoundThroughEmphasisAndNotThroughParagraphs(t *testing.T) {
	kept := `<p>The North <strong>Pi</strong>er, and the north` + "\u00a0" + `<em>pier</em>.</p>` +
		`<p>North</p><p>pier</p><ul><li>Northpier, Northern pier</li></ul>`
	for _, c := range []struct {
		sought text.Search
		found  []string
	}{
		{text.Search{Words: "north pier"}, []string{"North Pier", "north\u00a0pier"}},
		{text.Search{Words: "North Pier", Exact: true}, []string{"North Pier"}},
		{text.Search{Words: "north"}, []string{"North", "north", "North", "North", "North"}},
		{text.Search{Words: "north", Whole: true}, []string{"North", "north", "North"}},
		{text.Search{Words: " "}, nil},
		{text.Search{Words: "<strong>"}, nil},
	} {
		var found []string
		for _, hit := range c.sought.In(kept) {
			found = append(found, hit.Found)
		}
		assert.Equal(t, c.found, found, c.sought)
	}
}

// Case folding is Unicode's: CaseFolding.txt has “ß” as “ss” and the Kelvin sign as “k”.
func TestCapitalsAndSmallLettersAreOne(t *testing.T) {
	assert.Len(t, text.Search{Words: "STRASSE"}.InLine("Die Straße"), 1)
	assert.Len(t, text.Search{Words: "300 k"}.InLine("at 300 \u212a"), 1)
	assert.Empty(t, text.Search{Words: "s"}.InLine("ß"), "half of a letter is none")
}

func TestReplacedWordsStandInTheEmphasisOfTheFirstLetter(t *testing.T) {
	north := text.Search{Words: "north pier"}
	kept := `<p>The <strong>North</strong> <a href="page:4">Pier</a> &amp; north pier</p>`
	assert.Equal(t, `<p>The <strong>Long &lt;Quay&gt;</strong> &amp; north pier</p>`,
		north.Replace(kept, "Long <Quay>", func(n int) bool { return n == 0 }))
	assert.Equal(t, "Long Quay, Long Quay", north.ReplaceLine("North pier, north  pier", "Long Quay", all))
}

// Laws of replacing, on random texts: what is not taken stays to the letter; words replaced by themselves change
// nothing; once all are replaced by words without them none is left; and no other word comes or goes.
func TestReplacingLaws(t *testing.T) {
	s := testkit.Outline(t, "Home")
	rapid.Check(t, func(t *rapid.T) {
		word := rapid.SampledFrom([]string{"quay", "Quay", "ferry", "ß", "ice", "&amp;", "sea\u00a0ice"})
		var source strings.Builder
		for range rapid.IntRange(0, 6).Draw(t, "paragraphs") {
			tag := rapid.SampledFrom([]string{"p", "h2", "li", "td"}).Draw(t, "tag")
			source.WriteString("<" + tag + ">")
			for range rapid.IntRange(0, 8).Draw(t, "words") {
				open := rapid.SampledFrom([]string{"", "strong", "em", "a"}).Draw(t, "inline")
				if open == "" {
					source.WriteString(word.Draw(t, "word") + rapid.SampledFrom([]string{"", " "}).Draw(t, "space"))
				} else {
					source.WriteString("<" + open + ">" + word.Draw(t, "word") + "</" + open + ">")
				}
			}
			source.WriteString("</" + tag + ">")
		}
		kept := text.NewCleaner().Clean(s, source.String(), testkit.Now)
		q := text.Search{
			Words: rapid.SampledFrom([]string{"quay", "ICE", "y i", "ss"}).Draw(t, "sought"),
			Exact: rapid.Bool().Draw(t, "exact"),
			Whole: rapid.Bool().Draw(t, "whole"),
		}
		hits := q.In(kept)
		assert.Equal(t, kept, q.Replace(kept, "pier", func(int) bool { return false }))
		for i := range hits {
			same := q.Replace(kept, hits[i].Found, func(at int) bool { return at == i })
			assert.Equal(t, lettersOf(kept), lettersOf(same), "itself for itself")
		}
		gone := q.Replace(kept, "*", all)
		assert.Empty(t, q.In(gone), gone)
		taken := 0
		for _, hit := range hits {
			taken += len([]rune(lettersOf(hit.Found)))
		}
		assert.Len(t, []rune(lettersOf(gone)), len([]rune(lettersOf(kept)))-taken+len(hits))
	})
}

// lettersOf is what a text says, without its tags and spaces: by another way than the one that is tested.
func lettersOf(html string) string {
	var out strings.Builder
	inTag := false
	for _, r := range strings.ReplaceAll(html, "&amp;", "&") {
		switch {
		case r == '<':
			inTag = true
		case r == '>':
			inTag = false
		case !inTag && !unicode.IsSpace(r):
			out.WriteRune(r)
		}
	}
	return out.String()
}
