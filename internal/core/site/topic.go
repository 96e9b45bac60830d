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
