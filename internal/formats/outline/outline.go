// Package outline writes menus in open formats and reads them: OPML 2.0, which outliners know, and JSON.
//
// Both carry what people read (a label, an address) and, beside it, every field of an entry that is set, as the product
// writes it, so that a menu comes back as it went out. Pages are named by key. An outline from elsewhere has only
// labels and addresses; that is enough to read it.
package outline

import (
	"encoding/json"
	"encoding/xml"
	"fmt"
	"io"
	"net/url"
	"regexp"
	"strconv"
	"strings"
	"time"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/target"
)

// A Menu is a menu as a document has it.
type Menu struct {
	Key      string  `json:"key"`
	Name     string  `json:"name"`
	Programs bool    `json:"programs,omitempty"`
	Entries  []Entry `json:"entries"`

	isOPML bool // which says nothing of programs
}

// An Entry is one entry with those below it. Fields has what is set, in canonical form, but that "shows" names pages by
// key.
type Entry struct {
	Label   string                `json:"label"`
	URL     string                `json:"url,omitempty"`
	Under   string                `json:"under,omitempty"` // key of the page of an automatic line, below which it stands
	Fields  map[edit.Field]string `json:"fields,omitempty"`
	Entries []Entry               `json:"entries,omitempty"`

	line int // of the document in which it begins, from 1; 0: not known
}

// Of writes a menu down. origin is the public site's, which stands before the addresses of its pages.
func Of(s *site.Site, m *site.Menu, origin string) Menu {
	return Menu{Key: m.Key, Name: m.Name, Programs: m.Programs, Entries: below(s, m, 0, origin)}
}

func below(s *site.Site, m *site.Menu, parent site.EntryID, origin string) []Entry {
	var all []Entry
	for _, id := range m.Below(parent) {
		e := m.Entry(id)
		made := Entry{Label: s.EntryLabel(e), Fields: map[edit.Field]string{}, Entries: below(s, m, id, origin)}
		if under := s.Page(e.Under); under != nil {
			made.Under = under.Key
		}
		for _, field := range edit.EntryFields() {
			if value := edit.EntryValue(e, field); value != edit.EntryValue(&site.Entry{}, field) {
				made.Fields[field] = value
			}
		}
		made.Fields[edit.FieldShows] = byKey(s, target.Text(e.Shows))
		if e.Grown != "" {
			made.Fields[edit.FieldLines] = linesByKey(s, e)
		}
		switch to := e.Shows.(type) {
		case site.ItemWeb:
			made.URL = to.Address
		case site.ItemPage:
			made.URL = origin + address.Of(s, to.Page)
		}
		all = append(all, made)
	}
	return all
}

// byKey names the page of what an entry shows by its key, in place of its number.
func byKey(s *site.Site, shows string) string {
	sort, rest, _ := strings.Cut(shows, ":")
	if sort != "page" && sort != "branch" {
		return shows
	}
	number, more, _ := strings.Cut(rest, ":")
	var id int64
	if _, err := fmt.Sscan(number, &id); err != nil || s.Page(site.PageID(id)) == nil {
		return shows
	}
	if sort == "page" {
		more = narrowByKey(s, more)
	}
	more = ofOthers.ReplaceAllStringFunc(more, func(part string) string {
		if p := numbered(s, strings.TrimPrefix(part, ofPrefix)); p != nil {
			return ofPrefix + keyIn.Replace(p.Key)
		}
		return part
	})
	return strings.TrimSuffix(sort+":"+keyIn.Replace(s.Page(site.PageID(id)).Key)+":"+more, ":")
}

// narrowByKey names the topic lists and topics to which a list is narrowed by their keys: “t12=15” says
// “topic.places=oyra”.
func narrowByKey(s *site.Site, narrow string) string {
	query, err := url.ParseQuery(narrow)
	if err != nil {
		return narrow
	}
	named := url.Values{}
	for key := range query {
		list, topic := numbered(s, strings.TrimPrefix(key, "t")), numbered(s, query.Get(key))
		if list != nil && topic != nil && key == fmt.Sprintf("t%d", list.ID) {
			named.Set(topicPrefix+list.Key, topic.Key)
		} else {
			named.Set(key, query.Get(key))
		}
	}
	return named.Encode()
}

const topicPrefix = "topic."

// ofOthers is where an item that grows names the page to whose list its lines lead.
var ofOthers = regexp.MustCompile(`\b` + ofPrefix + `[^:]+`)

const ofPrefix = "of="

func numbered(s *site.Site, text string) *site.Page {
	id, err := strconv.ParseInt(text, 10, 64)
	if err != nil {
		return nil
	}
	return s.Page(site.PageID(id))
}

// keyIn writes a key between colons, and keyFrom reads it: topics from elsewhere have addresses as keys.
var (
	keyIn   = strings.NewReplacer("%", "%25", ":", "%3A")
	keyFrom = strings.NewReplacer("%25", "%", "%3A", ":")
)

// linesByKey names the pages of single lines that are set by their keys.
func linesByKey(s *site.Site, e *site.Entry) string {
	named := map[string]string{}
	for id, line := range e.Lines() {
		if p := s.Page(id); p != nil {
			named[p.Key] = line.String()
		}
	}
	return string(site.ValuesOf(named))
}

// WriteJSON writes menus as a list.
func WriteJSON(w io.Writer, menus []Menu) error {
	out := json.NewEncoder(w)
	out.SetIndent("", "  ")
	out.SetEscapeHTML(false)
	return out.Encode(menus)
}

// opml is the document of the OPML 2.0 specification: a head and a body of outlines.
type opml struct {
	XMLName xml.Name   `xml:"opml"`
	Version string     `xml:"version,attr"`
	Key     string     `xml:"menuKey,attr,omitempty"`
	Title   string     `xml:"head>title"`
	Created string     `xml:"head>dateCreated,omitempty"`
	Body    []xmlEntry `xml:"body>outline"`
}

// An xmlEntry is an outline: its attributes, and the outlines below it. Where it leads to an address it is of the type
// “link”, with the url that the specification asks for; one that is off is a comment.
type xmlEntry struct {
	Attributes []xml.Attr `xml:",any,attr"`
	Entries    []xmlEntry `xml:"outline"`
	line       int
}

// UnmarshalXML notes the line in which an entry begins, for what is said of it.
func (x *xmlEntry) UnmarshalXML(in *xml.Decoder, start xml.StartElement) error {
	type plain xmlEntry
	line, _ := in.InputPos()
	err := in.DecodeElement((*plain)(x), &start)
	x.line = line
	return err
}

// WriteOPML writes one menu as OPML 2.0.
func WriteOPML(w io.Writer, m Menu, now time.Time) error {
	if _, err := io.WriteString(w, xml.Header); err != nil {
		return err
	}
	out := xml.NewEncoder(w)
	out.Indent("", "  ")
	if err := out.Encode(opml{
		Version: "2.0", Key: m.Key, Title: m.Name, Created: now.UTC().Format(time.RFC1123),
		Body: toXML(m.Entries),
	}); err != nil {
		return fmt.Errorf("write OPML: %w", err)
	}
	_, err := io.WriteString(w, "\n")
	return err
}

// attributeOf names the attribute that OPML has for a field; others are named as the field is.
var attributeOf = map[edit.Field]string{edit.FieldHint: "description", edit.FieldLabel: "ownLabel"}

func toXML(entries []Entry) []xmlEntry {
	var all []xmlEntry
	for _, e := range entries {
		made := xmlEntry{Entries: toXML(e.Entries)}
		set := func(name, value string) {
			if value != "" {
				made.Attributes = append(made.Attributes, xml.Attr{Name: xml.Name{Local: name}, Value: value})
			}
		}
		made.Attributes = append(made.Attributes, xml.Attr{Name: xml.Name{Local: "text"}, Value: e.Label})
		if e.URL != "" {
			set("type", "link")
			set("url", e.URL)
		}
		set("under", e.Under)
		for _, field := range edit.EntryFields() {
			name := attributeOf[field]
			if name == "" {
				name = string(field)
			}
			set(name, e.Fields[field])
		}
		if e.Fields[edit.FieldOn] == "no" {
			set("isComment", "true")
		}
		all = append(all, made)
	}
	return all
}
