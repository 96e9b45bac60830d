package site

import "sync"

// Texts are what is known of page texts, by their hashes. A text never changes, so what is known of one is true for
// every Site: all that grow from one share it, and it belongs to none of them. It is safe for concurrent use.
type Texts struct{ links sync.Map }

// Know takes in to which pages a text links.
func (t *Texts) Know(hash string, links []PageID) {
	if len(links) > 0 {
		t.links.Store(hash, links)
	}
}

// Texts gives what is known of texts.
func (s *Site) Texts() *Texts { return s.texts }

// Links gives the pages to which a text links; nil for one that has none or is not known.
func (s *Site) Links(hash string) []PageID {
	if links, ok := s.texts.links.Load(hash); ok {
		return links.([]PageID)
	}
	return nil
}

// KnowText takes in to which pages a text links; it must be known before a page that has it is put.
func (b *Builder) KnowText(hash string, links []PageID) { b.site.texts.Know(hash, links) }
