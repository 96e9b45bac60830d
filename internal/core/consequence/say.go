package consequence

import (
	"cmp"
	"fmt"
	"slices"

	"vineladder/internal/core/address"
	"vineladder/internal/core/count"
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
		said = append(said, Sentence{"layout", fmt.Sprintf("%s %s the layout “%s” from now on.", count.Pages(len(layout.Pages)), verb, layout.Layout), r.labels(layout.Pages)})
	}
	if n := len(r.Refused); n > 0 {
		said = append(said, Sentence{"page", fmt.Sprintf("People without access get another answer at %s: “not found”, or again sign-in and “no access”.", count.Pages(n)), r.labels(r.Refused)})
	}
	if n := len(r.Content); n > 0 {
		said = append(said, Sentence{"words", fmt.Sprintf("The words of %s change.", count.Pages(n)), r.labels(r.Content)})
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
		said = append(said, Sentence{"page", fmt.Sprintf("%s %s %s %s.", count.Pages(len(pages)), verb, preposition, r.Words(m)), r.labels(pages)})
	}
	return said
}

// sayBlock says what a menu block gains, loses, moves and renames, one sentence for each kind and group of viewers.
func (r *Report) sayBlock(block BlockChange) []Sentence {
	kinds := []struct {
		one, many string
		mask      func(LineChange) reach.Mask
		item      func(LineChange) string
	}{
		{"gains 1 item", "gains %s items", func(l LineChange) reach.Mask { return l.Gained }, r.placed},
		{"loses 1 item", "loses %s items", func(l LineChange) reach.Mask { return l.Lost }, r.line},
		{"has 1 item in another place", "has %s items in another place", func(l LineChange) reach.Mask { return l.Moved }, r.placed},
		{"has 1 item renamed", "has %s items renamed", func(l LineChange) reach.Mask { return l.Renamed }, r.renamed},
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
				phrase = fmt.Sprintf(kind.many, count.Number(len(lines)))
			}
			var items []string
			for _, line := range lines[:min(len(lines), ItemLimit)] {
				items = append(items, kind.item(line))
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

func (r *Report) line(l LineChange) string {
	if l.Label != "" || l.Page == 0 {
		return "“" + l.Label + "”"
	}
	return r.label(l.Page)
}

// renamed names a line as it was and as it is.
func (r *Report) renamed(l LineChange) string {
	was := ""
	if _, e := entryOf(r.Was, l); e != nil {
		was = r.Was.EntryLabel(e)
	} else if p := r.Was.Page(l.Page); p != nil {
		was = p.Label
	}
	return fmt.Sprintf("“%s” becomes %s", was, r.line(l))
}

// placed names a line with the neighbour that a visitor sees before it: in the menu where the line is an item of its own, in the tree
// where it follows the tree.
func (r *Report) placed(l LineChange) string {
	m, e := entryOf(r.Is, l)
	p := r.Is.Page(l.Page)
	place, in := "first in", ""
	switch {
	case e != nil:
		in = m.Name
		if above := m.Entry(e.Parent); above != nil {
			in = r.Is.EntryLabel(above)
		}
		for _, id := range m.Below(e.Parent) {
			if id == e.ID {
				break
			}
			if sibling := m.Entry(id); !sibling.Off && r.reached(sibling.Target()) {
				place = "after “" + r.Is.EntryLabel(sibling) + "” in"
			}
		}
	case p == nil || p.Parent == 0:
		return r.line(l)
	default:
		in = r.Is.Page(p.Parent).Label
		for _, kid := range r.Is.Children(p.Parent) {
			if kid == p.ID {
				break
			}
			if sibling := r.Is.Page(kid); sibling.Listed && r.reached(kid) {
				place = "after “" + sibling.Label + "” in"
			}
		}
	}
	return fmt.Sprintf("%s, %s “%s”", r.line(l), place, in)
}

// reached says whether some viewer reaches a page; what leads to no page hides from nobody.
func (r *Report) reached(page site.PageID) bool {
	return page == 0 || r.Panel.At(r.Is, page).Reachable() != 0
}

// entryOf gives the menu's item that a line is, and nil for an automatic line.
func entryOf(s *site.Site, l LineChange) (*site.Menu, *site.Entry) {
	for i := range s.Menus() {
		m := &s.Menus()[i]
		if e := m.Entry(l.Entry); e != nil {
			if run, automatic := e.Shows.(site.ToBranch); automatic && run.Root != l.Page {
				return nil, nil
			}
			return m, e
		}
	}
	return nil, nil
}
