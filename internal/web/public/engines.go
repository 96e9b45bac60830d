package public

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"vineladder/internal/core/address"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/picture"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
)

// Where search engines ask what there is to find, and what they may read.
const (
	sitemapPath = "/sitemap.xml"
	robotsPath  = "/robots.txt"
)

const (
	xmlWords  = "application/xml; charset=utf-8"
	textWords = "text/plain; charset=utf-8"
)

// sitemapLimit is the number of addresses in one file. Source: sitemaps.org protocol 0.9, “Using Sitemap index files”.
const sitemapLimit = 50_000

const sitemapSpace = `xmlns="http://www.sitemaps.org/schemas/sitemap/0.9"`

// partKey asks for a part of the sitemap, from 1, where it has several.
const partKey = "part"

// sitemap answers with the addresses of the pages that everybody reaches, or where they are more than one file holds
// with a list of such files. It says nothing of when a page changed, so that no edit shows that nobody sees.
func (r *Renderer) sitemap(q Request) Response {
	if grant.ClosedTo(q.Site, nil) {
		return Response{Status: http.StatusServiceUnavailable, Type: textWords, Body: []byte("The site is closed.\n")}
	}
	query, _ := url.ParseQuery(q.Query) // what can't be read asks for the first
	part, _ := strconv.Atoi(query.Get(partKey))
	var out bytes.Buffer
	n := 0
	put := func(tag, at string) {
		fmt.Fprintf(&out, "<%s><loc>", tag)
		_ = xml.EscapeText(&out, []byte(at)) // to memory
		fmt.Fprintf(&out, "</loc></%s>\n", tag)
	}
	// The first walk writes the first part while it counts; the others are written by walks of their own.
	wanted := max(part, 1)
	reach.ForEngines(q.Site, reach.Lens{At: q.Lens.At}, func(p *site.Page) {
		if n/sitemapLimit == wanted-1 {
			put("url", r.origin+address.Of(q.Site, p.ID))
		}
		n++
	})
	parts := (n + sitemapLimit - 1) / sitemapLimit
	switch {
	case query.Has(partKey) && (part < 1 || part > max(parts, 1)):
		return Response{Status: http.StatusNotFound, Type: textWords, Body: []byte("There is no such part.\n")}
	case query.Has(partKey) || parts <= 1:
		return xmlOf("urlset", out.Bytes())
	}
	out.Reset()
	for k := range parts {
		put("sitemap", fmt.Sprintf("%s%s?%s=%d", r.origin, sitemapPath, partKey, k+1))
	}
	return xmlOf("sitemapindex", out.Bytes())
}

func xmlOf(tag string, inside []byte) Response {
	body := fmt.Appendf(nil, "%s<%s %s>\n%s</%s>\n", xml.Header, tag, sitemapSpace, inside, tag)
	return Response{Status: http.StatusOK, Type: xmlWords, Body: body}
}

// robots answers with what search engines may read, as the settings have it (RFC 9309), and where the sitemap is.
func (r *Renderer) robots(q Request) Response {
	rules := strings.TrimSpace(q.Site.Settings().Robots)
	if rules == "" {
		rules = "User-agent: *\nAllow: /"
	}
	body := fmt.Sprintf("%s\n\nSitemap: %s%s\n", rules, r.origin, sitemapPath)
	return Response{Status: http.StatusOK, Type: textWords, Body: []byte(body)}
}

// notIndexed keeps an answer out of search engines.
const notIndexed = "noindex"

// pictureOf gives the address of the first picture in a text that the visitor reaches; "" if there is none.
func (r *Renderer) pictureOf(q Request, kept string) string {
	panel := reach.NewPanel(q.Lens)
	for _, id := range text.Pictures(kept) {
		if p := q.Site.Page(id); p != nil && p.BytesOf().IsPicture() && panel.At(q.Site, id).Reachable() != 0 {
			return r.origin + picture.Of(p, "", "").Src
		}
	}
	return ""
}
