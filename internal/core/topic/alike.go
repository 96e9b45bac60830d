package topic

import (
	"slices"
	"unicode/utf8"

	"github.com/agnivade/levenshtein"

	"vineladder/internal/core/site"
)

// AlikeLimit bounds the topics that are said to be called nearly as another one.
const AlikeLimit = 5

// Alike gives the topics that are called nearly as another one is, in whatever list: but for case and accents the same,
// or, in words of some length, a letter or two apart. Those nearest come first, equals in the tree's order.
func Alike(s *site.Site, topic site.PageID, folded func(string) string) []site.PageID {
	type other struct {
		page site.PageID
		far  int
	}
	p := s.Page(topic)
	if p == nil || !p.IsTopic() {
		return nil
	}
	own := folded(p.Label)
	letters := utf8.RuneCountInString(own)
	may := min(2, letters/5)
	var found []other
	for _, list := range s.TopicLists() {
		s.Walk(list, func(q *site.Page) bool {
			if q.ID == topic || !q.IsTopic() || len(q.Label) > 2*len(p.Label)+4 || len(p.Label) > 2*len(q.Label)+4 {
				return true
			}
			words := folded(q.Label)
			if n := utf8.RuneCountInString(words); n < letters-may || n > letters+may {
				return true
			}
			if far := levenshtein.ComputeDistance(own, words); far <= may {
				found = append(found, other{q.ID, far})
			}
			return true
		})
	}
	slices.SortStableFunc(found, func(a, b other) int { return a.far - b.far })
	var pages []site.PageID
	for _, o := range found[:min(len(found), AlikeLimit)] {
		pages = append(pages, o.page)
	}
	return pages
}
