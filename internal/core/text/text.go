// Package text decides what page text may hold: it sanitises what an editor sends and brings it into one shape,
// recognises links to the site's own pages and keeps them by identity, and turns them back into addresses for a
// visitor (rules 3.7 and 12.1).
package text

import (
	"fmt"
	"net/url"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/microcosm-cc/bluemonday"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"vineladder/internal/core/address"
	"vineladder/internal/core/picture"
	"vineladder/internal/core/site"
)

// Limit is the length of the longest page text, in bytes.
const Limit = 512 << 10

// elements are what page text may hold besides links and pictures: blocks, emphasis, lists, tables, figures and
// notices. Headings come from pages where they begin at any level.
var elements = []string{
	"p", "br", "h1", "h2", "h3", "h4", "h5", "h6", "ul", "ol", "li", "dl", "dt", "dd", "blockquote", "aside",
	"strong", "em", "s", "code", "pre", "hr", "table", "caption", "thead", "tbody", "tr", "th", "td", "figure",
	"figcaption",
}

// policy lets through what page text may hold, and nothing that runs or looks otherwise.
func policy() *bluemonday.Policy {
	p := bluemonday.NewPolicy()
	p.AllowElements(elements...)
	p.AllowAttrs("href").OnElements("a")
	p.AllowAttrs("src", "alt").OnElements("img")
	p.AllowAttrs("id").Matching(anchor).OnElements("h1", "h2", "h3", "h4", "h5", "h6")
	p.AllowAttrs("scope").Matching(regexp.MustCompile(`^(col|row)$`)).OnElements("th")
	p.AllowAttrs("colspan", "rowspan").Matching(regexp.MustCompile(`^[1-9][0-9]?$`)).OnElements("th", "td")
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

// Clean gives safe HTML in the one shape in which text is kept. Links to the site's own pages, and pictures, are kept
// by identity, as in "page:12?query#fragment"; pictures from elsewhere go. Text without any content gives "". now
// decides which old addresses are the site's own.
func (c *Cleaner) Clean(s *site.Site, raw string, now time.Time) string {
	clean := c.policy.Sanitize(strings.ToValidUTF8(strings.ReplaceAll(raw, "\x00", ""), ""))
	clean = settled(clean, func(in *html.Node) {
		c.own(s, in, now)
		(&shaper{level: firstHeading - 1, ids: map[string]bool{}}).shaped(in)
	})
	meant := strings.Contains(clean, "<hr") || strings.Contains(clean, "<img")
	if strings.TrimSpace(strings.ReplaceAll(plain(clean), "\u00a0", " ")) == "" && !meant {
		return ""
	}
	return clean
}

// own turns addresses of the site's own into identities, and takes out pictures that are none of its files.
func (c *Cleaner) own(s *site.Site, in *html.Node, now time.Time) {
	for n := in.FirstChild; n != nil; {
		next := n.NextSibling
		c.own(s, n, now)
		switch n.DataAtom {
		case atom.A:
			for i := range n.Attr {
				n.Attr[i].Val = c.recognise(s, n.Attr[i].Val, now)
			}
			if len(n.Attr) == 0 {
				unwrap(n)
			}
		case atom.Img:
			c.ownPicture(s, n, now)
		}
		n = next
	}
}

// ownPicture keeps a picture by the identity of its file, which may be in the bin.
func (c *Cleaner) ownPicture(s *site.Site, n *html.Node, now time.Time) {
	id, _, _ := pageLink(c.recognise(s, attribute(n, "src"), now))
	if p := s.Page(id); p == nil || !p.BytesOf().IsPicture() {
		n.Parent.RemoveChild(n)
		return
	}
	n.Attr = []html.Attribute{
		{Key: "src", Val: identity(id)},
		{Key: "alt", Val: strings.TrimSpace(attribute(n, "alt"))},
	}
}

func identity(id site.PageID) string { return "page:" + strconv.FormatInt(int64(id), 10) }

// settled reads HTML as a browser does, has it shaped, and writes it with every element closed, so that nothing of it
// reaches beyond its place. It goes on until writing and reading agree.
func settled(source string, shape func(*html.Node)) string {
	body := &html.Node{Type: html.ElementNode, Data: "body", DataAtom: atom.Body}
	bound := 4*len(source) + 4096 // reading repeats emphasis that is wrongly nested in each block
	for range 8 {
		nodes, err := html.ParseFragment(strings.NewReader(source), body)
		if err != nil {
			return html.EscapeString(plain(source))
		}
		holder := &html.Node{Type: html.ElementNode, Data: "div", DataAtom: atom.Div}
		for _, node := range nodes {
			holder.AppendChild(node)
		}
		shape(holder)
		var out strings.Builder
		for node := holder.FirstChild; node != nil; node = node.NextSibling {
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
	return identity(found.Page) + tail(u)
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

// A Reader is what a visitor gets of the pages that a text points at.
type Reader struct {
	// Link gives a page's address, and false where the visitor can't reach it: then the link is its words alone.
	Link func(site.PageID) (string, bool)
	// Picture gives the picture of a file as words in place of the text's own have it; false: the words stand for it.
	Picture func(id site.PageID, words string) (picture.Picture, bool)
	// Part has the text stand on a page beside others: its headings have no address of their own.
	Part bool
}

// Render turns a kept text into what a visitor gets.
func Render(clean string, by Reader) string {
	if !strings.Contains(clean, `="page:`) && !(by.Part && strings.Contains(clean, ` id="`)) {
		return clean
	}
	return mapped(clean, func(token *html.Token) (written string, keep bool) {
		switch {
		case token.Data == "a":
			return by.link(valueOf(token, "href"))
		case token.Data == "img":
			return by.picture(valueOf(token, "src"), valueOf(token, "alt")), true
		case by.Part && headings[token.Data]:
			return "<" + token.Data + ">", true
		}
		return "", true
	})
}

var headings = map[string]bool{"h2": true, "h3": true, "h4": true}

func (r Reader) link(href string) (string, bool) {
	if id, after, isPage := pageLink(href); isPage {
		to, reached := r.Link(id)
		if !reached {
			return "", false
		}
		href = to + after
	} else if strings.HasPrefix(href, "page:") {
		return "", false
	}
	return `<a href="` + html.EscapeString(href) + `">`, true
}

func (r Reader) picture(src, words string) string {
	id, _, _ := pageLink(src)
	shown, there := r.Picture(id, words)
	if !there {
		return html.EscapeString(words)
	}
	out := `<img src="` + html.EscapeString(shown.Src) + `"`
	if shown.Set != "" {
		out += ` srcset="` + html.EscapeString(shown.Set) + `" sizes="auto, 100vw"`
	}
	out += ` alt="` + html.EscapeString(words) + `"`
	if shown.Width > 0 {
		out += fmt.Sprintf(` width="%d" height="%d"`, shown.Width, shown.Height)
	}
	return out + ` loading="lazy">`
}

// Repoint turns links to pages that were copied into links to their copies; all else stays to the letter.
func Repoint(clean string, made map[site.PageID]site.PageID) string {
	return mapped(clean, func(token *html.Token) (string, bool) {
		href := valueOf(token, "href")
		if id, after, isPage := pageLink(href); token.Data == "a" && isPage && made[id] != 0 {
			return `<a href="` + html.EscapeString(identity(made[id])+after) + `">`, true
		}
		return "", true
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

// Links gives the pages to which a text links, and the files that it shows, each once, in the order of the text.
func Links(clean string) []site.PageID {
	var pages []site.PageID
	if !strings.Contains(clean, `="page:`) {
		return nil
	}
	mapped(clean, func(token *html.Token) (string, bool) {
		for _, key := range []string{"href", "src"} {
			if id, _, isPage := pageLink(valueOf(token, key)); isPage && !slices.Contains(pages, id) {
				pages = append(pages, id)
			}
		}
		return "", true
	})
	return pages
}

// Pictures gives the files that a text shows as pictures, in its order.
func Pictures(clean string) []site.PageID {
	var files []site.PageID
	if !strings.Contains(clean, `src="page:`) {
		return nil
	}
	mapped(clean, func(token *html.Token) (string, bool) {
		if id, _, isPage := pageLink(valueOf(token, "src")); isPage {
			files = append(files, id)
		}
		return "", true
	})
	return files
}

// Away gives the addresses to which a text links that are no pages of the site, each once, in the order of the text.
func Away(clean string) []string {
	var all []string
	mapped(clean, func(token *html.Token) (string, bool) {
		href := valueOf(token, "href")
		if href != "" && !strings.HasPrefix(href, "page:") && !strings.HasPrefix(href, "#") &&
			!slices.Contains(all, href) {
			all = append(all, href)
		}
		return "", true
	})
	return all
}

func valueOf(token *html.Token, key string) string {
	for _, attr := range token.Attr {
		if attr.Key == key {
			return attr.Val
		}
	}
	return ""
}

// mapped writes a kept text with some of its opening tags written otherwise: "" leaves one as it is. A link that is not
// kept leaves its words.
func mapped(source string, to func(*html.Token) (written string, keep bool)) string {
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
		isLink := token.Data == "a"
		switch {
		case kind == html.EndTagToken && isLink && len(dropped) > 0:
			if last := len(dropped) - 1; !dropped[last] {
				out.WriteString(raw)
			}
			dropped = dropped[:len(dropped)-1]
			continue
		case kind != html.StartTagToken && kind != html.SelfClosingTagToken:
			out.WriteString(raw)
			continue
		}
		written, keep := to(&token)
		if isLink {
			dropped = append(dropped, !keep)
		}
		switch {
		case !keep:
		case written != "":
			out.WriteString(written)
		default:
			out.WriteString(raw)
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
