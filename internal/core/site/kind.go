package site

// A Kind is what sort of page a page is (rules 1 and 7). What is asked for on its pages is their date, which pages can
// be ordered by, and the details of the type. Kinds are comparable.
type Kind struct {
	Key      string
	Name     string
	DateName string // what its date means, as in "Date of meeting"; "" if it has none
	Layout   string // key of the layout of its pages; "" if it has none
	Place    PageID // below which its pages are made at first; 0: where one stands
	Unlisted bool   // its pages are made unlisted
	Lists    string // topic lists of which its pages must bear a topic, as in "page:12|page:15", ascending
}

// Kinds gives every kind, in the site's order.
func (s *Site) Kinds() []Kind { return s.kinds }

// PagesOf counts the pages of a kind, those in the bin included. It looks at every page.
func (s *Site) PagesOf(key string) int {
	n := 0
	for _, top := range append([]PageID{s.home}, s.binned...) {
		s.Walk(top, func(p *Page) bool {
			if p.Kind == key {
				n++
			}
			return true
		})
	}
	return n
}

// Kind finds a kind by key. A page of a kind that the site does not know is a plain one.
func (s *Site) Kind(key string) Kind {
	for _, kind := range s.kinds {
		if kind.Key == key {
			return kind
		}
	}
	for _, kind := range OwnKinds() {
		if kind.Key == key {
			return kind
		}
	}
	return Kind{Key: key, Name: key}
}
