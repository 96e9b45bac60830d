package site

import (
	"encoding/hex"
	"sync"
)

// Texts are what is known of page texts, by their hashes. A text never changes, so what is known of one is true for
// every Site: all that grow from one share it, and it belongs to none of them. It is safe for concurrent use.
//
// There are as many as pages, and most have a few links: they lie one after the other in one list, found by the hash.
type Texts struct {
	sync.RWMutex
	at    map[textKey]span
	wrong map[textKey][]string // of those few in which something is
	web   map[textKey][]string // addresses to which some link
	links []PageID             // those of a text stay where they are
}

// A textKey is a hash, which is written as 32 hexadecimal digits, in half the room; of another one as much as fits.
type textKey [16]byte

func keyOf(hash string) textKey {
	var key textKey
	if n, err := hex.Decode(key[:], []byte(hash[:min(len(hash), 2*len(key))])); err != nil || n < len(key) {
		key = textKey{}
		copy(key[:], hash)
	}
	return key
}

// A span is where the links of a text lie.
type span struct{ from, n uint32 }

// Know takes in to which pages a text links.
func (t *Texts) Know(hash string, links []PageID) {
	if len(links) == 0 {
		return
	}
	key := keyOf(hash)
	t.Lock()
	defer t.Unlock()
	if _, known := t.at[key]; known {
		return
	}
	if t.at == nil {
		t.at = map[textKey]span{}
	}
	t.at[key] = span{uint32(len(t.links)), uint32(len(links))}
	t.links = append(t.links, links...)
}

// of gives the links of a text. The slice is the Texts'.
func (t *Texts) of(hash string) []PageID {
	t.RLock()
	defer t.RUnlock()
	if at, known := t.at[keyOf(hash)]; known {
		return t.links[at.from : at.from+at.n : at.from+at.n]
	}
	return nil
}

// Texts gives what is known of texts.
func (s *Site) Texts() *Texts { return s.texts }

// Links gives the pages to which a text links; nil for one that has none or is not known.
func (s *Site) Links(hash string) []PageID {
	if hash == "" {
		return nil
	}
	return s.texts.of(hash)
}

// KnowText takes in to which pages a text links; it must be known before a page that has it is put.
func (b *Builder) KnowText(hash string, links []PageID) { b.site.texts.Know(hash, links) }

// What can be wrong in a text by itself; after FaultVagueLink stand the words of the link.
const (
	FaultBareTable = "table"
	FaultVagueLink = "link "
)

// KnowFaults takes in what is wrong in a text.
func (t *Texts) KnowFaults(hash string, faults []string) {
	if len(faults) == 0 {
		return
	}
	t.Lock()
	defer t.Unlock()
	if t.wrong == nil {
		t.wrong = map[textKey][]string{}
	}
	t.wrong[keyOf(hash)] = faults
}

// KnowWeb takes in to which web addresses a text links.
func (t *Texts) KnowWeb(hash string, addresses []string) {
	if len(addresses) == 0 {
		return
	}
	t.Lock()
	defer t.Unlock()
	if t.web == nil {
		t.web = map[textKey][]string{}
	}
	t.web[keyOf(hash)] = addresses
}

// TextWeb gives the web addresses to which a text links; nil for one without, or that is not known. The slice is the
// Site's.
func (s *Site) TextWeb(hash string) []string {
	if hash == "" {
		return nil
	}
	s.texts.RLock()
	defer s.texts.RUnlock()
	return s.texts.web[keyOf(hash)]
}

// TextFaults gives what is wrong in a text; nil for one in which nothing is, or that is not known. The slice is the
// Site's.
func (s *Site) TextFaults(hash string) []string {
	if hash == "" {
		return nil
	}
	s.texts.RLock()
	defer s.texts.RUnlock()
	return s.texts.wrong[keyOf(hash)]
}
