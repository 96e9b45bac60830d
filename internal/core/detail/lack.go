package detail

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/count"
	"vineladder/internal/core/site"
)

// A Lack is what a page does not have that its type needs: the value of a detail, or a topic of a list.
type Lack struct {
	Page   site.PageID
	Detail string      // key; "" where it is a topic
	List   site.PageID // 0 where it is a value
}

// Words names what is lacking, as in “Depth” or “a topic of Places”.
func (l Lack) Words(s *site.Site) string {
	if d := s.Detail(l.Detail); d != nil {
		return "“" + d.Label + "”"
	}
	if p := s.Page(l.List); p != nil {
		return "a topic of “" + p.Label + "”"
	}
	return "something"
}

// Lacking gives what a page lacks. One that holds together topics needs nothing.
func Lacking(s *site.Site, p *site.Page) []Lack {
	var lacks []Lack
	for _, d := range s.Details(p.Kind) {
		if d.Required && !Reads(s, d, p.Values.Get(d.Key)) {
			lacks = append(lacks, Lack{Page: p.ID, Detail: d.Key})
		}
	}
	kind := s.Kind(p.Kind)
	if kind.Lists == "" {
		return lacks
	}
	bears := map[site.PageID]bool{}
	for _, topic := range s.TopicsOf(p) {
		if list := s.TopicList(topic); list != nil {
			bears[list.ID] = true
		}
	}
	for _, list := range ListsOf(kind) {
		if s.InTree(list) && !bears[list] {
			lacks = append(lacks, Lack{Page: p.ID, List: list})
		}
	}
	return lacks
}

// ListsOf gives the topic lists of which pages of a type must bear a topic.
func ListsOf(k site.Kind) []site.PageID {
	var lists []site.PageID
	for word := range strings.FieldsFuncSeq(k.Lists, func(r rune) bool { return r == '|' }) {
		if id, err := strconv.ParseInt(strings.TrimPrefix(word, "page:"), 10, 64); err == nil {
			lists = append(lists, site.PageID(id))
		}
	}
	return lists
}

// LosingWords says what is in the way of an edit; "" if nothing is.
func LosingWords(s *site.Site, lacks []Lack) string {
	if len(lacks) == 0 {
		return ""
	}
	said := fmt.Sprintf("“%s” would be live without %s, which its type needs", s.Page(lacks[0].Page).Label,
		lacks[0].Words(s))
	if more := len(lacks) - 1; more > 0 {
		said += ", and " + count.Of(more, "more thing like it is", "more things like it are") + " missing"
	}
	return said + ". Fill it in, or publish without the page."
}

// Losing gives what pages would lack in public because of an edit: a page that becomes live without it, or one that is
// live and had it before. What a live page lacked already is no fault of the edit, nor is a need that the type has only
// now (rules 7.3).
func Losing(was, is *site.Site) []Lack {
	var lacks []Lack
	for _, change := range site.Changes(was, is) {
		p := change.Is
		if p == nil || p.Status != site.StatusLive || !is.InTree(p.ID) {
			continue
		}
		before := change.Was
		stood := before != nil && before.Status == site.StatusLive && was.InTree(p.ID) && before.Kind == p.Kind
		for _, lack := range Lacking(is, p) {
			if !stood || !slices.Contains(Lacking(is, before), lack) {
				lacks = append(lacks, lack)
			}
		}
	}
	return lacks
}
