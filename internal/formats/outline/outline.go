// Package outline writes menus in open formats: OPML 2.0, which outliners read, and JSON.
package outline

import (
	"encoding/json"
	"encoding/xml"
	"fmt"
	"io"
	"time"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// opml is the document of the OPML 2.0 specification: a head and a body of outlines.
type opml struct {
	XMLName xml.Name  `xml:"opml"`
	Version string    `xml:"version,attr"`
	Title   string    `xml:"head>title"`
	Created string    `xml:"head>dateCreated"`
	Body    []outline `xml:"body>outline"`
}

// An outline is one entry. Where it leads to an address it is of the type “link”, with the url that the specification asks for.
type outline struct {
	Text     string    `xml:"text,attr" json:"label"`
	Type     string    `xml:"type,attr,omitempty" json:"-"`
	URL      string    `xml:"url,attr,omitempty" json:"url,omitempty"`
	Shows    string    `xml:"shows,attr,omitempty" json:"shows,omitempty"`
	Hint     string    `xml:"description,attr,omitempty" json:"hint,omitempty"`
	Off      string    `xml:"isComment,attr,omitempty" json:"-"`
	IsOff    bool      `xml:"-" json:"off,omitempty"`
	Audience string    `xml:"audience,attr,omitempty" json:"audience,omitempty"`
	Entries  []outline `xml:"outline" json:"entries,omitempty"`
}

// WriteOPML writes one menu as OPML 2.0. origin is the public site's, which stands before the addresses of its pages. An entry that is
// off is a comment, as the specification has it.
func WriteOPML(w io.Writer, s *site.Site, m *site.Menu, origin string, now time.Time) error {
	if _, err := io.WriteString(w, xml.Header); err != nil {
		return err
	}
	out := xml.NewEncoder(w)
	out.Indent("", "  ")
	document := opml{Version: "2.0", Title: m.Name, Created: now.UTC().Format(time.RFC1123), Body: below(s, m, 0, origin)}
	if err := out.Encode(document); err != nil {
		return fmt.Errorf("write OPML: %w", err)
	}
	_, err := io.WriteString(w, "\n")
	return err
}

// WriteJSON writes menus as a list.
func WriteJSON(w io.Writer, s *site.Site, menus []site.Menu, origin string) error {
	type menu struct {
		Key     string    `json:"key"`
		Name    string    `json:"name"`
		Entries []outline `json:"entries"`
	}
	all := make([]menu, len(menus))
	for i := range menus {
		all[i] = menu{menus[i].Key, menus[i].Name, below(s, &menus[i], 0, origin)}
	}
	out := json.NewEncoder(w)
	out.SetIndent("", "  ")
	out.SetEscapeHTML(false)
	return out.Encode(all)
}

func below(s *site.Site, m *site.Menu, parent site.EntryID, origin string) []outline {
	var all []outline
	for _, id := range edit.Siblings(m, parent) {
		e := m.Entry(id)
		o := outline{Text: s.EntryLabel(e), Shows: edit.ShowsText(e.Shows), Hint: e.Hint, IsOff: e.Off, Audience: string(e.Audience), Entries: below(s, m, id, origin)}
		if e.Off {
			o.Off = "true"
		}
		switch to := e.Shows.(type) {
		case site.ToWeb:
			o.URL, o.Shows = to.Address, ""
		case site.ToPage:
			o.URL = origin + address.Of(s, to.Page)
		}
		if o.URL != "" {
			o.Type = "link"
		}
		all = append(all, o)
	}
	return all
}
