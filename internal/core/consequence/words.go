package consequence

import (
	"fmt"
	"slices"
	"strings"

	"vineladder/internal/core/common"
	"vineladder/internal/core/count"
	"vineladder/internal/core/picture"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
)

// words compares what pages say of themselves, and of topics, to those who reach them before and after.
func (c *comparison) words() {
	told := map[site.PageID]bool{}
	tell := func(id site.PageID) {
		if a, b := c.Was.Page(id), c.Is.Page(id); a != nil && b != nil && !told[id] {
			told[id] = true
			c.wordsOf(a, b)
		}
	}
	for _, change := range c.changes {
		a, b := change.Was, change.Is
		if a == nil || b == nil {
			continue
		}
		if b.IsFile() && (a.Label != b.Label || saysOtherwise(a, b)) { // pages that show it say its version and words
			c.relinked[b.ID] = true
		}
		if saysOtherwise(a, b) {
			tell(b.ID)
			c.appearing(a, b)
		}
	}
	for _, id := range sortedIDs(c.relinked) {
		for _, from := range c.Is.Linking(id) {
			tell(from)
			c.losing(from, id)
		}
	}
	for _, id := range c.detailed {
		tell(id)
	}
	for _, id := range slices.Concat(c.gatherings(), c.relistedOnce()) {
		tell(id)
	}
}

// saysOtherwise says whether a page can say something else of itself.
func saysOtherwise(a, b *site.Page) bool {
	return a.Heading() != b.Heading() || a.Summary != b.Summary || a.Text != b.Text || a.Values != b.Values ||
		a.Date != b.Date || a.Kind != b.Kind || a.Listing != b.Listing ||
		a.Bytes != b.Bytes
}

func (c *comparison) wordsOf(a, b *site.Page) {
	c.wordsFor(a, b, c.seenBy(b.ID))
}

// appearing tells what was edited of a page to those to whom it appears: of two drafts that let one appear, they get
// different words.
func (c *comparison) appearing(a, b *site.Page) {
	was, is := c.panel.At(c.Was, b.ID).Reachable(), c.panel.At(c.Is, b.ID).Reachable()
	c.wordsAs(topicAppears, a, b, is&^was&c.open)
}

func (c *comparison) wordsFor(a, b *site.Page, seen reach.Mask) { c.wordsAs(topicWords, a, b, seen) }

func (c *comparison) wordsAs(of topic, a, b *site.Page, seen reach.Mask) {
	if seen == 0 {
		return
	}
	before, after := c.gathered(c.Was, a.ID), c.gathered(c.Is, b.ID)
	masks := slices.Concat(c.pointedAt(a, b), before.masks(), after.masks())
	for side, id := range []site.PageID{a.ID, b.ID} {
		if l, lists := c.pageList([]*site.Site{c.Was, c.Is}[side], id); lists {
			masks = append(masks, l.masks()...)
		}
	}
	for _, group := range lensGroups(seen, masks) {
		lens := group.First()
		was, hitsBefore := c.pageWords(c.Was, a, lens, before)
		is, hits := c.pageWords(c.Is, b, lens, after)
		diff := differenceOf(was, is)
		for _, h := range hunks(hitsBefore, hits) {
			diff.Was, diff.Is = append(diff.Was, h.was...), append(diff.Is, h.is...)
		}
		if len(diff.Was)+len(diff.Is) > 0 {
			if of == topicAppears {
				diff = Difference{Is: slices.Concat(is, hits)} // they never read what it said
			}
			k := key{
				topic: of,
				words: strings.Join(diff.Was, "\n") + "\x00" + strings.Join(diff.Is, "\n"),
				block: 0,
			}
			k.words += "\x00" + c.label(b.ID)
			f := c.facts.fact(k)
			diff.Of = c.label(b.ID)
			f.diff = diff
			c.facts.add(k, item{page: b.ID}, group)
		}
	}
}

// pageWords says all that a page says to a lens, what it gathers as a topic apart.
func (c *comparison) pageWords(s *site.Site, p *site.Page, lens int, g gathered) (words, hits []string) {
	if p.IsFile() {
		words = []string{BytesWords(p.BytesOf())}
		if reach.KeptOut(s, p.ID) {
			words = append(words, "kept out of search engines")
		}
		return words, nil
	}
	of, hits := c.gatheredWords(g, lens)
	own := slices.Concat(headWords(s, p), c.factsOf(s, p, lens), c.textWords(s, p.Text, lens, false))
	return slices.Concat(own, c.listWords(s, p.ID, lens), of), hits
}

// BytesWords says what a file holds; other bytes have other words.
func BytesWords(b site.Bytes) string {
	words := b.Type + ", " + count.Bytes(b.Size)
	if b.IsPicture() {
		words += fmt.Sprintf(", %d by %d pixels", b.Width, b.Height)
	}
	return words + ", version " + b.Version()
}

func headWords(s *site.Site, p *site.Page) []string {
	words := []string{"title “" + p.Heading() + "”"}
	if reach.KeptOut(s, p.ID) {
		words = append(words, "kept out of search engines")
	}
	if p.Summary != "" {
		words = append(words, "summary “"+p.Summary+"”")
	}
	return words
}

// textWords says a kept text as a lens reads it, as the text of a page or a part beside it.
func (c *comparison) textWords(s *site.Site, hash string, lens int, part bool) []string {
	if hash == "" {
		return nil
	}
	return text.Words(c.rendered(s, hash, lens, part))
}

// rendered is a kept text as a lens gets it. One that is not at hand stands for itself, with the links that it is
// known to have.
func (c *comparison) rendered(s *site.Site, hash string, lens int, part bool) string {
	link := func(to site.PageID) (string, bool) {
		return addressOf(s, to), c.panel.At(s, to).Reachable().Has(lens)
	}
	shown := func(id site.PageID, words string) (picture.Picture, bool) {
		p, _, there := picture.At(s, site.FileRef(id), "", words)
		return p, there && c.panel.At(s, id).Reachable().Has(lens)
	}
	if kept, known := c.texts[hash]; known {
		return text.Render(kept, text.Reader{Link: link, Picture: shown, Part: part})
	}
	var out strings.Builder
	out.WriteString("<p>text " + hash + "</p>")
	for _, to := range s.Links(hash) {
		if at, ok := link(to); ok {
			out.WriteString("<p>with a link to " + at + "</p>")
		}
	}
	return out.String()
}

// lensGroups splits lenses so that those of one group agree on every mask.
func lensGroups(lenses reach.Mask, masks []reach.Mask) []reach.Mask {
	groups := []reach.Mask{lenses}
	for _, m := range masks {
		for i := range groups {
			if in := groups[i] & m; in != 0 && in != groups[i] {
				groups = append(groups, groups[i]&^m)
				groups[i] = in
			}
		}
	}
	return groups
}

// differenceOf gives the lines that only one of two lists has, each group of them with the line before it for a
// place.
func differenceOf(was, is []string) Difference {
	var diff Difference
	for _, h := range hunks(was, is) {
		if h.after != "" && len(was)+len(is) > 2 {
			diff.Was, diff.Is = append(diff.Was, stays+h.after), append(diff.Is, stays+h.after)
		}
		diff.Was, diff.Is = append(diff.Was, h.was...), append(diff.Is, h.is...)
	}
	return diff
}

// A hunk is a stretch in which two lists differ, and the line that both have before it.
type hunk struct {
	after   string
	was, is []string
}

func hunks(was, is []string) []hunk {
	var found []hunk
	last := ""
	i, k := 0, 0
	for _, pair := range append(common.Lines(was, is), [2]int{len(was), len(is)}) {
		if i < pair[0] || k < pair[1] {
			found = append(found, hunk{last, was[i:pair[0]], is[k:pair[1]]})
		}
		if pair[0] < len(was) {
			last = was[pair[0]]
		}
		i, k = pair[0]+1, pair[1]+1
	}
	return found
}

// pageLayouts finds the pages that have another layout.
func (c *comparison) pageLayouts() {
	seen := map[site.PageID]bool{}
	for _, top := range c.layoutTops() {
		c.Is.Walk(top, func(p *site.Page) bool {
			if seen[p.ID] || !c.Was.InTree(p.ID) {
				return true
			}
			seen[p.ID] = true
			if p.IsFile() {
				return true
			}
			c.work++
			was, is := region.LayoutOf(c.Was, p.ID).Layout, region.LayoutOf(c.Is, p.ID).Layout
			if was != nil && is != nil && was.Key != is.Key {
				both := c.panel.At(c.Was, p.ID).Reachable() & c.panel.At(c.Is, p.ID).Reachable() & c.open
				c.facts.add(key{topic: topicLayout, words: is.Name}, item{page: p.ID}, both)
			}
			return true
		})
	}
}

func (c *comparison) layoutTops() []site.PageID {
	if c.layouts {
		return []site.PageID{c.Is.Home()}
	}
	var tops []site.PageID
	for _, change := range c.changes {
		moved := change.Was != nil && change.Is != nil && change.Was.Parent != change.Is.Parent &&
			branchLayoutAbove(c.Was, change.Was) != branchLayoutAbove(c.Is, change.Is)
		if id := subject(change); (moved || change.laid) && c.Is.InTree(id) {
			tops = append(tops, id)
		}
	}
	return tops
}

// branchLayoutAbove is the layout that a page gets from the nearest page above that sets one for its branch.
func branchLayoutAbove(s *site.Site, p *site.Page) string {
	for above := s.Page(p.Parent); above != nil; above = s.Page(above.Parent) {
		if s.Layout(above.BranchLayout) != nil {
			return above.BranchLayout
		}
	}
	return ""
}
