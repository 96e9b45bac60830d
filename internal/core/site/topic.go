package site

import "slices"

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
	var topics []PageID
	for _, id := range p.Topics {
		if id = s.TopicOf(id); id != 0 && !slices.Contains(topics, id) {
			topics = append(topics, id)
		}
	}
	if len(topics) > 1 {
		s.SortByTree(topics)
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

// TopicList gives the list in which a topic stands; nil for a page that is no topic.
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

// listTopics keeps topics both ways.
func (b *Builder) listTopics(was, is *Page) {
	member(&b.site.lists, &b.owns.lists, was, is, (*Page).IsTopicList)
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
