package consequence

import (
	"cmp"
	"fmt"
	"slices"

	"vineladder/internal/core/address"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A Sentence is one consequence in words, with the list behind its count.
type Sentence struct {
	About string // "page", "address", "menu", "block", "layout", "words" or "nothing"
	Text  string
	Items []string
}

// ItemLimit bounds the list behind a sentence; the text still has the whole count.
const ItemLimit = 200

// Sentences says the report, the most important first. There is always at least one.
func (r *Report) Sentences() []Sentence {
	said := r.saySettings()
	said = append(said, r.sayPages("appears", "appear", func(p PageChange) reach.Mask { return p.Gained })...)
	said = append(said, r.sayPages("can no longer be reached", "can no longer be reached", func(p PageChange) reach.Mask { return p.Lost })...)
	said = append(said, r.sayAddresses()...)
	said = append(said, r.sayLater()...)
	for _, block := range r.Blocks {
		said = append(said, r.sayBlock(block)...)
	}
	said = append(said, r.sayCovers()...)
	said = append(said, r.sayPlaces()...)
	for _, layout := range r.Layouts {
		verb := "have"
		if len(layout.Pages) == 1 {
			verb = "has"
		}
		said = append(said, Sentence{"layout", fmt.Sprintf("%s %s the layout “%s” from now on.", count(len(layout.Pages), "page", "pages"), verb, layout.Layout), r.labels(layout.Pages)})
	}
	if n := len(r.Refused); n > 0 {
		said = append(said, Sentence{"page", fmt.Sprintf("People without access get another answer at %s: “not found”, or again sign-in and “no access”.", count(n, "page", "pages")), r.labels(r.Refused)})
	}
	if n := len(r.Content); n > 0 {
		said = append(said, Sentence{"words", fmt.Sprintf("The words of %s change.", count(n, "page", "pages")), r.labels(r.Content)})
	}
	if len(said) == 0 && r.Edited > 0 {
		said = append(said, Sentence{About: "nothing", Text: "Nobody can tell the difference in public: " + r.whyNothing()})
	} else if len(said) == 0 {
		said = append(said, Sentence{About: "nothing", Text: "Nothing changes."})
	}
	return said
}

// whyNothing gives the likeliest reason for which edits have no effect for anyone.
func (r *Report) whyNothing() string {
	for _, change := range site.Changes(r.Was, r.Is) {
		if change.Is == nil || !r.Is.InTree(change.Is.ID) {
			continue
		}
		if why := reach.WhyOffline(r.Is, change.Is.ID, r.Panel.Lenses()[0].At); why.Cause != nil {
			if why.Cause == change.Is {
				return fmt.Sprintf("“%s” is not online.", change.Is.Label)
			}
			return fmt.Sprintf("“%s” lies in “%s”, which is not online.", change.Is.Label, why.Cause.Label)
		}
	}
	return "the edits do not show anywhere."
}

func (r *Report) sayPages(one, many string, part func(PageChange) reach.Mask) []Sentence {
	groups := map[reach.Mask][]site.PageID{}
	for _, page := range r.Pages {
		if m := part(page); m != 0 {
			groups[m] = append(groups[m], page.Page)
		}
	}
	var said []Sentence
	for _, m := range masksByCount(groups) {
		pages, verb := groups[m], many
		if len(pages) == 1 {
			verb = one
		}
		preposition := "for"
		if one == many {
			preposition = "by"
		}
		said = append(said, Sentence{"page", fmt.Sprintf("%s %s %s %s.", count(len(pages), "page", "pages"), verb, preposition, r.Words(m)), r.labels(pages)})
	}
	return said
}

// sayBlock says what a menu block gains, loses, moves and renames, one sentence for each kind and group of viewers.
func (r *Report) sayBlock(block BlockChange) []Sentence {
	kinds := []struct {
		one, many string
		mask      func(LineChange) reach.Mask
		item      func(site.PageID) string
	}{
		{"gains 1 item", "gains %d items", func(l LineChange) reach.Mask { return l.Gained }, r.placed},
		{"loses 1 item", "loses %d items", func(l LineChange) reach.Mask { return l.Lost }, r.label},
		{"has 1 item in another place", "has %d items in another place", func(l LineChange) reach.Mask { return l.Moved }, r.placed},
		{"has 1 item renamed", "has %d items renamed", func(l LineChange) reach.Mask { return l.Renamed }, r.renamed},
	}
	var said []Sentence
	for _, kind := range kinds {
		groups := map[reach.Mask][]LineChange{}
		for _, line := range block.Lines {
			if m := kind.mask(line); m != 0 {
				groups[m] = append(groups[m], line)
			}
		}
		for _, m := range masksByCount(groups) {
			lines := groups[m]
			phrase := kind.one
			if len(lines) > 1 {
				phrase = fmt.Sprintf(kind.many, len(lines))
			}
			var items []string
			for _, line := range lines[:min(len(lines), ItemLimit)] {
				if line.Label != "" || line.Page == 0 {
					items = append(items, "“"+line.Label+"”")
				} else {
					items = append(items, kind.item(line.Page))
				}
			}
			text := fmt.Sprintf("%s %s for %s", block.Block.Name, phrase, r.Words(m))
			if len(items) == 1 {
				text += ": " + items[0]
			}
			said = append(said, Sentence{"menu", text + ".", items})
		}
	}
	return said
}

// masksByCount gives the groups, the one with most viewers first.
func masksByCount[T any](groups map[reach.Mask][]T) []reach.Mask {
	masks := make([]reach.Mask, 0, len(groups))
	for m := range groups {
		masks = append(masks, m)
	}
	slices.SortFunc(masks, func(a, b reach.Mask) int {
		return cmp.Or(cmp.Compare(b.Count(), a.Count()), cmp.Compare(a, b))
	})
	return masks
}

func (r *Report) label(id site.PageID) string {
	if p := r.Is.Page(id); p != nil {
		return "“" + p.Label + "”"
	}
	return "“" + r.Was.Page(id).Label + "”"
}

func (r *Report) labels(ids []site.PageID) []string {
	var items []string
	for _, id := range ids[:min(len(ids), ItemLimit)] {
		item := r.label(id)
		if at := address.Of(r.Is, id); r.Is.InTree(id) {
			item += " at " + at
		}
		items = append(items, item)
	}
	return items
}

func (r *Report) renamed(id site.PageID) string {
	return fmt.Sprintf("“%s” becomes %s", r.Was.Page(id).Label, r.label(id))
}

// placed names a line with the neighbour that a visitor sees before it.
func (r *Report) placed(id site.PageID) string {
	p := r.Is.Page(id)
	if p == nil || p.Parent == 0 {
		return r.label(id)
	}
	place := "first in"
	for _, kid := range r.Is.Children(p.Parent) {
		if kid == id {
			break
		}
		if sibling := r.Is.Page(kid); sibling.Listed && r.Panel.At(r.Is, kid).Reachable() != 0 {
			place = "after “" + sibling.Label + "” in"
		}
	}
	return fmt.Sprintf("%s, %s “%s”", r.label(id), place, r.Is.Page(p.Parent).Label)
}

func count(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return fmt.Sprintf("%d %s", n, many)
}
