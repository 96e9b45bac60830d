// Package text decides what page text may hold: it sanitises what an editor sends, recognises links to the site's own
// pages and keeps them by identity, and turns them back into addresses for a visitor (rules 3.7).
package text

import (
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/microcosm-cc/bluemonday"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"vineladder/internal/core/address"
	"vineladder/internal/core/site"
)

// Limit is the length of the longest page text, in bytes.
const Limit = 512 << 10

// policy is what page text may hold: blocks, emphasis, lists, tables and links. Headings start at level 2, below the
// page's own.
func policy() *bluemonday.Policy {
	p := bluemonday.NewPolicy()
	p.AllowElements(
		"p",
		"br",
		"h2",
		"h3",
		"h4",
		"ul",
		"ol",
		"li",
		"blockquote",
		"strong",
		"em",
		"s",
		"code",
		"pre",
		"hr",
		"table",
		"thead",
		"tbody",
		"tr",
		"th",
		"td",
	)
	p.AllowAttrs("href").OnElements("a")
	p.AllowURLSchemes("http", "https", "mailto", "tel", "page")
	p.AllowRelativeURLs(true)
	p.RequireParseableURLs(true)
	return p
}

// A Cleaner sanitises text for one site.
type Cleaner struct {
	policy *bluemonday.Policy
	hosts  []string
}

// NewCleaner makes a cleaner; links to the given hosts are the site's own.
func NewCleaner(hosts ...string) *Cleaner { return &Cleaner{policy(), hosts} }

// Clean gives safe HTML in which links to the site's own pages are kept by identity, as in "page:12?query#fragment".
// Text without any content gives "". now decides which old addresses are the site's own.
func (c *Cleaner) Clean(s *site.Site, raw string, now time.Time) string {
	clean := balanced(c.policy.Sanitize(strings.ToValidUTF8(strings.ReplaceAll(raw, "\x00", ""), "")))
	clean = mapLinks(clean, func(href string) (string, bool) { return c.recognise(s, href, now), true })
	if strings.TrimSpace(strings.ReplaceAll(plain(clean), "\u00a0", " ")) == "" && !strings.Contains(clean, "<hr") {
		return ""
	}
	return clean
}

// balanced reads HTML as a browser does, and writes it with every element closed, so that nothing of it reaches beyond
// its place. It goes on until writing and reading agree.
func balanced(source string) string {
	body := &html.Node{Type: html.ElementNode, Data: "body", DataAtom: atom.Body}
	bound := 4*len(source) + 4096 // reading repeats emphasis that is wrongly nested in each block
	for range 8 {
		nodes, err := html.ParseFragment(strings.NewReader(source), body)
		if err != nil {
			return html.EscapeString(plain(source))
		}
		var out strings.Builder
		for _, node := range nodes {
			if err := html.Render(&out, node); err != nil {
				return html.EscapeString(plain(source))
			}
		}
		if out.String() == source {
			return source
		}
		if source = out.String(); len(source) > bound {
			break
		}
	}
	return html.EscapeString(plain(source))
}

// recognise turns an address of the site's own into the page's identity; anything else stays.
func (c *Cleaner) recognise(s *site.Site, href string, now time.Time) string {
	u, err := url.Parse(href)
	if err != nil || u.Scheme == "page" || u.Opaque != "" {
		return href
	}
	own := u.Host == ""
	for _, host := range c.hosts {
		own = own || strings.EqualFold(u.Host, host)
	}
	path, err := address.Normal(u.EscapedPath())
	if !own || err != nil || u.Host == "" && u.Path == "" {
		return href
	}
	found := address.Resolve(s, path, now)
	if found.Page == 0 || found.Gone {
		return href
	}
	return "page:" + strconv.FormatInt(int64(found.Page), 10) + tail(u)
}

// tail is a link's query and fragment.
func tail(u *url.URL) string {
	out := ""
	if u.RawQuery != "" {
		out = "?" + u.RawQuery
	}
	if u.Fragment != "" {
		out += "#" + u.EscapedFragment()
	}
	return out
}

// Render turns kept links into addresses. link gives a page's address, and false where the visitor can't reach it: then
// the link renders as plain text.
func Render(clean string, link func(site.PageID) (string, bool)) string {
	if !strings.Contains(clean, `href="page:`) {
		return clean
	}
	return mapLinks(clean, func(href string) (string, bool) {
		if !strings.HasPrefix(href, "page:") {
			return href, true
		}
		id, after, ok := pageLink(href)
		if !ok {
			return "", false
		}
		to, ok := link(id)
		return to + after, ok
	})
}

// Repoint turns links to pages that were copied into links to their copies; all else stays to the letter.
func Repoint(clean string, made map[site.PageID]site.PageID) string {
	return mapLinks(clean, func(href string) (string, bool) {
		if id, after, isPage := pageLink(href); isPage && made[id] != 0 {
			return "page:" + strconv.FormatInt(int64(made[id]), 10) + after, true
		}
		return href, true
	})
}

// pageLink takes a kept link apart: the page, and the query and fragment behind it.
func pageLink(href string) (id site.PageID, after string, ok bool) {
	number, isPage := strings.CutPrefix(href, "page:")
	if i := strings.IndexAny(number, "?#"); i >= 0 {
		number, after = number[:i], number[i:]
	}
	n, err := strconv.ParseInt(number, 10, 64)
	return site.PageID(n), after, isPage && err == nil
}

// Links gives the pages to which a text links, each once, in the order of the text.
func Links(clean string) []site.PageID {
	var pages []site.PageID
	if !strings.Contains(clean, `href="page:`) {
		return nil
	}
	mapLinks(clean, func(href string) (string, bool) {
		if id, _, isPage := pageLink(href); isPage && !slices.Contains(pages, id) {
			pages = append(pages, id)
		}
		return href, true
	})
	return pages
}

// mapLinks rewrites the href of each link, or takes the link away and leaves its words.
func mapLinks(source string, to func(string) (string, bool)) string {
	var out strings.Builder
	var dropped []bool // for each open link
	z := html.NewTokenizer(strings.NewReader(source))
	for {
		kind := z.Next()
		if kind == html.ErrorToken {
			return out.String()
		}
		raw := string(z.Raw())
		token := z.Token()
		if token.Data != "a" || kind != html.StartTagToken && kind != html.EndTagToken {
			out.WriteString(raw)
			continue
		}
		if kind == html.EndTagToken {
			if n := len(dropped); n > 0 {
				if !dropped[n-1] {
					out.WriteString("</a>")
				}
				dropped = dropped[:n-1]
			}
			continue
		}
		href, keep := "", false
		for _, attr := range token.Attr {
			if attr.Key == "href" {
				href, keep = to(attr.Val)
			}
		}
		dropped = append(dropped, !keep)
		if keep {
			out.WriteString(`<a href="` + html.EscapeString(href) + `">`)
		}
	}
}

func plain(source string) string {
	var out strings.Builder
	z := html.NewTokenizer(strings.NewReader(source))
	for {
		switch z.Next() {
		case html.ErrorToken:
			return out.String()
		case html.TextToken:
			out.Write(z.Text())
		}
	}
}
