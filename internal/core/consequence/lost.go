package consequence

import (
	"fmt"
	"slices"

	"vineladder/internal/core/count"
	"vineladder/internal/core/site"
)

// losing finds for whom a text that links to a page, before and after, loses its target (rules 12.2): they read both,
// and reached the target before.
func (c *comparison) losing(from, to site.PageID) {
	a, b := c.Was.Page(from), c.Is.Page(from)
	if a == nil || b == nil || b.IsFile() ||
		!slices.Contains(c.Was.Links(a.Text), to) || !slices.Contains(c.Is.Links(b.Text), to) {
		return
	}
	lost := c.seenBy(from) & c.panel.At(c.Was, to).Reachable() &^ c.panel.At(c.Is, to).Reachable()
	c.facts.add(key{topic: topicLost, is: int32(to), words: c.label(to)}, item{page: from}, lost)
}

// sayLost says which texts lose the target of a link.
func (r *Report) sayLost() []Sentence {
	var said []Sentence
	for _, f := range r.facts.of(topicLost) {
		p := r.Was.Page(site.PageID(f.is))
		for _, b := range r.together([]*fact{f}) {
			n := len(b.items)
			links := "their links become"
			if n == 1 {
				links = "its link becomes"
			}
			text := fmt.Sprintf("%s to %s: %s plain words%s.", linking(n), f.words, links, r.forSome(b.at))
			if p != nil && p.BytesOf().IsPicture() {
				text = fmt.Sprintf(
					"%s the picture %s: its description stands in its place%s.",
					showing(n),
					f.words,
					r.forSome(b.at),
				)
			}
			said = append(
				said,
				r.made(capital(Sentence{About: "page", Text: text, Items: r.listed(b.items)}), b.at, b.items),
			)
		}
	}
	return said
}

func linking(n int) string { return count.Of(n, "text links", "texts link") }

func showing(n int) string { return count.Of(n, "text shows", "texts show") }
