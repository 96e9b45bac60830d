// Package target says all that is so of each type of menu item, a type a file: what it is called, how what it leads to
// is written, read and kept, whom it shows to and what it makes of a line. Runs of lines are made in package menu.
package target

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strconv"
	"strings"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// A Type is what is so of one type of menu item.
type Type struct {
	Key   string // in canonical forms and in the tables
	Set   bool   // it leads to one of many
	Words string // in lists of types

	// Is says whether something to show is of the type.
	Is func(site.Shows) bool
	// Write gives what it leads to in its canonical form, without the key; Read takes it back.
	Write func(site.Shows) string
	Read  func(s *site.Site, text string) (site.Shows, error)
	// Decode reads it as the tables keep it, which is its JSON.
	Decode func(settings []byte) (site.Shows, error)
	// Reached says for which lenses of a panel it leads somewhere.
	Reached func(*site.Site, *reach.Panel, site.Shows) reach.Mask
	// Query is what it asks of the page that it leads to, as a query in an address.
	Query func(site.Shows) string
	// Line is what it makes of its line, where that is more than the page and its address.
	Line func(site.Shows) Line
}

// A Line is what an item makes of its line.
type Line struct {
	Href    string
	Does    site.AccountLink
	Heading bool
}

// Types has every type, in the order in which they are offered. Nobody writes to it.
func Types() []Type { return types }

var types = []Type{page(), branch(), web(), file(), account(), heading()}

// Of gives the type of something that an item shows; that of a heading where it shows nothing yet.
func Of(shows site.Shows) *Type {
	for i := range types {
		if t := &types[i]; t.Is(shows) {
			return t
		}
	}
	return &types[len(types)-1]
}

// Text writes what an item shows in one word: the key of its type, and where it leads after a colon.
func Text(shows site.Shows) string {
	t := Of(shows)
	if t.Set {
		return t.Key + ":" + t.Write(shows)
	}
	return t.Key
}

// Parse reads what Text wrote. A page must be there, in the bin or not.
func Parse(s *site.Site, text string) (site.Shows, error) {
	key, to, _ := strings.Cut(text, ":")
	for _, t := range types {
		if t.Key == key {
			return t.Read(s, to)
		}
	}
	return nil, typed.Refuse("An item of the sort “%s” is not known.", key)
}

// Encode gives the key of an item's type and where it leads, as the tables keep them.
func Encode(shows site.Shows) (key string, settings []byte, err error) {
	settings, err = json.Marshal(shows)
	return Of(shows).Key, settings, err
}

// Decode reads what Encode gave.
func Decode(key string, settings []byte) (site.Shows, error) {
	for _, t := range types {
		if t.Key == key {
			return t.Decode(settings)
		}
	}
	return nil, fmt.Errorf("menu items of the type “%s” are not known to this program", key)
}

// typeOf is a type of items without anything set: all that differs is said afterwards.
func typeOf[S site.Shows](key, words string) Type {
	return Type{
		Key: key, Words: words,
		Is:    func(shows site.Shows) bool { _, is := shows.(S); return is },
		Write: func(site.Shows) string { return "" },
		Read:  func(*site.Site, string) (site.Shows, error) { var to S; return to, nil },
		Decode: func(settings []byte) (site.Shows, error) {
			var to S
			in := json.NewDecoder(bytes.NewReader(settings))
			in.DisallowUnknownFields()
			if err := in.Decode(&to); err != nil {
				return nil, fmt.Errorf("a menu item of the type “%s”: %w", key, err)
			}
			return to, nil
		},
		Reached: func(_ *site.Site, panel *reach.Panel, _ site.Shows) reach.Mask { return panel.All() },
		Query:   func(site.Shows) string { return "" },
		Line:    func(site.Shows) Line { return Line{} },
	}
}

// known reads the number of a page that is on record.
func known(s *site.Site, number string) (site.PageID, error) {
	id, err := strconv.ParseInt(number, 10, 64)
	if p := s.Page(site.PageID(id)); err != nil || p == nil || p.Purged {
		const gone = "The page that the item should lead to is not there any more."
		return 0, &typed.Missing{Page: site.PageID(id), Sentence: gone}
	}
	return site.PageID(id), nil
}
