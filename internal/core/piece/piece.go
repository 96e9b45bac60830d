// Package piece says all that is so of each type of block, a type a file: what it is called, how its settings are
// written, read and kept, and what it shows by itself. What a block shows of a menu or of the pages inside depends on
// the whole site, and is decided in package region.
package piece

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"

	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// A Type is what is so of one type of block.
type Type struct {
	Key      string // in canonical forms and in the tables
	Set      bool   // it has settings
	Words    string // in lists of types
	Landmark bool   // its blocks are landmarks of their pages (rules 6.5)
	Untitled bool   // a title is never shown above it

	// Is says whether something to show is of the type.
	Is func(site.Piece) bool
	// Write gives the settings in their canonical form, without the key; Read takes it back.
	Write func(site.Piece) string
	Read  func(s *site.Site, text string) (site.Piece, error)
	// Decode reads the settings as the tables keep them, which is their JSON.
	Decode func(settings []byte) (site.Piece, error)
	// Full says whether there is something to show on a page.
	Full func(site.Piece, *site.Page) bool
	// Says is what it says in public whoever looks; it is what a block can open (rules 2.6).
	Says func(site.Piece) string
	// Sketch is what a visitor gets of it, in words, where it is neither links nor text.
	Sketch func(s *site.Site, p site.Piece, home bool) Sketch
}

// A Sketch is what a visitor gets of a piece, in words.
type Sketch struct{ File, Alternative, Other string }

// Types has every type, in the order in which they are offered. Nobody writes to it.
func Types() []Type { return types }

var types = []Type{text(), menu(), breadcrumb(), children(), ofPages(), search(), image(), account(), name()}

// Of gives the type of something to show.
func Of(p site.Piece) *Type {
	for i := range types {
		if t := &types[i]; t.Is(p) {
			return t
		}
	}
	nothing := typeOf[site.BlockName]("", "Nothing") // of a block in the making
	return &nothing
}

// Text writes what a block shows in one word: the key of its type, and its settings after a colon.
func Text(p site.Piece) string {
	t := Of(p)
	if t.Set {
		return t.Key + ":" + t.Write(p)
	}
	return t.Key
}

// Parse reads what Text wrote. What it names must be there.
func Parse(s *site.Site, text string) (site.Piece, error) {
	key, settings, _ := strings.Cut(text, ":")
	for _, t := range types {
		if t.Key == key {
			return t.Read(s, settings)
		}
	}
	return nil, typed.Refuse("A block of the sort “%s” is not known.", key)
}

// Encode gives the key of a piece's type and its settings, as the tables keep them.
func Encode(p site.Piece) (key string, settings []byte, err error) {
	settings, err = json.Marshal(p)
	return Of(p).Key, settings, err
}

// Decode reads what Encode gave.
func Decode(key string, settings []byte) (site.Piece, error) {
	for _, t := range types {
		if t.Key == key {
			return t.Decode(settings)
		}
	}
	return nil, fmt.Errorf("blocks of the type “%s” are not known to this program", key)
}

// typeOf is a type of blocks without anything set: all that differs is said afterwards.
func typeOf[P site.Piece](key, words string) Type {
	return Type{
		Key: key, Words: words, Landmark: true,
		Is:    func(p site.Piece) bool { _, is := p.(P); return is },
		Write: func(site.Piece) string { return "" },
		Read:  func(*site.Site, string) (site.Piece, error) { var p P; return p, nil },
		Decode: func(settings []byte) (site.Piece, error) {
			var p P
			in := json.NewDecoder(bytes.NewReader(settings))
			in.DisallowUnknownFields()
			if err := in.Decode(&p); err != nil {
				return nil, fmt.Errorf("settings of a block of the type “%s”: %w", key, err)
			}
			return p, nil
		},
		Full:   func(site.Piece, *site.Page) bool { return true },
		Says:   func(site.Piece) string { return "" },
		Sketch: func(*site.Site, site.Piece, bool) Sketch { return Sketch{} },
	}
}
