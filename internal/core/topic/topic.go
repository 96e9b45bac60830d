// Package topic says what topics gather: the pages that bear a topic or a narrower one, the topics that a page shows,
// and how many pages there are to each (rules 7). It decides nothing of who reaches a page; that is asked.
package topic

import (
	"cmp"
	"slices"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A Gathering is what one page shows of topics. The zero Gathering shows nothing.
type Gathering struct {
	Bears    []Group       // of the page: the topics that it bears, by list
	Narrower []site.PageID // of a topic: those right in it; of a list: its top ones
	Pages    []site.PageID // of a topic: those that bear it or a narrower one
}

// A Group is the topics of one list that a page bears, in the list's order.
type Group struct {
	List   site.PageID
	Topics []site.PageID
}

// Of gives what a page shows to who reaches everything; what a lens gets of it is To. Pages stand by their number.
func Of(s *site.Site, id site.PageID) Gathering {
	p := s.Page(id)
	if settings := s.Settings(); p == nil || settings.Closed && settings.Shut == id {
		return Gathering{}
	}
	if !p.Gathers() {
		return Gathering{Bears: groups(s, s.TopicsOf(p))}
	}
	made := Gathering{}
	for _, kid := range s.Children(id) {
		if s.Page(kid).Listed {
			made.Narrower = append(made.Narrower, kid)
		}
	}
	if p.IsTopic() {
		made.Pages = Bearers(s, id)
	}
	return made
}

// groups sorts topics, which stand in the tree's order, by their lists, these by their long names.
func groups(s *site.Site, topics []site.PageID) []Group {
	var made []Group
	for _, id := range topics {
		list := s.TopicList(id)
		at := slices.IndexFunc(made, func(g Group) bool { return g.List == list.ID })
		if at < 0 {
			at, made = len(made), append(made, Group{List: list.ID})
		}
		made[at].Topics = append(made[at].Topics, id)
	}
	slices.SortFunc(made, func(a, b Group) int { return byHeading(s, a.List, b.List) })
	return made
}

func byHeading(s *site.Site, a, b site.PageID) int {
	x, y := s.Page(a).Heading(), s.Page(b).Heading()
	return cmp.Or(s.Collate(x, y), cmp.Compare(x, y), cmp.Compare(a, b))
}

// Bearers gives the pages that bear a topic or a narrower one, each once, by number. The pages that stand in for
// others are none of them; pages in the bin may be, whom nobody reaches.
func Bearers(s *site.Site, topic site.PageID) []site.PageID {
	settings := s.Settings()
	return slices.DeleteFunc(Bearing(s, topic), func(id site.PageID) bool { return standsIn(settings, id) })
}

// Bearing gives the same with the pages that stand in for others.
func Bearing(s *site.Site, topic site.PageID) []site.PageID {
	var pages []site.PageID
	s.Walk(topic, func(p *site.Page) bool {
		pages = append(pages, s.Bearing(p.ID)...)
		for _, merged := range s.MergedInto(p.ID) {
			pages = append(pages, s.Bearing(merged)...)
		}
		return true
	})
	slices.Sort(pages)
	return slices.Compact(pages)
}

// IsAbout says whether a page is about a topic: it bears it or a narrower one, or is one of these itself (rules 6.3).
func IsAbout(s *site.Site, page, topic site.PageID) bool {
	p := s.Page(page)
	if p == nil || !s.InTree(topic) {
		return false
	}
	return p.IsTopic() && s.IsWithin(page, topic) ||
		slices.ContainsFunc(s.TopicsOf(p), func(id site.PageID) bool { return s.IsWithin(id, topic) })
}

// standsIn says whether a page is one of those that stand in for others.
func standsIn(settings site.Settings, id site.PageID) bool {
	return id == settings.NotFound || id == settings.NoAccess || id == settings.SignIn || id == settings.Shut
}

// BearersWithin gives the pages that bear a topic which stands in a branch, whatever is at its top.
func BearersWithin(s *site.Site, top site.PageID) []site.PageID {
	if p := s.Page(top); p != nil && p.Gathers() {
		return Bearing(s, top)
	}
	var pages []site.PageID
	for _, list := range s.TopicLists() {
		if s.IsWithin(list, top) {
			pages = append(pages, Bearing(s, list)...)
		}
	}
	return pages
}

// Broader gives a topic and all above it in its list, itself first; nothing for a page that is no topic.
func Broader(s *site.Site, topic site.PageID) []site.PageID {
	var all []site.PageID
	for p := s.Page(topic); p != nil && p.IsTopic(); p = s.Page(p.Parent) {
		all = append(all, p.ID)
	}
	return all
}

// Named gives all pages of which a gathering tells something.
func (g Gathering) Named() []site.PageID {
	named := slices.Concat(g.Narrower, g.Pages)
	for _, group := range g.Bears {
		named = append(append(named, group.List), group.Topics...)
	}
	return named
}

// To gives what is left of a gathering for who reaches some pages only: pages by their long names, and topics of lists
// that are reached themselves.
func (g Gathering) To(s *site.Site, reached func(site.PageID) bool) Gathering {
	left := func(pages []site.PageID) []site.PageID {
		return slices.DeleteFunc(slices.Clone(pages), func(id site.PageID) bool { return !reached(id) })
	}
	made := Gathering{Narrower: left(g.Narrower), Pages: left(g.Pages)}
	s.SortByHeading(made.Pages)
	for _, group := range g.Bears {
		if topics := left(group.Topics); len(topics) > 0 && reached(group.List) {
			made.Bears = append(made.Bears, Group{group.List, topics})
		}
	}
	return made
}

// PageSize is the number of pages of a topic that stand on one page of its list.
const PageSize = 50

// At gives the page of a number, from 1, of what a topic gathers, and how many there are, as Cut does.
func (g Gathering) At(number int) (cut Gathering, last int, ok bool) {
	cut = g
	cut.Pages, last, ok = Cut(g.Pages, PageSize, number)
	return cut, last, ok
}

// Cut gives the page of a number, from 1, of a list that is cut into pages, and how many there are. There is always a
// first one; ok is false for a number past the end, which gets the whole list.
func Cut(all []site.PageID, size, number int) (cut []site.PageID, last int, ok bool) {
	last = max(1, (len(all)+size-1)/size)
	if number < 1 || number > last {
		return all, last, false
	}
	return all[(number-1)*size : min(len(all), number*size)], last, true
}

// A Count is a number of pages: of those that bear a topic themselves, and of those that bear it or a narrower one.
type Count struct{ Own, All int }

// Counts are those of all topics for one lens.
type Counts struct {
	topics *site.Topics
	counts []Count // by the number of the topic
}

// CountsOf counts for each topic the pages that a lens reaches, each page once. It costs the pages, and the way up from
// each topic that they bear.
func CountsOf(s *site.Site, lens reach.Lens) *Counts {
	topics := s.Topics()
	n := len(topics.Broader)
	c := &Counts{topics, make([]Count, n)}
	own := make([]int32, n) // the last page that was counted for a topic itself
	eachCounted(s, reach.NewPanel(lens), func(p *site.Page, page int32, _ reach.Mask, up *climb) {
		for _, borne := range p.Topics {
			at, counts := topics.At(borne)
			if counts && own[at] != page {
				own[at] = page
				c.counts[at].Own++
			}
			up.from(borne, page, func(at int32) { c.counts[at].All++ })
		}
	})
	return c
}

// eachCounted visits the pages that count for topics and that somebody of a panel reaches, with their number, from 1.
func eachCounted(
	s *site.Site, panel *reach.Panel, visit func(p *site.Page, page int32, reached reach.Mask, up *climb),
) {
	up := newClimb(s)
	if len(up.last) == 0 {
		return
	}
	settings, page := s.Settings(), int32(0)
	reach.Walk(s, panel, func(p *site.Page, state reach.State) bool {
		reached := state.Reachable()
		switch {
		case state.Online == 0, p.Gathers(): // what stands in a list bears nothing
			return false
		case len(p.Topics) == 0, reached == 0, standsIn(settings, p.ID):
			return true
		}
		page++
		visit(p, page, reached, up)
		return true
	})
}

// A climb goes up from topics that a page bears, to each broader one once.
type climb struct {
	topics *site.Topics
	last   []int32 // the last page for which a topic was visited
}

func newClimb(s *site.Site) *climb {
	topics := s.Topics()
	return &climb{topics, make([]int32, len(topics.Broader))}
}

func (c *climb) from(borne site.PageID, page int32, visit func(at int32)) {
	at, counts := c.topics.At(borne)
	for ; counts && at >= 0 && c.last[at] != page; at = c.topics.Broader[at] {
		c.last[at] = page
		visit(at)
	}
}

// Of gives the counts of a topic.
func (c *Counts) Of(topic site.PageID) Count {
	if at, counted := c.topics.At(topic); counted {
		return c.counts[at]
	}
	return Count{}
}
