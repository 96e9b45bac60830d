package listing

import (
	"cmp"
	"fmt"
	"maps"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/detail"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/topic"
	"vineladder/internal/core/typed"
)

// A Narrowing is what a visitor asks of a list beyond its own question: a value for each of some keys.
type Narrowing map[string]string

// A Filter is a key by which visitors can narrow what they get of a list, with the values that lead to something.
type Filter struct {
	Key    string // in addresses
	Label  string
	Values []FilterValue
}

// A FilterValue is one of them, with the number of pages that it leaves.
type FilterValue struct {
	Value, Words string
	Count        int
	Chosen       bool
}

// CanNarrow says whether visitors may narrow by a detail: it is one of few values, and not for editors only.
func CanNarrow(d site.Detail) bool {
	return Asks(d) && (d.Type == site.DetailChoice || d.Type == site.DetailChoices || d.Type == site.DetailYes)
}

func checkNarrow(s *site.Site, keys string) error {
	for key := range strings.SplitSeq(keys, "|") {
		list, isList := narrowingList(key)
		d := s.Detail(key)
		switch p := s.Page(list); {
		case key == "":
		case isList && (p == nil || p.Purged):
			return &typed.Missing{Page: list, Sentence: "A topic list by which visitors narrow is not there any more."}
		case isList && !p.IsTopicList():
			return typed.Refuse("“%s” is no topic list.", p.Label)
		case !isList && d == nil:
			return &typed.Missing{Sentence: "A detail by which visitors narrow is not there any more."}
		case !isList && !CanNarrow(*d):
			return typed.Refuse("Visitors can't narrow by “%s”.", d.Label)
		}
	}
	return nil
}

// narrowingList reads “topic:12”.
func narrowingList(key string) (list site.PageID, is bool) {
	number, is := strings.CutPrefix(key, "topic:")
	id, err := strconv.ParseInt(number, 10, 64)
	return site.PageID(id), is && err == nil
}

// NarrowingLists gives the topic lists by which visitors may narrow.
func NarrowingLists(q site.BlockListing) (lists []site.PageID) {
	for key := range strings.SplitSeq(q.Narrow, "|") {
		if list, is := narrowingList(key); is {
			lists = append(lists, list)
		}
	}
	return lists
}

// NarrowedBy gives the pages whose lists visitors can narrow to the topics of a list.
func NarrowedBy(s *site.Site, list site.PageID) (pages []site.PageID) {
	for _, id := range s.Listers() {
		if q, _ := Asked(s.Page(id).Listing); slices.Contains(NarrowingLists(q), list) {
			pages = append(pages, id)
		}
	}
	return pages
}

// keys gives what visitors may narrow by, each with its name in addresses: the detail's key, or “t12” of a topic list.
func keys(s *site.Site, q site.BlockListing) (all []Filter) {
	for key := range strings.SplitSeq(q.Narrow, "|") {
		if list, is := narrowingList(key); is {
			if s.InTree(list) {
				all = append(all, Filter{Key: fmt.Sprintf("t%d", list), Label: s.Page(list).Heading()})
			}
		} else if d := s.Detail(key); d != nil && CanNarrow(*d) {
			all = append(all, Filter{Key: key, Label: d.Label})
		}
	}
	return all
}

// Keys gives the keys in addresses by which visitors may narrow a list.
func Keys(s *site.Site, q site.BlockListing) (names []string) {
	for _, f := range keys(s, q) {
		names = append(names, f.Key)
	}
	return names
}

// Narrowed reads what an address asks of a list, of which the visitor gets some hits. Only what they are offered
// counts: asks is false where the address names no key that has a value, ok where a value is none of those of its key.
func Narrowed(
	s *site.Site, q site.BlockListing, query url.Values, hits []site.PageID, reached func(site.PageID) bool,
) (n Narrowing, asks, ok bool) {
	n, ok = Narrowing{}, true
	for _, f := range Filters(s, q, hits, nil, reached) {
		if !query.Has(f.Key) {
			continue
		}
		value := query.Get(f.Key)
		n[f.Key], asks = value, true
		ok = ok && slices.ContainsFunc(f.Values, func(v FilterValue) bool { return v.Value == value })
	}
	return n, asks, ok
}

// ParseNarrowed takes a query that narrows what a page lists into its one form; what visitors are never offered is
// refused.
func ParseNarrowed(s *site.Site, page site.PageID, text string) (string, error) {
	q, lists := Asked(s.Page(page).Listing)
	if !lists {
		return "", typed.Refuse("“%s” lists no pages that could be narrowed.", s.Page(page).Label)
	}
	query, err := url.ParseQuery(text)
	if err != nil {
		return "", typed.Refuse("“%s” does not narrow a list.", text)
	}
	n, known := Narrowing{}, keys(s, q)
	for key := range query {
		at := slices.IndexFunc(known, func(f Filter) bool { return f.Key == key })
		all := func(site.PageID) bool { return true }
		if at < 0 || !known[at].can(s, query.Get(key), all) {
			return "", typed.Refuse("Visitors can't narrow what “%s” lists to “%s=%s”.", s.Page(page).Label, key, query.Get(key))
		}
		n[key] = query.Get(key)
	}
	return n.Query(1), nil
}

// Named gives what a query narrows a list to: for each key its name, and that of the value.
func Named(s *site.Site, q site.BlockListing, narrow string) (named []Filter) {
	query, err := url.ParseQuery(narrow)
	if err != nil {
		return nil
	}
	for _, f := range keys(s, q) {
		if value := query.Get(f.Key); value != "" {
			words := f.words(s, value, func(site.PageID) bool { return true })
			f.Values = []FilterValue{{Value: value, Words: cmp.Or(words, value), Chosen: true}}
			named = append(named, f)
		}
	}
	return named
}

// Offered says which lenses are offered to narrow what a page lists so. It is asked of those that reach the page.
func Offered(s *site.Site, page site.PageID, narrow string, panel *reach.Panel) (offered reach.Mask) {
	q, lists := Of(s, page)
	query, err := url.ParseQuery(narrow)
	if !lists || err != nil {
		return 0
	}
	offered = panel.All()
	known := keys(s, q)
	all := Candidates(s, q)
	reached := Reached(s, q, panel)
	for key := range query {
		at := slices.IndexFunc(known, func(f Filter) bool { return f.Key == key })
		if at < 0 {
			return 0
		}
		offered &= known[at].reachedBy(s, query.Get(key), panel)
		var some reach.Mask
		for _, id := range all {
			if id != page && some&offered != offered && slices.Contains(valuesOf(s, s.Page(id), key), query.Get(key)) {
				some |= reached(id)
			}
		}
		offered &= some
	}
	return offered
}

// reachedBy says for which lenses a value is one that there is: topics must be reached.
func (f Filter) reachedBy(s *site.Site, value string, panel *reach.Panel) reach.Mask {
	if !f.can(s, value, func(site.PageID) bool { return true }) {
		return 0
	}
	if s.Detail(f.Key) != nil {
		return panel.All()
	}
	id, _ := strconv.ParseInt(value, 10, 64)
	return panel.At(s, site.PageID(id)).Reachable()
}

// can says whether a value is one that there is.
func (f Filter) can(s *site.Site, value string, reached func(site.PageID) bool) bool {
	d := s.Detail(f.Key)
	if d == nil {
		id, err := strconv.ParseInt(value, 10, 64)
		list, _ := strconv.ParseInt(f.Key[1:], 10, 64)
		p := s.Page(site.PageID(id))
		return err == nil && value == fmt.Sprint(id) && p != nil && p.IsTopic() && s.InTree(p.ID) &&
			s.IsWithin(p.ID, site.PageID(list)) && reached(p.ID)
	}
	if d.Type == site.DetailYes {
		return value == "yes" || value == "no"
	}
	return slices.Contains(d.ChoiceList(), value)
}

// valuesOf gives what a page has under a key of an address: choices, or the topics that it is about.
func valuesOf(s *site.Site, p *site.Page, key string) []string {
	if d := s.Detail(key); d != nil {
		value := p.Values.Get(key)
		if value == "" || d.Kind() != p.Kind || !detail.Reads(s, *d, value) {
			return nil
		}
		return strings.Split(value, "\n")
	}
	var values []string
	for _, borne := range s.TopicsOf(p) {
		for _, id := range topic.Broader(s, borne) {
			if list := s.TopicList(id); list != nil && key == fmt.Sprintf("t%d", list.ID) {
				values = append(values, fmt.Sprint(id))
			}
		}
	}
	slices.Sort(values)
	return slices.Compact(values)
}

// Narrow gives those hits that have all that a visitor asks for.
func (n Narrowing) Narrow(s *site.Site, hits []site.PageID) []site.PageID {
	if len(n) == 0 {
		return hits
	}
	return slices.DeleteFunc(slices.Clone(hits), func(id site.PageID) bool {
		for key, value := range n {
			if !slices.Contains(valuesOf(s, s.Page(id), key), value) {
				return true
			}
		}
		return false
	})
}

// Query writes a narrowing and a number of a page as the one query that asks for them; "" for the first page of all.
func (n Narrowing) Query(number int) string {
	values := url.Values{}
	for key, value := range n {
		values.Set(key, value)
	}
	if number > 1 {
		values.Set("page", strconv.Itoa(number))
	}
	return values.Encode()
}

// With gives the narrowing that asks for another value too, or instead; "" for none of a key.
func (n Narrowing) With(key, value string) Narrowing {
	made := maps.Clone(n)
	if made == nil {
		made = Narrowing{}
	}
	made[key] = value
	if value == "" {
		delete(made, key)
	}
	return made
}

// Filters gives what a list can be narrowed by, to who reaches some pages: of what is chosen the value, of the rest all
// values that some hit has. Values stand as choices are written, and topics in the order of the tree.
func Filters(
	s *site.Site, q site.BlockListing, hits []site.PageID, n Narrowing, reached func(site.PageID) bool,
) []Filter {
	var all []Filter
	for _, f := range keys(s, q) {
		counts := map[string]int{}
		for _, id := range hits {
			for _, value := range valuesOf(s, s.Page(id), f.Key) {
				counts[value]++
			}
		}
		chosen, has := n[f.Key]
		if has {
			counts = map[string]int{chosen: counts[chosen]}
		}
		for _, value := range f.ordered(s, slices.Collect(maps.Keys(counts))) {
			words := f.words(s, value, reached)
			if words != "" {
				f.Values = append(f.Values, FilterValue{value, words, counts[value], has})
			}
		}
		if len(f.Values) > 0 {
			all = append(all, f)
		}
	}
	return all
}

// ordered puts values of a key in order.
func (f Filter) ordered(s *site.Site, values []string) []string {
	slices.Sort(values)
	if d := s.Detail(f.Key); d != nil {
		offered := append([]string{"yes", "no"}, d.ChoiceList()...)
		slices.SortStableFunc(values, func(a, b string) int {
			return slices.Index(offered, a) - slices.Index(offered, b)
		})
		return values
	}
	topics := make([]site.PageID, 0, len(values))
	for _, value := range values {
		id, _ := strconv.ParseInt(value, 10, 64)
		topics = append(topics, site.PageID(id))
	}
	s.SortByTree(topics)
	for i, id := range topics {
		values[i] = fmt.Sprint(id)
	}
	return values
}

// words is what a visitor reads of a value; "" for a topic that they don't reach, and for a choice offered no more.
func (f Filter) words(s *site.Site, value string, reached func(site.PageID) bool) string {
	d := s.Detail(f.Key)
	if !f.can(s, value, reached) {
		return ""
	}
	if d == nil {
		id, _ := strconv.ParseInt(value, 10, 64)
		return s.Page(site.PageID(id)).Label
	}
	return detail.Of(*d).Shown(s, *d, value)[0].Words
}
