package site

import (
	"slices"
	"sync"
)

// Kinds of page that have a part in topics (rules 7). A topic list is a controlled vocabulary, and the pages in it are
// its topics, a narrower one in a broader one; so both have an address, a place, an audience and a history as any page.
const (
	KindTopicList = "topic-list"
	KindTopic     = "topic"
)

// TopicKinds are those kinds as a site has them that says nothing else of them.
func TopicKinds() []Kind {
	return []Kind{{Key: KindTopicList, Name: "Topic list"}, {Key: KindTopic, Name: "Topic"}}
}

// IsTopic says whether the page is a topic.
func (p *Page) IsTopic() bool { return p.Kind == KindTopic }

// IsTopicList says whether the page is a topic list.
func (p *Page) IsTopicList() bool { return p.Kind == KindTopicList }

// Gathers says whether the page is a topic or a topic list, so that it shows what bears it.
func (p *Page) Gathers() bool { return p.IsTopic() || p.IsTopicList() }

// Bearing gives the pages that bear a topic themselves, binned ones included. The slice belongs to the Site.
func (s *Site) Bearing(topic PageID) []PageID {
	if l := s.bearing.get(int64(topic)); l != nil {
		return l.pages
	}
	return nil
}

// TopicOf gives the topic that one counts as: itself or, where it is in the bin, the one that it was merged into; 0 if
// it counts as none.
func (s *Site) TopicOf(id PageID) PageID {
	for range mergeLimit {
		p := s.Page(id)
		switch {
		case p == nil || !p.IsTopic():
			return 0
		case s.InTree(id):
			return id
		}
		id = p.MergedInto
	}
	return 0
}

// mergeLimit is how often a topic can have been merged on.
const mergeLimit = 100

// TopicsOf gives the topics that count of those that a page bears, each once, in the tree's order.
func (s *Site) TopicsOf(p *Page) []PageID {
	if p == nil || len(p.Topics) == 0 {
		return nil
	}
	all := s.Topics()
	numbers := make([]int32, 0, len(p.Topics))
	for _, id := range p.Topics {
		if at, counts := all.At(id); counts && !slices.Contains(numbers, at) {
			numbers = append(numbers, at)
		}
	}
	slices.Sort(numbers)
	topics := make([]PageID, len(numbers))
	for i, at := range numbers {
		topics[i] = all.IDs[at]
	}
	return topics
}

// MergedInto gives the topics that count as another one, itself left out.
func (s *Site) MergedInto(topic PageID) []PageID {
	var merged []PageID
	for _, id := range s.merged {
		if s.TopicOf(id) == topic && id != topic {
			merged = append(merged, id)
		}
	}
	return merged
}

// TopicList gives the list in which a topic stands, of a list itself; nil for a page that gathers nothing.
func (s *Site) TopicList(topic PageID) *Page {
	p := s.Page(topic)
	for p != nil && p.IsTopic() {
		p = s.Page(p.Parent)
	}
	if p == nil || !p.IsTopicList() {
		return nil
	}
	return p
}

// TopicLists gives the topic lists of the tree, in its order.
func (s *Site) TopicLists() []PageID {
	lists := slices.DeleteFunc(slices.Clone(s.lists), func(id PageID) bool { return !s.InTree(id) })
	s.SortByTree(lists)
	return lists
}

// Listers gives the pages that list others below their text, ascending; some may be in the bin. Nobody writes to it.
func (s *Site) Listers() []PageID { return s.listers }

// listTopics keeps topics both ways.
func (b *Builder) listTopics(was, is *Page) {
	// Where a page stands counts too: what is above lists puts them in order, and takes them to the bin.
	gathers := was != nil && was.Gathers() || is != nil && is.Gathers()
	if gathers || len(b.site.lists) > 0 && (was == nil || is == nil || !samePlace(was, is)) {
		b.site.topics = new(topicsOnce)
	}
	member(&b.site.lists, &b.owns.lists, was, is, (*Page).IsTopicList)
	member(&b.site.listers, &b.owns.listers, was, is, func(p *Page) bool { return p.Listing != "" })
	member(&b.site.files, &b.owns.files, was, is, func(p *Page) bool { return p.IsFile() || p.IsFolder() })
	member(&b.site.merged, &b.owns.merged, was, is, func(p *Page) bool { return p.MergedInto != 0 })
	var old, made []PageID
	if was != nil {
		old = was.Topics
	}
	if is != nil {
		made = is.Topics
	}
	if !slices.Equal(old, made) {
		b.point(&b.site.bearing, old, was, made, is)
	}
}

// Topics say how all topics of the tree stand in each other, numbered from 0 in its order.
type Topics struct {
	at      []int32 // by the number of the page: 1 more than that of the topic; pages beyond its end are none
	IDs     []PageID
	Broader []int32 // of each topic: the one that it stands in; -1 for a top one
}

// At gives the number of the topic that one counts as; ok is false if it counts as none.
func (t *Topics) At(id PageID) (at int32, ok bool) {
	if id < 0 || int(id) >= len(t.at) {
		return 0, false
	}
	at = t.at[id] - 1
	return at, at >= 0
}

// put has a page count as the topic of a number.
func (t *Topics) put(id PageID, at int32) {
	if more := int(id) + 1 - len(t.at); more > 0 {
		t.at = append(t.at, make([]int32, more)...)
	}
	t.at[id] = at + 1
}

type topicsOnce struct {
	once   sync.Once
	topics Topics
}

// Topics numbers the topics. It is made once for all Sites that have the same.
func (s *Site) Topics() *Topics {
	s.topics.once.Do(func() {
		made := &s.topics.topics
		reader := NewReader(s)
		var down func(id PageID, broader int32)
		down = func(id PageID, broader int32) {
			at := broader
			if reader.Page(id).IsTopic() {
				at = int32(len(made.Broader))
				made.put(id, at)
				made.Broader, made.IDs = append(made.Broader, broader), append(made.IDs, id)
			}
			for _, kid := range reader.Children(id) {
				down(kid, at)
			}
		}
		for _, list := range s.TopicLists() {
			down(list, -1)
		}
		for _, merged := range s.merged {
			if to := s.TopicOf(merged); to != 0 && to != merged {
				if at, counts := made.At(to); counts {
					made.put(merged, at)
				}
			}
		}
	})
	return &s.topics.topics
}
