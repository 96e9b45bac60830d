package main

import (
	"context"
	"fmt"
	"math/rand/v2"
	"runtime"
	"slices"
	"strings"
	"time"

	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/topic"
)

func init() {
	rows = append(rows, []row{
		{
			name: "topic-counts", what: "all rolled-up counts of 80,000 topics for one visitor, three a page, against " +
				"a bare pass over the same pages that climbs from each topic and marks what it has counted for the page",
			aim: 3, unit: " ms", measure: topicCounts,
		},
		{
			name: "topic-page-first", what: "the first fifty of a topic with 10,000 pages, against collecting the same ids " +
				"and putting them in order by their bytes by hand",
			aim: 3, unit: " ms", measure: topicPage(1, false),
		},
		{
			name: "topic-page-hundredth", what: "the hundredth fifty of the same, against the first",
			aim: 2, unit: " ms", measure: topicPage(100, true),
		},
		{
			name: "tag-10000", what: "the consequences for 12 lenses of giving 10,000 pages a topic, against the rolled-up " +
				"counts before and after",
			aim: 3, unit: " ms", measure: tagging,
		},
		{
			name: "grown-warm", what: "an item that grows 7,380 lines from four levels of topics with at least one page each " +
				"and their counts, for a lens that is known, against a bare walk that collects those topics",
			aim: 10, unit: " ms", measure: grownMenu(true),
		},
		{
			name: "grown-new", what: "the same for a new lens, against the bare pass of the row “topic-counts”",
			aim: 10, unit: " ms", measure: grownMenu(false),
		},
		{
			name: "heap-topics", what: "heap after a collection of 80,000 topics and three of them on each page, against " +
				"400 B a topic and 200 B a page",
			aim: 1, unit: " MB", measure: topicHeap,
		},
	}...)
}

// topicsOfBench is the number of topics beside a site, topicsAPage that of those which each page bears.
const (
	topicsOfBench = 80_000
	topicsAPage   = 3
	firstTopic    = site.PageID(5_000_001)
)

// topical gives a site with a topic list whose topics stand nine in each, and pages that bear some; the first topic
// right in the list has 10,000 pages of its own besides.
func topical(s *site.Site) (*site.Site, []site.PageID) {
	random := rand.New(rand.NewPCG(7, 7))
	b := s.Builder()
	list := firstTopic - 1
	put := func(id, parent site.PageID, label string, kind string) {
		b.Put(&site.Page{
			ID: id, Key: fmt.Sprint(id), Parent: parent, Kind: kind, Status: site.StatusLive, Listed: true, Label: label,
			Segment: fmt.Sprintf("t%d", id), Rank: fmt.Sprintf("%09d", id), Sort: site.SortManual,
		})
	}
	put(list, s.Home(), "Nouns", site.KindTopicList)
	for n := range topicsOfBench {
		parent := list
		if n >= 9 {
			parent = firstTopic + site.PageID(n/9-1)
		}
		put(firstTopic+site.PageID(n), parent, fmt.Sprintf("Topic %d", n), site.KindTopic)
	}
	var many []site.PageID
	count := 0
	s.Walk(s.Home(), func(p *site.Page) bool {
		tagged := *p
		for range topicsAPage {
			tagged.Topics = append(tagged.Topics, firstTopic+10+site.PageID(random.IntN(topicsOfBench-10)))
		}
		if count++; count%10 == 0 && len(many) < 10_000 {
			many = append(many, p.ID)
		}
		slices.Sort(tagged.Topics)
		tagged.Topics = slices.Compact(tagged.Topics)
		b.Put(&tagged)
		return true
	})
	return b.Site(), many
}

func topicCounts(_ context.Context, w *world) (ours, baseline func() float64) {
	s, _ := topical(w.store.Published().Site)
	lens := reach.Lens{At: time.Now()}
	parents := make([]int32, topicsOfBench)
	for n := range parents {
		if parents[n] = -1; n >= 9 {
			parents[n] = int32(n/9 - 1)
		}
	}
	var borne [][]site.PageID
	reach.Walk(s, reach.NewPanel(lens), func(p *site.Page, state reach.State) bool {
		if state.Reachable() != 0 {
			borne = append(borne, p.Topics)
		}
		return state.Online != 0
	})
	counts, seen := make([]int32, topicsOfBench), make([]int32, topicsOfBench)
	return func() float64 { return milliseconds(func() { topic.CountsOf(s, lens) }) }, func() float64 {
		return milliseconds(func() {
			clear(counts)
			clear(seen)
			for page, topics := range borne {
				for _, id := range topics {
					for at := int32(id - firstTopic); at >= 0; at = parents[at] {
						if seen[at] != int32(page+1) {
							seen[at] = int32(page + 1)
							counts[at]++
						}
					}
				}
			}
		})
	}
}

// tagged gives a site in which 10,000 pages bear the tenth topic.
func tagged(s *site.Site, many []site.PageID) *site.Site {
	b := s.Builder()
	for _, id := range many {
		p := *s.Page(id)
		p.Topics = append([]site.PageID{firstTopic + 9}, p.Topics...)
		b.Put(&p)
	}
	return b.Site()
}

func topicPage(number int, besideFirst bool) func(context.Context, *world) (ours, baseline func() float64) {
	return func(_ context.Context, w *world) (ours, baseline func() float64) {
		s, many := topical(w.store.Published().Site)
		s = tagged(s, many)
		panel := reach.NewPanel(reach.Lens{At: time.Now()})
		reached := func(id site.PageID) bool { return panel.At(s, id).Reachable() != 0 }
		page := func(number int) float64 {
			return milliseconds(func() { topic.Of(s, firstTopic+9).To(s, reached).At(number) })
		}
		byHand := func() float64 {
			return milliseconds(func() {
				var hits []*site.Page
				for _, id := range topic.Bearers(s, firstTopic+9) {
					if p := s.Page(id); reached(id) {
						hits = append(hits, p)
					}
				}
				slices.SortFunc(hits, func(a, b *site.Page) int { return strings.Compare(a.Label, b.Label) })
			})
		}
		if besideFirst {
			byHand = func() float64 { return page(1) }
		}
		return func() float64 { return page(number) }, byHand
	}
}

func tagging(ctx context.Context, w *world) (ours, baseline func() float64) {
	s, many := topical(w.store.Published().Site)
	is := edit.Settle(s, tagged(s, many), time.Now())
	viewers := consequence.ViewersOf(s, nil, time.Now())
	lens := reach.Lens{At: time.Now()}
	return func() float64 {
			return milliseconds(func() { consequence.Compare(s, is, viewers, nil).Sentences() })
		}, func() float64 {
			return milliseconds(func() {
				topic.CountsOf(s, lens)
				topic.CountsOf(is, lens)
			})
		}
}

// grownMenu makes the lines of an item that grows from the topics.
func grownMenu(warm bool) func(context.Context, *world) (ours, baseline func() float64) {
	return func(ctx context.Context, w *world) (ours, baseline func() float64) {
		s, _ := topical(w.store.Published().Site)
		list := firstTopic - 1
		m := &site.Menu{ID: far, Entries: []site.Entry{{
			ID: far, Shows: site.ItemBranch{Root: list, Depth: 4, Self: site.SelfNot, Least: 1, Count: true},
		}}}
		everything := site.Window{First: 1, From: site.FromWhole, Unfold: site.UnfoldAll}
		lens := reach.Lens{At: time.Now()}
		view := menu.NewView(s, m, lens)
		ours = func() float64 {
			return milliseconds(func() {
				if !warm {
					view = menu.NewView(s, m, lens)
				}
				if len(view.Window(everything, s.Home())) == 0 {
					panic("no line")
				}
			})
		}
		if !warm {
			_, baseline = topicCounts(ctx, w)
			return ours, baseline
		}
		return ours, func() float64 {
			return milliseconds(func() {
				var found []site.PageID
				var down func(id site.PageID, left int)
				down = func(id site.PageID, left int) {
					for _, kid := range s.Children(id) {
						if p := s.Page(kid); p.Listed {
							if found = append(found, kid); left > 1 {
								down(kid, left-1)
							}
						}
					}
				}
				down(list, 4)
			})
		}
	}
}

func topicHeap(_ context.Context, w *world) (ours, baseline func() float64) {
	s := w.store.Published().Site
	heap := func() float64 {
		var stats runtime.MemStats
		runtime.GC()
		runtime.GC()
		runtime.ReadMemStats(&stats)
		return float64(stats.HeapAlloc) / 1e6
	}
	return func() float64 {
			before := heap()
			made, _ := topical(s)
			used := heap() - before
			runtime.KeepAlive(made)
			return used
		}, func() float64 {
			return (topicsOfBench*400 + float64(s.Count())*200) / 1e6
		}
}
