package site_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"vineladder/internal/core/site"
)

// Which pages link to one, kept through any edits, against asking the text of every page.
func TestLinksAreKnownBothWays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := site.NewBuilder(site.Settings{Language: "en"})
		texts := []string{"", "a", "b", "c"}
		for _, hash := range texts[1:] {
			b.KnowText(hash, rapid.SliceOfNDistinct(rapid.Custom(func(t *rapid.T) site.PageID {
				return site.PageID(rapid.IntRange(1, 6).Draw(t, "to"))
			}), 0, 3, rapid.ID[site.PageID]).Draw(t, "links"))
		}
		s := b.Site()
		for range rapid.IntRange(1, 12).Draw(t, "edits") {
			before := linking(s)
			next := s.Builder()
			id := site.PageID(rapid.IntRange(1, 6).Draw(t, "page"))
			p := site.Page{
				ID: id, Parent: min(1, id-1), Rank: fmt.Sprint("m", id), Segment: fmt.Sprint(id), Label: "Page",
				Text: rapid.SampledFrom(texts).Draw(t, "text"),
			}
			next.Put(&p)
			made := next.Site()
			assert.Equal(t, before, linking(s), "the Site given has changed")
			s = made
			want := map[site.PageID][]site.PageID{}
			for from := site.PageID(1); from <= 6; from++ {
				if p := s.Page(from); p != nil {
					for _, to := range s.Links(p.Text) {
						want[to] = append(want[to], from)
					}
				}
			}
			assert.Equal(t, want, linking(s))
		}
	})
}

func linking(s *site.Site) map[site.PageID][]site.PageID {
	found := map[site.PageID][]site.PageID{}
	for to := site.PageID(1); to <= 6; to++ {
		if from := s.Linking(to); len(from) > 0 {
			found[to] = append([]site.PageID(nil), from...)
		}
	}
	return found
}
