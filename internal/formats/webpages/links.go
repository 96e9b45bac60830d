package webpages

import (
	"net/url"
	"path"
	"slices"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// A link is one of a page's text to another page of the folder or a file of it.
type link struct {
	node *html.Node
	page *Page  // nil: it leads to a file
	file string // by its path in the folder
	part string // id in the page to which it leads
}

// follow finds where the links and pictures of a page lead, and notes which files it shows or links. What leads to
// nothing leaves its words.
func (f *Folder) follow(p *Page, byPath map[string]*Page, others, shown map[string]bool) {
	for _, n := range slices.Collect(p.body.Descendants()) {
		if n.Type != html.ElementNode || n.DataAtom != atom.A && n.DataAtom != atom.Img {
			continue
		}
		key := "href"
		if n.DataAtom == atom.Img {
			key = "src"
			p.Pictures++
		}
		raw := strings.TrimSpace(attr(n, key))
		at, err := url.Parse(raw)
		if err == nil && (at.Scheme != "" || at.Host != "") && n.DataAtom == atom.A {
			p.Beyond++
			continue
		}
		if n.DataAtom == atom.A && raw == "" { // a place in the text, no link
			continue
		}
		made, found := link{node: n}, false
		if err == nil && at.Scheme == "" && at.Host == "" {
			made, found = f.target(p, n, at, byPath, others)
		}
		if !found || made.page == nil && n.DataAtom == atom.A && made.file == "" {
			p.Dead = append(p.Dead, raw)
			unlink(n)
			continue
		}
		if made.file != "" {
			shown[made.file] = true
		}
		if n.DataAtom == atom.A {
			p.Within++
		}
		p.links = append(p.links, made)
	}
}

// target finds what an address in a page leads to: a page, a folder's page, or a file.
func (f *Folder) target(
	p *Page, n *html.Node, at *url.URL, byPath map[string]*Page, others map[string]bool,
) (link, bool) {
	made := link{node: n, part: at.Fragment}
	if at.Path == "" {
		made.page = p
		return made, n.DataAtom == atom.A
	}
	to := path.Join(dirOf(p), at.Path)
	if strings.HasPrefix(at.Path, "/") {
		to = path.Clean(strings.TrimPrefix(at.Path, "/"))
	}
	if n.DataAtom == atom.A {
		if made.page = byPath[to]; made.page == nil {
			made.page = f.byDir[to]
		}
		if made.page != nil {
			return made, true
		}
	}
	if others[to] {
		made.file = to
	}
	return made, made.file != ""
}

// unlink leaves of a link its words, of a picture its description.
func unlink(n *html.Node) {
	if n.DataAtom == atom.Img {
		if words := attr(n, "alt"); words != "" {
			n.Parent.InsertBefore(&html.Node{Type: html.TextNode, Data: words}, n)
		}
	}
	unwrap(n)
}
