package icicle_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"vineladder/internal/core/icicle"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// Every page stands in exactly one box of its level, alone or merged; boxes of a level do not overlap, and lie within
// their parent's.
func TestBoxesHoldEveryPageOnceAndDoNotOverlap(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 60)
		least := rapid.SampledFrom([]float64{0, 10, 50}).Draw(t, "least")
		boxes := icicle.Layout(s, s.Home(), 1000, least, 20)
		ends := map[int]float64{}
		pages := map[site.PageID]bool{}
		for _, box := range boxes {
			if box.X < ends[box.Level]-1e-6 {
				t.Fatalf("box %+v overlaps", box)
			}
			ends[box.Level] = box.X + box.W
			if box.More == 0 && box.Pages != 1+s.Below(box.Page) {
				t.Fatalf("box %+v has %d pages", box, 1+s.Below(box.Page))
			}
			pages[box.Page] = true
		}
		if least == 0 && len(pages) != s.Count() {
			t.Fatalf("%d of %d pages are drawn", len(pages), s.Count())
		}
		for _, end := range ends {
			if end > 1000+1e-6 {
				t.Fatalf("a level is %f wide", end)
			}
		}
	})
}

func TestNarrowRunsMerge(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Big\n    a\n    b\n    c\n    d\n  x\n  y\n  z\n  Last\n    e\n    f\n    g")
	boxes := icicle.Layout(s, s.Home(), 120, 25, 1)
	var drawn []int
	for _, box := range boxes {
		drawn = append(drawn, box.More)
	}
	assert.Equal(t, []int{0, 0, 3, 0}, drawn, "the home page, Big, three narrow ones as one, Last")
	assert.Equal(t, 3, boxes[2].Pages)
	assert.Equal(t, 1, boxes[2].At)
}
