package ask

import (
	"cmp"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/gosimple/unidecode"

	"vineladder/internal/core/address"
	"vineladder/internal/core/site"
)

// Named finds pages by words in any order, as Words does, and gives the likeliest first: those of exactly this
// label, those whose label begins with it, as words of its own before a part of a word, the others, and last those
// that have some of the words and stand below pages that have the rest, as in “fuel north pier”; among equals the
// highest in the tree, then the tree's order. At most limit are given.
func Named(s *site.Site, phrase string, reads func(*site.Page) bool, limit int) []site.PageID {
	words, begins := fold(phrase), Folded(strings.TrimSpace(phrase))
	if len(words) == 0 {
		return nil
	}
	type hit struct {
		page        site.PageID
		rank, level int
	}
	var hits []hit
	all := uint64(1)<<min(len(words), 63) - 1
	var down func(id site.PageID, level int, above uint64)
	down = func(id site.PageID, level int, above uint64) {
		p := s.Page(id)
		own := which(p, words, reads)
		if label := Folded(p.Label); label == begins {
			hits = append(hits, hit{id, 0, level})
		} else if strings.HasPrefix(label, begins+" ") {
			hits = append(hits, hit{id, 1, level})
		} else if strings.HasPrefix(label, begins) {
			hits = append(hits, hit{id, 2, level})
		} else if own == all {
			hits = append(hits, hit{id, 3, level})
		} else if own != 0 && own|above == all {
			hits = append(hits, hit{id, 4, level})
		}
		for _, kid := range s.Children(id) {
			down(kid, level+1, above|own)
		}
	}
	down(s.Home(), 0, 0)
	slices.SortStableFunc(hits, func(a, b hit) int { return cmp.Or(a.rank-b.rank, a.level-b.level) })
	named := make([]site.PageID, min(limit, len(hits)))
	for i := range named {
		named[i] = hits[i].page
	}
	return named
}

// Words says which pages have all words of a phrase, whatever their order, accents and case; every page has none.
// reads says of which pages the title may be looked at; nil: of all.
func Words(phrase string, reads func(*site.Page) bool) func(*site.Page) bool {
	words := fold(phrase)
	return func(p *site.Page) bool { return hasWords(p, words, reads) }
}

// fold gives the words of a phrase without accents and case, as segments are made.
func fold(phrase string) []string {
	if strings.TrimSpace(phrase) == "" {
		return nil
	}
	return strings.Split(address.Segment(phrase), "-")
}

// hasWords says whether every word stands in the segment, the label, the title or another label of a topic.
func hasWords(p *site.Page, words []string, reads func(*site.Page) bool) bool {
	if len(words) == 0 {
		return true
	}
	return which(p, words, reads) == uint64(1)<<min(len(words), 63)-1
}

// which says which of the words stand there, a bit each; those beyond 63 are not asked.
func which(p *site.Page, words []string, reads func(*site.Page) bool) (found uint64) {
	label, title := Folded(p.Label), Folded(p.Title)
	if title != "" && reads != nil && !reads(p) {
		title = ""
	}
	others := ""
	if len(p.OtherLabels)+len(p.HiddenLabels) > 0 {
		others = Folded(strings.Join(slices.Concat(p.OtherLabels, p.HiddenLabels), " "))
	}
	for i, word := range words[:min(len(words), 63)] {
		if strings.Contains(p.Segment, word) || strings.Contains(label, word) || strings.Contains(title, word) ||
			strings.Contains(others, word) {
			found |= 1 << i
		}
	}
	return found
}

// Folded writes a label as the words that are looked for are written. Making a segment of every label would make up
// nearly all of the search; so it is made only where signs become words, and letters are transliterated only where
// they are not plain ones.
func Folded(label string) string {
	plain := true
	for i := range len(label) {
		if c := label[i]; c == '&' || c == '@' {
			return address.Segment(label)
		} else if c >= utf8.RuneSelf {
			plain = false
		}
	}
	if !plain {
		label = unidecode.Unidecode(label)
	}
	return strings.ToLower(label)
}
