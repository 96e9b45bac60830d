package consequence

import (
	"cmp"
	"fmt"

	"vineladder/internal/core/count"
	"vineladder/internal/core/look"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
)

// Things are called by what can be seen of them. What was there keeps its old name in sentences, so that an edit of a
// name that nobody sees makes no difference.

// label names a page: as it will be called where somebody reaches it afterwards, else as it was.
func (r *Report) label(id site.PageID) string {
	was, is := r.Was.Page(id), r.Is.Page(id)
	switch {
	case is != nil && (was == nil || r.Panel.At(r.Is, id).Reachable() != 0):
		return "“" + is.Label + "”"
	case was != nil:
		return "“" + was.Label + "”"
	}
	return "a page"
}

// blockName names a block.
func (r *Report) blockName(id site.BlockID) string {
	if b := r.Was.Block(id); b != nil {
		return "“" + b.Name + "”" + r.namesake(b)
	}
	b := r.Is.Block(id)
	switch {
	case b == nil:
		return "a block"
	case region.IsLandmark(b):
		return "“" + cmp.Or(b.Title, b.Name) + "”"
	}
	if _, isName := b.Shows.(site.BlockName); isName {
		return "the name of the site"
	}
	return "the account line"
}

// namesake tells blocks apart that have one name.
func (r *Report) namesake(b *site.Block) string {
	n := 1
	for i := range r.Was.Blocks() {
		if other := &r.Was.Blocks()[i]; other.ID < b.ID && other.Name == b.Name {
			n++
		}
	}
	if n == 1 {
		return ""
	}
	return fmt.Sprintf(" (the %s of that name)", count.Ordinal(n))
}

func (r *Report) menuName(id site.MenuID) string {
	if m := r.Was.Menu(id); m != nil {
		return "“" + m.Name + "”"
	}
	return "“" + r.Is.Menu(id).Name + "”"
}

func (r *Report) regionName(key string) string {
	if area := r.Is.Theme().Region(key); area != nil {
		return "the region “" + area.Name + "”"
	}
	return "the region “" + key + "”"
}

// Words of the numbers that come with a block's items.
func items(n int) string { return count.Of(n, "item", "items") }

// depthOf is the number of levels of lines.
func depthOf(lines []look.Line) int {
	deepest := 0
	for i := range lines {
		deepest = max(deepest, 1+depthOf(lines[i].Lines))
	}
	return deepest
}

// whom says for whom and from when something holds.
func (r *Report) whom(s stretch) string { return "for " + r.Words(s.lenses) + r.when(s) }

func (r *Report) when(s stretch) string {
	words := ""
	if !s.from.IsZero() {
		words += " from " + r.moment(s.from)
	}
	if !s.until.IsZero() {
		words += " until " + r.moment(s.until)
	}
	return words
}

// moment says a moment in the zone of what is public, so that it reads alike whatever the draft does.
func (r *Report) moment(at momentOf) string {
	return at.In(r.Was.Settings().Zone).Format("2 January 2006 at 15:04")
}

// everyone says whether all viewers that were compared are meant.
func (r *Report) everyone(m reach.Mask) bool { return m == r.Panel.All() }

// on says on how many pages something holds; upto where not every page was looked at. The forms for accounts are said
// where they are alone; the list names them in any case.
func (r *Report) on(group []item, upto bool) string {
	pages, other := 0, ""
	for _, it := range group {
		if it.page != 0 {
			pages++
		} else {
			other = it.path
		}
	}
	switch {
	case pages == 0:
		return other
	case upto:
		return "up to " + count.Pages(pages)
	}
	return count.Pages(pages)
}

// listed names the items of a group.
func (r *Report) listed(group []item) []string {
	var names []string
	for _, it := range group[:min(len(group), ItemLimit)] {
		names = append(names, r.named(it))
	}
	return names
}

func (r *Report) named(it item) string {
	if it.page == 0 {
		return it.path
	}
	name := r.label(it.page)
	if !r.someoneReaches(it.page) {
		name = "a page" // nobody knows its name
	}
	switch seen := r.reachedEver(it.page); {
	case r.Is.InTree(it.page) && (seen || !r.Was.InTree(it.page)):
		return fmt.Sprintf("%s at %s", name, addressOf(r.Is, it.page))
	case r.Was.InTree(it.page):
		return fmt.Sprintf("%s at %s", name, addressOf(r.Was, it.page))
	}
	return name
}

// someoneReaches says whether a page's name is known to somebody, or was published before.
func (r *Report) someoneReaches(id site.PageID) bool {
	return r.Was.Page(id) != nil || r.reachedEver(id)
}

// reachedEver says whether somebody reaches a page afterwards, now or at a moment that was looked at.
func (r *Report) reachedEver(id site.PageID) bool {
	for from := 0; from < len(r.Moments); from += r.perPass() {
		if r.passPanel(from).At(r.Is, id).Reachable() != 0 {
			return true
		}
	}
	return false
}

func pagesOf(group []item) []site.PageID {
	var pages []site.PageID
	for _, it := range group {
		if it.page != 0 {
			pages = append(pages, it.page)
		}
	}
	return pages
}
