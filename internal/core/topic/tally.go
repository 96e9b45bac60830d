package topic

import (
	"math/bits"
	"sync"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A Tally says how many pages topics have for the lenses of a panel: of those that bear the topic or a narrower one,
// each once, the ones that the lens reaches. It counts when it is asked first, and many may ask at once.
type Tally struct {
	site  *site.Site
	panel *reach.Panel

	mu     sync.Mutex
	topics *site.Topics
	counts []int32 // by the number of the topic, lens by lens; nil: nobody asked yet
	least  map[leastKey]reach.Mask
}

type leastKey struct {
	topic site.PageID
	least int
}

// TallyOf is the tally of a Site for a panel, which keeps it.
func TallyOf(s *site.Site, panel *reach.Panel) *Tally {
	type tallyOf struct{ *site.Site }
	return reach.Keep(panel, tallyOf{s}, func() *Tally {
		return &Tally{site: s, panel: panel, least: map[leastKey]reach.Mask{}}
	})
}

// Of gives the numbers of pages of a topic, lens by lens; nil for what is no topic. The first time it costs the pages
// of the site.
func (t *Tally) Of(topic site.PageID) []int32 {
	t.mu.Lock()
	defer t.mu.Unlock()
	return t.of(topic)
}

func (t *Tally) of(topic site.PageID) []int32 {
	if t.counts == nil {
		t.count()
	}
	at, counted := t.topics.At(topic)
	if !counted {
		return nil
	}
	lenses := len(t.panel.Lenses())
	return t.counts[int(at)*lenses : (int(at)+1)*lenses]
}

func (t *Tally) count() {
	t.topics = t.site.Topics()
	lenses := len(t.panel.Lenses())
	t.counts = make([]int32, len(t.topics.Broader)*lenses)
	eachCounted(t.site, t.panel, func(p *site.Page, page int32, reached reach.Mask, up *climb) {
		for _, borne := range p.Topics {
			up.from(borne, page, func(at int32) {
				counts := t.counts[int(at)*lenses : (int(at)+1)*lenses]
				for left := uint64(reached); left != 0; left &= left - 1 {
					counts[bits.TrailingZeros64(left)]++
				}
			})
		}
	})
}

// AtLeast says for which lenses a topic has as many pages, or more. It looks at no more pages than it must, unless the
// topics were counted already.
func (t *Tally) AtLeast(topic site.PageID, least int) reach.Mask {
	t.mu.Lock()
	defer t.mu.Unlock()
	k := leastKey{topic, least}
	some, known := t.least[k]
	if !known {
		some = t.atLeast(topic, least)
		t.least[k] = some
	}
	return some
}

func (t *Tally) atLeast(topic site.PageID, least int) (some reach.Mask) {
	if t.counts != nil {
		for lens, n := range t.of(topic) {
			if int(n) >= least {
				some |= 1 << lens
			}
		}
		return some
	}
	found, seen := make([]int, len(t.panel.Lenses())), map[site.PageID]bool{}
	settings := t.site.Settings()
	look := func(pages []site.PageID) {
		for _, id := range pages {
			if some == t.panel.All() {
				return
			}
			if seen[id] || standsIn(settings, id) {
				continue
			}
			seen[id] = true
			for left := uint64(t.panel.At(t.site, id).Reachable() &^ some); left != 0; left &= left - 1 {
				lens := bits.TrailingZeros64(left)
				if found[lens]++; found[lens] == least {
					some |= 1 << lens
				}
			}
		}
	}
	t.site.Walk(topic, func(p *site.Page) bool {
		look(t.site.Bearing(p.ID))
		for _, merged := range t.site.MergedInto(p.ID) {
			look(t.site.Bearing(merged))
		}
		return some != t.panel.All()
	})
	return some
}
