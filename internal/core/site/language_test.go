package site

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
)

// A site that comes to be kept in another language has its pages in the order of that language, as if it had been
// kept in it from the beginning. Swedish: å, ä and ö follow z (CLDR, from memory).
func TestAnotherLanguageSortsAgain(t *testing.T) {
	build := func(language string) *Site {
		b := NewBuilder(Settings{Language: language})
		b.Put(&Page{ID: 1, Label: "Home", Sort: SortLabel})
		for i, label := range []string{"Zebra", "Ängar", "Alpha", "Öar", "Åar", "Beta"} {
			b.Put(&Page{ID: PageID(i + 2), Parent: 1, Label: label, Segment: label, Rank: string(rune('a' + i))})
		}
		return b.Site()
	}
	english, swedish := build("en"), build("sv")
	assert.NotEqual(t, english.Children(1), swedish.Children(1))
	b := english.Builder()
	settings := english.Settings()
	settings.Language = "sv"
	b.SetSettings(settings)
	assert.Equal(t, swedish.Children(1), b.Site().Children(1))
	assert.True(t, slices.Equal(build("en").Children(1), english.Children(1)), "the Site that was is as it was")
}

func TestZonesAreOneValueEach(t *testing.T) {
	one, known := LoadZone("Europe/Oslo")
	assert.True(t, known)
	again, _ := LoadZone("Europe/Oslo")
	assert.Same(t, one, again)
	for _, unknown := range []string{"", "Local", "Nowhere/Land", "../etc/passwd"} {
		_, known := LoadZone(unknown)
		assert.False(t, known, unknown)
	}
}

// Pages stand by their long names as comparing them two by two puts them, in every language.
func TestLongNamesStandAsTheyCompare(t *testing.T) {
	words := []string{
		"Åsgarth", "asgarth", "Øyra", "Oyra", "oyra", "Zebra", "Ängar", "cote", "côte", "coté", "Æble", "Aable", "AAble",
		"llama", "luz", "lobo", "chico", "cosa", "Straße", "Strasse", "e\u0301", "é", "10", "9", "", "Þing", "thing",
	}
	for _, language := range Languages {
		b := NewBuilder(Settings{Language: language.Tag})
		var pages []PageID
		for i, label := range words {
			b.Put(&Page{ID: PageID(i + 1), Binned: true, Label: label})
			pages = append(pages, PageID(len(words)-i))
		}
		s := b.Site()
		s.SortByHeading(pages)
		for i, id := range pages[1:] {
			before, after := s.Page(pages[i]).Label, s.Page(id).Label
			assert.LessOrEqual(t, s.Collate(before, after), 0, "%s: %s, %s", language.Tag, before, after)
		}
	}
}
