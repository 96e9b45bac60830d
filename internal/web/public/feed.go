package public

import (
	"cmp"
	"encoding/xml"
	"fmt"
	"net/http"
	"time"

	"vineladder/internal/core/address"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/site"
)

// feedKey asks for a list as a feed; there is one form.
const (
	feedKey  = "feed"
	feedAtom = "atom"
)

const atomWords = "application/atom+xml; charset=utf-8"

// An atomFeed and its parts are what a feed is made of. Source: RFC 4287, 4.1 and 4.2.
type atomFeed struct {
	XMLName xml.Name    `xml:"http://www.w3.org/2005/Atom feed"`
	Lang    string      `xml:"xml:lang,attr,omitempty"`
	ID      string      `xml:"id"`
	Title   string      `xml:"title"`
	Updated string      `xml:"updated"`
	Author  string      `xml:"author>name"`
	Links   []atomLink  `xml:"link"`
	Entries []atomEntry `xml:"entry"`
}

type atomLink struct {
	Rel  string `xml:"rel,attr"`
	Type string `xml:"type,attr"`
	Href string `xml:"href,attr"`
}

type atomEntry struct {
	ID      string   `xml:"id"`
	Title   string   `xml:"title"`
	Updated string   `xml:"updated"` // when visitors first found it, which no later edit changes
	Link    atomLink `xml:"link"`
}

// feed is a list as Atom, whose entries keep their names wherever the pages move.
func (r *Renderer) feed(q Request, id site.PageID) (Response, error) {
	s, at := q.Site, r.origin+q.Base+address.Of(q.Site, id)
	own := withQuery(at, feedQuery(q.narrowing))
	made := atomFeed{
		Lang: s.Settings().Language, ID: s.Page(id).IRI(r.origin) + "?" + feedQuery(q.narrowing),
		Title: s.Page(id).Heading(), Author: cmp.Or(s.Settings().Name, r.origin),
		Links: []atomLink{
			{"self", "application/atom+xml", own}, {"alternate", "text/html", withQuery(at, q.narrowing.Query(1))},
		},
		Updated: atomMoment(time.Unix(0, 0)), // of a feed without entries, which must say something
	}
	for _, hit := range listing.Newest(s, feedHits(q, id)) {
		p := s.Page(hit)
		made.Entries = append(made.Entries, atomEntry{
			ID: p.IRI(r.origin), Title: p.Heading(), Updated: atomMoment(p.FirstOnline),
			Link: atomLink{"alternate", "text/html", r.origin + q.Base + address.Of(s, hit)},
		})
	}
	if len(made.Entries) > 0 {
		made.Updated = made.Entries[0].Updated
	}
	body, err := xml.MarshalIndent(made, "", " ")
	if err != nil {
		return Response{}, fmt.Errorf("write the feed of page %d: %w", id, err)
	}
	return Response{Status: http.StatusOK, Type: atomWords, Body: append([]byte(xml.Header), body...), Paged: true}, nil
}

// feedHits gives what a page lists or gathers to a visitor.
func feedHits(q Request, id site.PageID) []site.PageID {
	if asked, lists := listing.Of(q.Site, id); lists {
		return hitsOf(q, id, asked)
	}
	return gathered(q, id).Pages
}

// feedQuery is the one query that asks for a list as a feed.
func feedQuery(n listing.Narrowing) string { return n.With(feedKey, feedAtom).Query(1) }

func atomMoment(at time.Time) string { return at.UTC().Format(time.RFC3339) }
