package consequence

import (
	"maps"
	"slices"
	"strings"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A way is a difference of the breadcrumb of a page that hands down to all below it (rules 4.4). Where the address of
// a page changes with those above it, that says all of the links; else they count.
type way struct {
	lenses reach.Mask
	fact   *fact
}

// Handed is what of ways a page has from above: those that are known, and the lenses for which the way differs in what
// nobody has read yet. It is read where somebody reaches a page in both Sites, which few pages are where a whole branch
// opens or closes.
type handed struct {
	ways   []way
	unread reach.Mask
}

// none says that the way to a page, and to all below it, reads as before.
func (h handed) none() bool { return len(h.ways) == 0 && h.unread == 0 }

// A crumb is a page on the way, as a lens reads it: a link, plain words, or nothing.
func crumbOf(p *site.Page, state reach.State, address string, lens int) string {
	switch {
	case state.Reachable().Has(lens) && address != "":
		return "“" + p.Label + "” at " + address
	case state.Reachable().Has(lens):
		return "“" + p.Label + "”"
	case state.Concealed:
		return ""
	}
	return "“" + p.Label + "” without a link"
}

// waysTo compares the breadcrumbs of a page for some lenses from the top; lenses with the same difference share a
// way. The addresses in it count where the page keeps its own; another is told otherwise.
func (c *comparison) waysTo(id site.PageID, lenses reach.Mask, ways []way) []way {
	return c.waysWith(id, lenses, addressOf(c.Was, id) == addressOf(c.Is, id), ways)
}

// waysWith compares them with the addresses or without.
func (c *comparison) waysWith(id site.PageID, lenses reach.Mask, addresses bool, ways []way) []way {
	was, is := c.way(c.Was, id, addresses), c.way(c.Is, id, addresses)
	for i := range c.panel.Lenses() {
		if !lenses.Has(i) {
			continue
		}
		a, b := was.read(i), is.read(i)
		from := 0
		for from < len(a) && from < len(b) && a[from] == b[from] {
			from++
		}
		a, b = a[from:], b[from:]
		for len(a) > 0 && len(b) > 0 && a[len(a)-1] == b[len(b)-1] {
			a, b = a[:len(a)-1], b[:len(b)-1]
		}
		if len(a)+len(b) == 0 {
			continue
		}
		words := strings.Join(a, " › ") + "\x00" + strings.Join(b, " › ")
		f := c.facts.fact(key{topic: topicCrumbs, words: words})
		f.diff = Difference{Was: a, Is: b}
		if at := slices.IndexFunc(ways, func(w way) bool { return w.fact == f }); at >= 0 {
			ways[at].lenses |= 1 << i
			continue
		}
		ways = append(ways, way{1 << i, f})
	}
	return ways
}

// A path is the pages on the way to one, with how each stands.
type path struct {
	pages     []*site.Page
	states    []reach.State
	addresses []string // "" where they don't count
}

func (c *comparison) way(s *site.Site, id site.PageID, addresses bool) path {
	made := path{pages: s.Path(id)}
	var state reach.State
	for i, p := range made.pages {
		if i == 0 {
			state = c.panel.Home(p)
		} else {
			state = c.panel.Below(state, p)
		}
		at := ""
		if addresses {
			at = addressOf(s, p.ID)
		}
		made.states, made.addresses = append(made.states, state), append(made.addresses, at)
	}
	return made
}

func (p path) read(lens int) []string {
	var words []string
	for i, page := range p.pages {
		if crumb := crumbOf(page, p.states[i], p.addresses[i], lens); crumb != "" {
			words = append(words, crumb)
		}
	}
	return words
}

// waysBelow hands ways down to a child: unchanged for lenses that read the child's own crumb as before.
func (c *comparison) waysBelow(kid site.PageID, was, is standing, h handed) handed {
	if !was.there || !is.there {
		return handed{}
	}
	differs := c.crumbDiffers(c.Was.Page(kid), c.Is.Page(kid), was.state, is.state)
	own := c.Is.Page(kid).OwnAddress != "" && was.address == is.address
	if own {
		differs = c.panel.All() // the links above it count
	}
	if differs == 0 {
		return h
	}
	var kept []way
	for _, w := range h.ways {
		if w.lenses &^= differs; w.lenses != 0 {
			kept = append(kept, w)
		}
	}
	if own {
		return handed{c.waysTo(kid, differs, kept), 0}
	}
	return handed{kept, h.unread | differs}
}

// read reads the ways to a page that somebody reaches in both Sites.
func (c *comparison) read(id site.PageID, h handed, seen reach.Mask) handed {
	if need := h.unread & seen; need != 0 {
		return handed{c.waysTo(id, need, slices.Clone(h.ways)), h.unread &^ need}
	}
	return h
}

func (c *comparison) crumbDiffers(a, b *site.Page, was, is reach.State) reach.Mask {
	if a.Label != b.Label {
		return c.panel.All()
	}
	linked := was.Reachable() ^ is.Reachable()
	if was.Concealed != is.Concealed {
		linked |= c.panel.All() &^ (was.Reachable() | is.Reachable())
	}
	return linked
}

func sorted(sets ...map[string]bool) []string {
	all := map[string]bool{}
	for _, set := range sets {
		maps.Copy(all, set)
	}
	return slices.Sorted(maps.Keys(all))
}

func sortedIDs[T ~int64, V any](set map[T]V) []T { return slices.Sorted(maps.Keys(set)) }
