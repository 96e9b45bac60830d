// Package consequence computes what a draft does to what people can see: the difference of two Sites, for every
// audience at once, now and at each moment to come at which it changes (rules 9.3).
//
// What visitors get is compared as values: which page an address leads to, the words of pages, the looks of blocks.
// Where a value can differ is found from what the edits touched, so that a comparison costs the difference and not
// the Sites; whether it differs is never guessed, but read off the values. So the report is silent only where nothing
// differs.
package consequence

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"vineladder/internal/core/count"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A Report is the difference between two Sites for some viewers.
type Report struct {
	Was, Is *site.Site
	Viewers
	Moments  []time.Time // that were looked at: the viewers' own, and those to come
	Unlooked time.Time   // the first moment that was not looked at; zero: none was left out
	Edited   int         // pages and other things that differ at all

	facts  *ledger
	panels map[int]*reach.Panel // of passes, by their first moment

	questions map[askedKey][]site.PageID // what listings ask for, as far as somebody asked
	seers     map[site.PageID]timeline
}

// A Sentence is one consequence in words, with the list behind its count.
type Sentence struct {
	About string // "page", "address", "menu", "block", "layout", "words", "programs", "settings", "rights" or "nothing"
	Text  string
	Items []string     `json:",omitempty"`
	Words []Difference `json:",omitempty"` // what was and will be read
	If    bool         `json:",omitempty"` // about a state that does not hold; the text names it

	For   []int         `json:"-"` // the viewers concerned, by number; nil: it concerns none or all
	From  time.Time     `json:"-"` // zero: from publication on
	Until time.Time     `json:"-"` // zero: for good
	Pages []site.PageID `json:"-"` // concerned
	Block site.BlockID  `json:"-"` // concerned; 0: none
	Forms bool          `json:"-"` // the forms for accounts are concerned, which stand on no page
}

// A Difference is what something says before and after, line by line. Lines that stay are left out, but for the one
// before each change.
type Difference struct {
	Of  string `json:",omitempty"` // what says it
	Was []string
	Is  []string
}

// WordLimit bounds the lines that a Difference keeps of each side, and the bytes of a line: it is read by people, and
// kept in the history for ever.
const (
	WordLimit     = 500
	WordLineLimit = 20_000
)

// bound cuts off what is too much, and says how much that was.
func (d *Difference) bound() {
	d.Was, d.Is = boundLines(d.Was), boundLines(d.Is)
}

func boundLines(lines []string) []string {
	if len(lines) > WordLimit {
		more := fmt.Sprintf("… and %s more lines", count.Number(len(lines)-WordLimit))
		lines = append(slices.Clone(lines[:WordLimit]), more)
	}
	for i, line := range lines {
		if len(line) > WordLineLimit {
			lines = slices.Clone(lines)
			lines[i] = strings.ToValidUTF8(line[:WordLineLimit], "") + " …"
		}
	}
	return lines
}

// stays begins a line of a Difference that both sides have, for a place.
const stays = "… "

// A ReadLine is a line of a Difference as a person reads it.
type ReadLine struct {
	Words string
	Stays bool // both sides have it
}

// Before and After give the two sides for reading.
func (d Difference) Before() []ReadLine { return readLines(d.Was) }
func (d Difference) After() []ReadLine  { return readLines(d.Is) }

func readLines(lines []string) []ReadLine {
	made := make([]ReadLine, len(lines))
	for i, line := range lines {
		words, both := strings.CutPrefix(line, stays)
		made[i] = ReadLine{words, both}
	}
	return made
}

// ItemLimit bounds the list behind a sentence; the text still has the whole count.
const ItemLimit = 200
