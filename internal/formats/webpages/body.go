package webpages

import (
	"path"
	"slices"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"vineladder/internal/core/text"
)

// left are elements that no page text has, with the words for what is left out; "" where nobody misses it.
var left = map[atom.Atom]string{
	atom.Script: "", atom.Style: "", atom.Noscript: "", atom.Template: "", atom.Link: "", atom.Meta: "",
	atom.Nav: "", atom.Iframe: "an embedded page", atom.Object: "an embedded object", atom.Embed: "an embedded object",
	atom.Form: "a form", atom.Button: "a button", atom.Input: "a field", atom.Select: "a field", atom.Textarea: "a field",
	atom.Video: "a film", atom.Audio: "a sound", atom.Svg: "a drawing", atom.Math: "a formula", atom.Canvas: "a drawing",
}

// around are elements of a body that stand around what a page says.
var around = map[atom.Atom]bool{atom.Header: true, atom.Footer: true}

// roles of elements that do.
var roles = []string{"navigation", "banner", "contentinfo", "search"}

func emptyBody() *html.Node {
	return &html.Node{Type: html.ElementNode, Data: "div", DataAtom: atom.Div}
}

// take reads what a document says into the page: from its main part, where it says which that is.
func (p *Page) take(root *html.Node) {
	head := find(root, atom.Head)
	if head == nil {
		head = emptyBody()
	}
	if title := find(head, atom.Title); title != nil {
		p.Title = wordsOf(title)
	}
	for meta := range all(head, atom.Meta) {
		if strings.EqualFold(attr(meta, "name"), "description") {
			p.Summary = squeezed(attr(meta, "content"))
		}
	}
	p.body = mainOf(root)
	if p.body.Parent != nil {
		p.body.Parent.RemoveChild(p.body) // the rest of the document is done with
	}
	p.strip(p.body, p.body.DataAtom != atom.Main && attr(p.body, "role") != "main")
	if h1 := find(p.body, atom.H1); h1 != nil {
		p.Label = wordsOf(h1)
	}
	p.anchor()
	if h1 := find(p.body, atom.H1); h1 != nil && p.Label != "" {
		h1.Parent.RemoveChild(h1)
	}
	if p.Label == "" {
		p.Label = p.Title
	}
	if p.Label == "" {
		p.Label = stemOf(p.Path)
	}
	p.Label, p.Title, p.Summary = cut(p.Label, 200), cut(p.Title, 200), cut(p.Summary, 1000)
	if strings.Contains(p.Title, p.Label) { // with the name of the site that it comes from
		p.Title = ""
	}
	p.count()
}

// mainOf finds the part in which a document says what it has to say.
func mainOf(root *html.Node) *html.Node {
	if main := find(root, atom.Main); main != nil {
		return main
	}
	for n := range root.Descendants() {
		if n.Type == html.ElementNode && attr(n, "role") == "main" {
			return n
		}
	}
	if body := find(root, atom.Body); body != nil {
		return body
	}
	return root
}

// strip takes out what no text has, and notes what of it somebody might miss.
func (p *Page) strip(n *html.Node, whole bool) {
	for c := n.FirstChild; c != nil; {
		next := c.NextSibling
		words, isLeft := left[c.DataAtom]
		switch {
		case c.Type == html.CommentNode:
			n.RemoveChild(c)
		case c.Type == html.ElementNode && (isLeft || whole && around[c.DataAtom] ||
			slices.Contains(roles, attr(c, "role")) || isPilcrow(c)):
			if words != "" && !slices.Contains(p.Left, words) {
				p.Left = append(p.Left, words)
			}
			n.RemoveChild(c)
		default:
			p.strip(c, whole)
			plain(c)
		}
		c = next
	}
}

// meant are elements of other documents by those of ours that mean the same.
var meant = map[atom.Atom]atom.Atom{
	atom.B: atom.Strong, atom.I: atom.Em, atom.Cite: atom.Em, atom.Dfn: atom.Em, atom.Var: atom.Em, atom.Tt: atom.Code,
	atom.Kbd: atom.Code, atom.Samp: atom.Code, atom.Strike: atom.S, atom.Del: atom.S,
}

// kept are the attributes that a text can have, or that say where parts begin.
var kept = []string{"href", "src", "alt", "id", "name", "scope", "colspan", "rowspan"}

// boxes are elements that only lay others out; what stands in them by itself is a paragraph.
var boxes = map[atom.Atom]bool{
	atom.Div: true, atom.Section: true, atom.Article: true, atom.Center: true, atom.Address: true, atom.Details: true,
	atom.Summary: true, atom.Header: true, atom.Footer: true, atom.Main: true,
}

// plain has an element, whose content is plain, be one that a text can have.
func plain(n *html.Node) {
	if n.Type != html.ElementNode {
		return
	}
	n.Attr = slices.DeleteFunc(n.Attr, func(a html.Attribute) bool { return !slices.Contains(kept, a.Key) })
	if to := meant[n.DataAtom]; to != 0 {
		n.DataAtom, n.Data = to, to.String()
	}
	switch {
	case n.DataAtom == atom.Span && len(n.Attr) == 0 && n.Parent != nil:
		unwrap(n)
	case boxes[n.DataAtom] && isParagraph(n):
		n.DataAtom, n.Data = atom.P, "p"
	}
}

// isParagraph says whether an element has words, and nothing that begins a line of its own.
func isParagraph(n *html.Node) bool {
	said := false
	for c := range n.Descendants() {
		if c.Type == html.TextNode {
			said = said || strings.TrimSpace(c.Data) != ""
		} else if !inLine[c.DataAtom] {
			return false
		}
	}
	return said
}

var inLine = map[atom.Atom]bool{
	atom.A: true, atom.Strong: true, atom.Em: true, atom.S: true, atom.Code: true, atom.Br: true, atom.Img: true,
	atom.Span: true, atom.Sub: true, atom.Sup: true, atom.Small: true, atom.U: true, atom.Q: true, atom.Abbr: true,
}

// unwrap leaves of an element what it holds.
func unwrap(n *html.Node) {
	for c := n.FirstChild; c != nil; c = n.FirstChild {
		n.RemoveChild(c)
		n.Parent.InsertBefore(c, n)
	}
	n.Parent.RemoveChild(n)
}

// isPilcrow recognises the link to itself that programs put beside a heading.
func isPilcrow(n *html.Node) bool {
	return n.DataAtom == atom.A && strings.HasPrefix(attr(n, "href"), "#") &&
		slices.Contains([]string{"¶", "#", "§", "🔗"}, wordsOf(n))
}

var isHeading = map[atom.Atom]bool{
	atom.H1: true, atom.H2: true, atom.H3: true, atom.H4: true, atom.H5: true, atom.H6: true,
}

// anchor gives each heading an address, and finds for every id of the file the heading to which it leads: its own, the
// next where nothing stands between, else the one before.
func (p *Page) anchor() {
	taken := map[string]bool{}
	last := ""
	var waiting []string
	settle := func(at string) {
		for _, id := range waiting {
			if _, known := p.parts[id]; !known {
				p.parts[id] = at
			}
		}
		waiting = nil
	}
	for n := range p.body.Descendants() {
		switch {
		case n.Type == html.TextNode:
			if strings.TrimSpace(n.Data) != "" && !within(n, isHeading) {
				settle(last)
			}
			continue
		case n.Type != html.ElementNode:
			continue
		}
		own := attr(n, "id")
		if own == "" && n.DataAtom == atom.A {
			own = attr(n, "name")
		}
		if own != "" {
			waiting = append(waiting, own)
		}
		if !isHeading[n.DataAtom] {
			continue
		}
		if n.DataAtom == atom.H1 { // it becomes the label
			last = ""
		} else {
			last = freeSegment(append(waiting, wordsOf(n))[0], taken)
			for !text.IsAnchor(last) {
				last = freeSegment("part "+last, taken)
			}
			set(n, "id", last)
		}
		settle(last)
	}
	settle(last)
}

func (p *Page) count() {
	for n := range p.body.Descendants() {
		switch {
		case isHeading[n.DataAtom]:
			p.Headings++
		case n.DataAtom == atom.Ul || n.DataAtom == atom.Ol || n.DataAtom == atom.Dl:
			p.Lists++
		case n.DataAtom == atom.Table:
			p.Tables++
		}
	}
}

func all(root *html.Node, of atom.Atom) func(func(*html.Node) bool) {
	return func(yield func(*html.Node) bool) {
		for n := range root.Descendants() {
			if n.Type == html.ElementNode && n.DataAtom == of && !yield(n) {
				return
			}
		}
	}
}

func find(root *html.Node, of atom.Atom) *html.Node {
	for n := range all(root, of) {
		return n
	}
	return nil
}

func within(n *html.Node, of map[atom.Atom]bool) bool {
	for a := range n.Ancestors() {
		if of[a.DataAtom] {
			return true
		}
	}
	return false
}

func wordsOf(n *html.Node) string {
	var all strings.Builder
	for c := range n.Descendants() {
		if c.Type == html.TextNode {
			all.WriteString(c.Data)
		}
	}
	return squeezed(all.String())
}

func squeezed(words string) string { return strings.Join(strings.Fields(words), " ") }

func cut(words string, most int) string {
	runes := []rune(words)
	if len(runes) <= most {
		return words
	}
	return string(runes[:most-1]) + "…"
}

func attr(n *html.Node, key string) string {
	for _, a := range n.Attr {
		if a.Key == key && a.Namespace == "" {
			return a.Val
		}
	}
	return ""
}

func set(n *html.Node, key, value string) {
	for i := range n.Attr {
		if n.Attr[i].Key == key && n.Attr[i].Namespace == "" {
			n.Attr[i].Val = value
			return
		}
	}
	n.Attr = append(n.Attr, html.Attribute{Key: key, Val: value})
}

// dirOf is the folder of a page, from which its links lead.
func dirOf(p *Page) string {
	if p.Path == "" {
		return p.Dir
	}
	return path.Dir(p.Path)
}
