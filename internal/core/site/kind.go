package site

// A Kind is what sort of page a page is (rules 1). Of its own fields the Site knows the date, which pages can be
// ordered by.
type Kind struct {
	Key      string
	Name     string
	DateName string // what its date means, as in "Date of meeting"; "" if it has none
	Layout   string // key of the layout of its pages; "" if it has none
}

// Kinds gives every kind, in the site's order.
func (s *Site) Kinds() []Kind { return s.kinds }

// Kind finds a kind by key. A page of a kind that the site does not know is a plain one.
func (s *Site) Kind(key string) Kind {
	for _, kind := range s.kinds {
		if kind.Key == key {
			return kind
		}
	}
	switch key {
	case KindTopicList:
		return Kind{Key: key, Name: "Topic list"}
	case KindTopic:
		return Kind{Key: key, Name: "Topic"}
	}
	return Kind{Key: key, Name: key}
}
