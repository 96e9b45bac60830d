package site

import (
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	_ "vineladder/internal/laws"
)

func TestTrieIsAMapWhoseVersionsDoNotDisturbEachOther(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var versions []trie[int]
		var models []map[int64]int
		now, model := trie[int]{}, map[int64]int{}
		for range rapid.IntRange(1, 20).Draw(t, "versions") {
			e := new(edit)
			next := map[int64]int{}
			for k, v := range model {
				next[k] = v
			}
			for range rapid.IntRange(1, 10).Draw(t, "writes") {
				key := rapid.Int64Range(0, 300_000).Draw(t, "key")
				now.set(e, key, int(key)+len(versions))
				next[key] = int(key) + len(versions)
			}
			model = next
			versions, models = append(versions, now), append(models, model)
		}
		for i, version := range versions {
			for key, value := range models[i] {
				assert.Equal(t, value, version.get(key))
			}
		}
		changed := map[int64]bool{}
		eachUnshared(versions[0], now, func(key int64, was, is int) {
			if was != is {
				changed[key] = true
			}
		})
		for key, value := range model {
			assert.Equal(t, value != models[0][key], changed[key])
		}
	})
}

func TestRankBetweenLiesBetweenAndStaysShortAtTheEnds(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		ranks := []string{RankBetween("", "")}
		for range rapid.IntRange(1, 300).Draw(t, "n") {
			at := rapid.IntRange(0, len(ranks)).Draw(t, "at")
			lower, upper := "", ""
			if at > 0 {
				lower = ranks[at-1]
			}
			if at < len(ranks) {
				upper = ranks[at]
			}
			ranks = slices.Insert(ranks, at, RankBetween(lower, upper))
		}
		assert.True(t, slices.IsSorted(ranks))
		assert.Len(t, slices.Compact(slices.Clone(ranks)), len(ranks), "no rank stands twice")
	})
	first, last := firstRank, firstRank
	for range 10_000 {
		first, last = RankBetween("", first), RankBetween(last, "")
	}
	assert.LessOrEqual(t, max(len(first), len(last)), 4, "ten thousand at either end")
	assert.True(t, slices.IsSorted(Ranks(5000)))
}

func TestPutKeepsEveryIndexWhateverTheOrderOfArrival(t *testing.T) {
	pages := []*Page{{ID: 1, Label: "Home"}}
	ranks := Ranks(400)
	for id := PageID(2); id <= 400; id++ {
		pages = append(pages, &Page{ID: id, Parent: id / 3, Label: "x", Rank: ranks[400-id], Segment: ranks[id-1]})
		if id < 3 {
			pages[id-1].Parent = 1
		}
	}
	inOrder := NewBuilder(Settings{Language: "en"})
	inOrder.Put(pages...)
	want := inOrder.Site()
	require.Equal(t, 400, want.Count())
	rand.New(rand.NewPCG(1, 2)).Shuffle(len(pages), func(i, j int) { pages[i], pages[j] = pages[j], pages[i] })
	shuffled := NewBuilder(Settings{Language: "en"})
	for _, p := range pages {
		shuffled.Put(p)
	}
	got := shuffled.Site()
	for id := PageID(1); id <= 400; id++ {
		assert.Equal(t, want.Children(id), got.Children(id), "children of %d", id)
		assert.Equal(t, want.Below(id), got.Below(id), "below %d", id)
		if p := got.Page(id); p.Parent != 0 {
			assert.Equal(t, id, got.Child(p.Parent, p.Segment))
			at, n := got.Index(id)
			assert.Equal(t, id, got.Children(p.Parent)[at])
			assert.Len(t, got.Children(p.Parent), n)
		}
	}
}

func TestPutMayExchangeParentAndChild(t *testing.T) {
	b := NewBuilder(Settings{Language: "en"})
	b.Put(
		&Page{ID: 1},
		&Page{ID: 2, Parent: 1, Segment: "a", Rank: "a0"},
		&Page{ID: 3, Parent: 2, Segment: "b", Rank: "a0"},
	)
	s := b.Site()
	b = s.Builder()
	b.Put(&Page{ID: 3, Parent: 1, Segment: "b", Rank: "a0"}, &Page{ID: 2, Parent: 3, Segment: "a", Rank: "a0"})
	turned := b.Site()
	assert.Equal(t, []PageID{3}, turned.Children(1))
	assert.Equal(t, []PageID{2}, turned.Children(3))
	assert.Empty(t, turned.Children(2))
	assert.Equal(t, 2, turned.Below(1))
	assert.Equal(t, []PageID{2}, s.Children(1), "the Site it came from is as it was")
}

func TestOrderOfChildren(t *testing.T) {
	at := func(id PageID, label string, pin Pin, rank string) *Page {
		return &Page{ID: id, Parent: 1, Label: label, Pin: pin, Rank: rank, Segment: label + rank}
	}
	// Swedish: å ä ö follow z. Source: CLDR, Swedish tailoring of the root collation; from memory.
	b := NewBuilder(Settings{Language: "sv"})
	b.Put(
		&Page{ID: 1, Sort: SortLabel},
		at(2, "Öland", "", "a0"),
		at(3, "Zorn", "", "a1"),
		at(4, "Ånn", "", "a2"),
		at(
			5,
			"alpha",
			"",
			"a3",
		),
		at(6, "Om oss", PinEnd, "a4"),
		at(7, "Start", PinStart, "a5"),
		at(8, "Zorn", "", "a6"),
	)
	s := b.Site()
	assert.Equal(t, []PageID{7, 5, 3, 8, 4, 2, 6}, s.Children(1))
	b = s.Builder()
	manual := *s.Page(1)
	manual.Sort = SortManual
	b.Put(&manual)
	assert.Equal(t, []PageID{2, 3, 4, 5, 6, 7, 8}, b.Site().Children(1), "by hand the ranks decide")
}
