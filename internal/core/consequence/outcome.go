package consequence

import (
	"fmt"
	"strings"

	"vineladder/internal/core/address"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A class is what an address answers.
type class int32

const (
	classNone   class = iota // “not found”
	classSees                // a page
	classLeads               // a redirect to a page
	classSignIn              // the way to sign-in
	classDenied              // “no access”
	classGone
)

// An answer is what an address answers to some lenses.
type answer struct {
	class  class
	page   site.PageID // that is shown or led to
	lenses reach.Mask
}

func addressOf(s *site.Site, id site.PageID) string { return address.Of(s, id) }

func underOrOwn(parent string, p *site.Page) string {
	if p.OwnAddress != "" {
		return p.OwnAddress
	}
	return address.Under(parent, p.Segment)
}

// classes says what the address of a page answers; sees is what it is to who sees the page: classSees, or classLeads.
func (c *comparison) classes(id site.PageID, state reach.State, sees class) []answer {
	reached := state.Reachable()
	shut := state.Online &^ state.Admitted
	if state.Concealed || state.Folder {
		shut = 0
	}
	all := []answer{
		{sees, id, reached},
		{classSignIn, 0, shut &^ c.signed},
		{classDenied, 0, shut & c.signed},
		{classNone, 0, c.panel.All() &^ reached &^ shut},
	}
	some := all[:0]
	for _, a := range all {
		if a.lenses != 0 {
			some = append(some, a)
		}
	}
	return some
}

// answers says what an address answers that leads to something.
func (c *comparison) answers(s *site.Site, found address.Found) []answer {
	switch {
	case found.Page == 0:
		return []answer{{classNone, 0, c.panel.All()}}
	case found.Gone:
		admitted := c.panel.AdmittedBefore(s, found.Page)
		return []answer{{classGone, 0, admitted}, {classNone, 0, c.panel.All() &^ admitted}}
	case found.Short || found.Old:
		led := c.classes(found.Page, c.panel.At(s, found.Page), classLeads)
		if found.Via == 0 {
			return led
		}
		admitted := c.panel.AdmittedBefore(s, found.Via)
		for i := range led {
			led[i].lenses &= admitted
		}
		return append(led, answer{classNone, 0, c.panel.All() &^ admitted})
	}
	return c.classes(found.Page, c.panel.At(s, found.Page), classSees)
}

// differing calls for each pair of answers that differ, with the lenses that get both.
func (c *comparison) differing(was, is []answer, tell func(was, is answer, lenses reach.Mask)) {
	for _, a := range was {
		for _, b := range is {
			if m := a.lenses & b.lenses & c.open; m != 0 && (a.class != b.class || a.page != b.page) {
				tell(a, b, m)
			}
		}
	}
}

// outcome compares what the addresses of a page answer: the one that it had and the one that it has.
func (c *comparison) outcome(id site.PageID, was, is standing) {
	if was == is {
		return
	}
	differs := c.panel.All()
	if was.address != is.address || !was.there || !is.there {
		differs = c.readdressed(id, was, is)
	}
	before, after := c.itsAnswers(c.Was, c.Is, id, was, is), c.itsAnswers(c.Is, c.Was, id, is, was)
	c.differing(before, after, func(a, b answer, m reach.Mask) {
		k := key{topic: topicOutcome, is: int32(a.class), to: int32(b.class)}
		if a.class == classLeads || b.class == classLeads {
			k.words = c.leading(a) + c.leading(b)
		}
		c.facts.add(k, item{page: id}, m&differs)
		c.told[id] |= m & differs
	})
	if was.state.Reachable() != is.state.Reachable() || was.address != is.address {
		c.relinked[id] = true
	}
}

// readdressed compares what the addresses answer that a page had and has, and says for whom one of them answers
// otherwise.
func (c *comparison) readdressed(id site.PageID, was, is standing) (differs reach.Mask) {
	if was.there {
		differs |= c.left(id, was, is)
	}
	if is.there {
		differs |= c.arrived(id, was, is)
	}
	if was.there && is.there {
		visible := c.visible(was.state) & c.visible(is.state) & c.open & differs
		c.facts.add(key{topic: topicMoved}, item{id, was.address + " → " + is.address}, visible)
	}
	return differs
}

func (c *comparison) leading(a answer) string {
	if a.class != classLeads {
		return ""
	}
	return c.label(a.page)
}

// itsAnswers says what a page's own address answers in one Site; where the page is not there, its address in the
// other one.
func (c *comparison) itsAnswers(s, other *site.Site, id site.PageID, st, there standing) []answer {
	if st.there {
		return c.classes(id, st.state, classSees)
	}
	found := address.Resolve(s, there.address, c.panel.Lenses()[0].At)
	if found.Page == id && found.Gone || found.Old && s.Page(id) != nil && address.LeadsTo(s, id) == found.Page {
		return c.answers(s, found)
	}
	return []answer{{classNone, 0, c.panel.All()}}
}

// visible says for which lenses a page's address does not answer “not found”.
func (c *comparison) visible(state reach.State) reach.Mask {
	if state.Concealed || state.Folder {
		return state.Reachable()
	}
	return state.Online
}

// left says what becomes of the address that a page had (rules 3.4 and 3.5), and for whom it answers otherwise. Where
// nothing else stands at an old address, nothing can stand below it either, so a branch costs one look and not one
// for each page.
func (c *comparison) left(id site.PageID, was, is standing) (differs reach.Mask) {
	before := was.state.Reachable() & c.open
	keeps := key{topic: topicPath, words: "keeps"}
	text := item{id, was.address + " → " + is.address}
	if c.vacant != "" && is.there && strings.HasPrefix(was.address, c.vacant) && before != 0 {
		c.facts.add(keeps, text, before&is.state.Reachable())
		others := was.state.Reachable() ^ is.state.Reachable() | c.visible(was.state) ^ c.visible(is.state)
		return before | others&c.open
	}
	c.vacant = ""
	found := address.Resolve(c.Is, was.address, c.moment(id))
	after := c.answers(c.Is, found)
	told := func(answer, answer, reach.Mask) {}
	switch {
	case found.Page == id && found.Old && is.there:
		c.facts.add(keeps, text, before&is.state.Reachable())
		if address.Unclaimed(c.Is, was.address) {
			c.vacant = was.address + "/"
		}
	case found.Page == id,
		!is.there && found.Old && address.LeadsTo(c.Is, id) == found.Page,
		found.Page == 0 && !is.there:
		// said of the page
	default:
		fate := "ends"
		if found.Page != 0 {
			fate = "taken"
		}
		told = func(_, b answer, m reach.Mask) {
			c.facts.add(key{topic: topicPath, words: fate}, item{id, was.address + " " + c.says(b)}, m)
		}
	}
	c.differing(c.classes(id, was.state, classSees), after, func(a, b answer, m reach.Mask) {
		differs |= m
		told(a, b, m)
	})
	return differs
}

// arrived finds what a new address of a page led to before, and for whom it answers otherwise.
func (c *comparison) arrived(id site.PageID, was, is standing) (differs reach.Mask) {
	visible := c.visible(is.state) & c.open
	if c.fresh != "" && strings.HasPrefix(is.address, c.fresh) {
		return visible
	}
	c.fresh = ""
	if address.Untouched(c.Was, is.address) {
		c.fresh = is.address + "/"
		return visible
	}
	found := address.Resolve(c.Was, is.address, c.moment(id))
	stood := found.Page == 0 || found.Page == id ||
		!found.Old && !found.Gone && !found.Short // or it is said of the page that left
	c.differing(c.answers(c.Was, found), c.classes(id, is.state, classSees), func(a, b answer, m reach.Mask) {
		differs |= m
		if stood {
			return
		}
		becomes := "is that of " + c.label(id)
		if b.class != classSees { // whose it is nobody can tell
			becomes = c.says(b)
		}
		c.facts.add(
			key{topic: topicPath, words: "takes"},
			item{id, fmt.Sprintf("%s %s and %s", is.address, c.did(a), becomes)},
			m,
		)
	})
	return differs
}

// moment is when the comparison looks: its own moment, or the later one at which the page was settled.
func (c *comparison) moment(id site.PageID) momentOf {
	at := c.panel.Lenses()[0].At
	if p := c.Is.Page(id); p != nil && p.Since.After(at) {
		return p.Since
	}
	return at
}

// shorts compares what short addresses answer that came or went.
func (c *comparison) shorts() {
	for _, change := range c.changes {
		had, has := map[string]bool{}, map[string]bool{}
		for side, p := range []*site.Page{change.Was, change.Is} {
			if p != nil {
				for _, short := range p.ShortAddresses {
					[]map[string]bool{had, has}[side][short] = true
				}
			}
		}
		for _, path := range sorted(had, has) {
			if had[path] != has[path] {
				c.path(subject(change), path)
			}
		}
	}
}

// path compares what one address answers.
func (c *comparison) path(id site.PageID, path string) {
	before, after := address.Resolve(c.Was, path, c.moment(id)), address.Resolve(c.Is, path, c.moment(id))
	said := c.told[id] // of the page
	if before.Page == after.Page {
		said |= c.told[after.Page]
	}
	c.differing(c.answers(c.Was, before), c.answers(c.Is, after), func(a, b answer, m reach.Mask) {
		m &^= said
		c.facts.add(
			key{topic: topicPath, words: "other"},
			item{id, fmt.Sprintf("%s %s, and %s before", path, c.says(b), c.did(a))},
			m,
		)
	})
}

// binned compares what the addresses answer that pages had before they were binned: pages that are in the bin, where
// others may be admitted to “gone” or another page be chosen, and those that went there or came back.
func (c *comparison) binned() {
	audiences := false
	tops := map[site.PageID]bool{}
	for _, change := range c.changes {
		if change.Was == nil || change.Is == nil {
			continue
		}
		audiences = audiences || change.Was.Audience != change.Is.Audience || change.Was.Parent != change.Is.Parent
		if change.Was.LeadsTo != change.Is.LeadsTo || change.Was.Binned != change.Is.Binned {
			tops[change.Is.ID] = true
		}
	}
	for _, id := range c.Is.Binned() {
		if p := c.Was.Page(id); audiences && p != nil && p.Binned &&
			c.panel.AdmittedBefore(c.Was, id) != c.panel.AdmittedBefore(c.Is, id) {
			tops[id] = true
		}
	}
	pages := map[site.PageID]bool{}
	for len(tops) > 0 {
		for top := range tops {
			c.Is.Walk(top, func(p *site.Page) bool {
				pages[p.ID] = pages[p.ID] || !c.Was.InTree(p.ID) || !c.Is.InTree(p.ID)
				return true
			})
		}
		clear(tops)
		for _, id := range c.Is.Binned() { // what leads to them leads on with them
			if to := c.Is.Page(id).LeadsTo; pages[to] && !pages[id] {
				tops[id] = true
			}
		}
	}
	for _, id := range sortedIDs(pages) {
		for _, path := range append(address.Ever(c.Is, id), c.Is.Page(id).ShortAddresses...) {
			if !c.standsAt(c.Was, id, path) && !c.standsAt(c.Is, id, path) {
				c.path(id, path)
			}
		}
	}
}

// standsAt says whether a page stands in the tree at an address.
func (c *comparison) standsAt(s *site.Site, id site.PageID, path string) bool {
	return s.InTree(id) && addressOf(s, id) == path
}

// says and did say an answer, as it will be and as it was.
func (c *comparison) says(a answer) string {
	switch a.class {
	case classSees:
		return "shows " + c.label(a.page)
	case classLeads:
		return "leads to " + c.label(a.page) + " at " + addressOf(c.Is, a.page)
	}
	return "answers with " + classWords(a.class)
}

func (c *comparison) did(a answer) string {
	switch a.class {
	case classSees:
		return "showed " + c.label(a.page)
	case classLeads:
		return "led to " + c.label(a.page) + " at " + addressOf(c.Was, a.page)
	}
	return "answered with " + classWords(a.class)
}

func classWords(of class) string {
	switch of {
	case classSignIn:
		return "a way to sign in"
	case classDenied:
		return "“no access”"
	case classGone:
		return "“gone”"
	case classLeads:
		return "a redirect"
	case classSees:
		return "the page"
	}
	return "“not found”"
}
