package text

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"vineladder/internal/core/address"
)

// A shaper puts parsed text into the one shape in which it is kept (rules 12.1).
type shaper struct {
	level int             // of the last heading
	ids   map[string]bool // of headings so far
}

// shaped brings the children of a node into shape: headings go down one level at a time and have an address of their
// own, cells that head a row or column say so, figures have one picture, and nothing is empty that has no meaning
// empty.
func (sh *shaper) shaped(in *html.Node) {
	for n := in.FirstChild; n != nil; {
		next := n.NextSibling
		if n.Type == html.ElementNode {
			sh.shaped(n)
			next = sh.element(n, next)
		}
		n = next
	}
}

// element shapes one element whose children are in shape, and gives the one to go on with.
func (sh *shaper) element(n, next *html.Node) *html.Node {
	if phrasing[n.DataAtom] && holdsBlock(n) {
		if n.DataAtom == atom.A {
			linkWithin(n, n.Attr)
		}
		unwrap(n)
		return next
	}
	switch n.DataAtom {
	case atom.Ul, atom.Ol:
		wrapped(n, atom.Li)
	case atom.Dl:
		wrapped(n, atom.Dd, atom.Dt)
	case atom.Li:
		bare(n)
		if n.Parent.DataAtom != atom.Ul && n.Parent.DataAtom != atom.Ol {
			unwrap(n)
		}
	case atom.Dt, atom.Dd:
		if n.Parent.DataAtom != atom.Dl {
			unwrap(n)
		}
	case atom.H1, atom.H2, atom.H3, atom.H4, atom.H5, atom.H6:
		if words(n) == "" {
			unwrap(n)
			return next
		}
		sh.heading(n)
	case atom.Table:
		headed(n)
	case atom.P:
		if n.FirstChild == nil {
			n.Parent.RemoveChild(n)
		}
	case atom.Td:
		bare(n)
	case atom.Th:
		bare(n)
		scope(n)
	case atom.Figure:
		if !isFigure(n) {
			unwrap(n)
		}
	case atom.Figcaption:
		if n.Parent == nil || n.Parent.DataAtom != atom.Figure || n.FirstChild == nil {
			unwrap(n)
		}
	case atom.Caption, atom.Aside:
		if n.FirstChild == nil {
			n.Parent.RemoveChild(n)
		}
	case atom.A:
		if n.FirstChild == nil {
			n.Parent.RemoveChild(n)
		}
	}
	return next
}

// phrasing are the elements that hold words and nothing that begins a line of its own (HTML, 3.2.5.2.5).
var phrasing = atoms(
	atom.H1,
	atom.H2,
	atom.H3,
	atom.H4,
	atom.H5,
	atom.H6,
	atom.P,
	atom.Strong,
	atom.Em,
	atom.S,
	atom.Code,
	atom.Pre,
	atom.A,
)

// blocks begin a line of their own.
var blocks = atoms(
	atom.H1,
	atom.H2,
	atom.H3,
	atom.H4,
	atom.H5,
	atom.H6,
	atom.P,
	atom.Ul,
	atom.Ol,
	atom.Li,
	atom.Dl,
	atom.Dt,
	atom.Dd,
	atom.Blockquote,
	atom.Aside,
	atom.Pre,
	atom.Hr,
	atom.Table,
	atom.Figure,
	atom.Figcaption,
)

func atoms(list ...atom.Atom) map[atom.Atom]bool {
	made := map[atom.Atom]bool{}
	for _, one := range list {
		made[one] = true
	}
	return made
}

func holdsBlock(n *html.Node) bool {
	for child := n.FirstChild; child != nil; child = child.NextSibling {
		if blocks[child.DataAtom] || holdsBlock(child) {
			return true
		}
	}
	return false
}

// wrapped puts what stands in a list and is no part of one into parts of its own.
func wrapped(list *html.Node, part atom.Atom, others ...atom.Atom) {
	for n := list.FirstChild; n != nil; {
		next := n.NextSibling
		switch {
		case n.DataAtom == part, slices.Contains(others, n.DataAtom) && n.Type == html.ElementNode:
		case n.Type == html.TextNode && strings.TrimSpace(n.Data) == "":
		default:
			made := &html.Node{Type: html.ElementNode, Data: part.String(), DataAtom: part}
			list.InsertBefore(made, n)
			list.RemoveChild(n)
			made.AppendChild(n)
		}
		n = next
	}
}

// heading lifts a heading that skips a level, and gives it the address that its words make unless it has one.
func (sh *shaper) heading(n *html.Node) {
	level := min(max(int(n.Data[1]-'0'), firstHeading), sh.level+1, lastHeading)
	sh.level = level
	n.Data = fmt.Sprintf("h%d", level)
	n.DataAtom = atom.Lookup([]byte(n.Data))
	id := attribute(n, "id")
	if !IsAnchor(id) || sh.ids[id] {
		wanted := address.Segment(words(n))
		id = wanted
		for k := 2; !IsAnchor(id) || sh.ids[id]; k++ {
			id = address.Suffixed(wanted, k)
		}
	}
	sh.ids[id] = true
	n.Attr = []html.Attribute{{Key: "id", Val: id}}
}

// Headings begin below the page's own and go three levels down.
const firstHeading, lastHeading = 2, 4

// anchor is what the address of a heading looks like.
var anchor = regexp.MustCompile(`^[a-z0-9]+(?:-[a-z0-9]+)*$`)

// taken are the addresses that parts of every page have.
var taken = []string{"content", "name", "login", "password", "code", "old", "link-password"}

// IsAnchor says whether a heading can have an address.
func IsAnchor(id string) bool {
	return len(id) <= address.SegmentLimit && anchor.MatchString(id) && !slices.Contains(taken, id) &&
		!strings.HasPrefix(id, "fold-")
}

// parts are what tables, lists and figures are made of.
var parts = atoms(atom.Thead, atom.Tbody, atom.Tr, atom.Td, atom.Th, atom.Caption, atom.Dt, atom.Dd, atom.Figcaption)

// linkWithin has a link that holds blocks lead from all that they hold instead.
func linkWithin(n *html.Node, to []html.Attribute) {
	var link *html.Node // to which the words belong that are read
	for c := n.FirstChild; c != nil; {
		next := c.NextSibling
		switch {
		case c.Type == html.ElementNode && (blocks[c.DataAtom] || parts[c.DataAtom] || holdsBlock(c)):
			link = nil
			linkWithin(c, to)
		case link == nil && (c.Type != html.TextNode || strings.TrimSpace(c.Data) == ""):
			if c.Type == html.ElementNode && c.DataAtom != atom.Br {
				link = linked(c, to)
			}
		case link == nil:
			link = linked(c, to)
		default:
			n.RemoveChild(c)
			link.AppendChild(c)
		}
		c = next
	}
}

// linked puts a link around a node.
func linked(c *html.Node, to []html.Attribute) *html.Node {
	link := &html.Node{Type: html.ElementNode, Data: "a", DataAtom: atom.A, Attr: slices.Clone(to)}
	c.Parent.InsertBefore(link, c)
	c.Parent.RemoveChild(c)
	link.AppendChild(c)
	return link
}

// bare takes the paragraph away that is all that a cell or an item has.
func bare(n *html.Node) {
	if only := n.FirstChild; only != nil && only.NextSibling == nil && only.DataAtom == atom.P {
		unwrap(only)
	}
}

// headed puts a first row whose cells all head others into the head of its table, where there is none.
func headed(table *html.Node) {
	var body *html.Node
	for part := table.FirstChild; part != nil; part = part.NextSibling {
		switch part.DataAtom {
		case atom.Thead:
			return
		case atom.Tbody:
			if body == nil {
				body = part
			}
		}
	}
	if body == nil || body.FirstChild == nil || body.FirstChild.NextSibling == nil {
		return
	}
	row := body.FirstChild
	for cell := row.FirstChild; cell != nil; cell = cell.NextSibling {
		if cell.DataAtom != atom.Th {
			return
		}
	}
	head := &html.Node{Type: html.ElementNode, Data: "thead", DataAtom: atom.Thead}
	table.InsertBefore(head, body)
	body.RemoveChild(row)
	head.AppendChild(row)
	for cell := row.FirstChild; cell != nil; cell = cell.NextSibling {
		cell.Attr = slices.DeleteFunc(cell.Attr, func(a html.Attribute) bool { return a.Key == "scope" })
		scope(cell)
	}
}

// scope says of a cell that heads others which they are: those below it in a head of the table, else those beside it.
func scope(n *html.Node) {
	in := "row"
	if row := n.Parent; row != nil && row.Parent != nil && row.Parent.DataAtom == atom.Thead {
		in = "col"
	}
	if given := attribute(n, "scope"); given == "col" || given == "row" {
		in = given
	}
	n.Attr = slices.DeleteFunc(n.Attr, func(a html.Attribute) bool { return a.Key == "scope" })
	n.Attr = append(n.Attr, html.Attribute{Key: "scope", Val: in})
}

// isFigure says whether a figure has one picture and, after it, a caption or nothing.
func isFigure(n *html.Node) bool {
	picture := n.FirstChild
	for picture != nil && picture.Type == html.TextNode && strings.TrimSpace(picture.Data) == "" {
		next := picture.NextSibling
		n.RemoveChild(picture)
		picture = next
	}
	if picture == nil || picture.DataAtom != atom.Img {
		return false
	}
	for after := picture.NextSibling; after != nil; {
		next := after.NextSibling
		if after.Type == html.TextNode && strings.TrimSpace(after.Data) == "" {
			n.RemoveChild(after)
		} else if after.DataAtom != atom.Figcaption || next != nil && strings.TrimSpace(words(next)) != "" {
			return false
		}
		after = next
	}
	return true
}

// unwrap puts what an element holds in its place.
func unwrap(n *html.Node) {
	for child := n.FirstChild; child != nil; child = n.FirstChild {
		n.RemoveChild(child)
		n.Parent.InsertBefore(child, n)
	}
	n.Parent.RemoveChild(n)
}

func attribute(n *html.Node, key string) string {
	for _, a := range n.Attr {
		if a.Key == key {
			return a.Val
		}
	}
	return ""
}

// words gives the text inside a node.
func words(n *html.Node) string {
	if n.Type == html.TextNode {
		return n.Data
	}
	var out strings.Builder
	for child := n.FirstChild; child != nil; child = child.NextSibling {
		out.WriteString(words(child))
	}
	return strings.TrimSpace(out.String())
}
