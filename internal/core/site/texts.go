package site

import "sync"

// texts knows to which pages a page text links, by the text's hash. A text never changes, so what is known of it is
// true for every Site; all that grow from one share it, and it may be added to at any time.
type texts struct{ links sync.Map }

// Links gives the pages to which a text links; nil for one that has none or is not known.
func (s *Site) Links(hash string) []PageID {
	if links, ok := s.texts.links.Load(hash); ok {
		return links.([]PageID)
	}
	return nil
}

// KnowText remembers to which pages a text links, for this Site and all that share its texts.
func (s *Site) KnowText(hash string, links []PageID) {
	if len(links) > 0 {
		s.texts.links.Store(hash, links)
	}
}

// KnowText remembers to which pages a text links.
func (b *Builder) KnowText(hash string, links []PageID) { b.site.KnowText(hash, links) }
