package text

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
	"golang.org/x/text/cases"
)

// A Search is words that are looked for as people read them: through emphasis and links, but not from one paragraph,
// cell or item into the next.
type Search struct {
	Words string // any run of space stands for any other
	Exact bool   // capitals matter
	Whole bool   // not within a longer word
}

// A Hit is one place where words stand, with what is around them for a person to recognise it by.
type Hit struct{ Before, Found, After string }

// around bounds what a hit shows on each side, in characters.
const around = 60

// A span is where words stand in a string, in bytes.
type span struct{ from, to int }

// In gives the hits of a kept text in its order.
func (q Search) In(clean string) []Hit {
	if q.Words == "" || clean == "" {
		return nil
	}
	var hits []Hit
	for _, run := range runsOf(parsed(clean)) {
		hits = append(hits, q.InLine(run.words())...)
	}
	return hits
}

// InLine gives the hits of a line without markup, like a label.
func (q Search) InLine(line string) []Hit {
	var hits []Hit
	for _, at := range q.spans(line) {
		hits = append(hits, Hit{lastOf(line[:at.from]), line[at.from:at.to], firstOf(line[at.to:])})
	}
	return hits
}

// Replace writes other words where hits stand that are taken, by their number in In. They stand in the emphasis of the
// first letter that they replace. All else of the text stays to the letter.
func (q Search) Replace(clean, with string, taken func(n int) bool) string {
	holder := parsed(clean)
	n, changed := 0, false
	for _, run := range runsOf(holder) {
		spans := q.spans(run.words())
		for i, at := range slices.Backward(spans) {
			if taken(n + i) {
				run.put(at, with)
				changed = true
			}
		}
		n += len(spans)
	}
	if !changed {
		return clean
	}
	return written(holder)
}

// ReplaceLine does the same in a line without markup.
func (q Search) ReplaceLine(line, with string, taken func(n int) bool) string {
	for i, at := range slices.Backward(q.spans(line)) {
		if taken(i) {
			line = line[:at.from] + with + line[at.to:]
		}
	}
	return line
}

// spans finds the words in a line, from its beginning, each apart from the next.
func (q Search) spans(line string) []span {
	sought := []rune(q.folded(strings.Join(strings.Fields(q.Words), " ")))
	if len(sought) == 0 {
		return nil
	}
	var found []span
	for from := 0; from < len(line); {
		_, size := utf8.DecodeRuneInString(line[from:])
		to := q.matched(line, from, sought)
		if to == 0 || q.Whole && (inWord(line, from) || inWord(line, to)) {
			from += size
			continue
		}
		found = append(found, span{from, to})
		from = to
	}
	return found
}

// matched gives where the sought words end that begin at a byte of a line; 0 if they don't.
func (q Search) matched(line string, from int, sought []rune) int {
	at := from
	for len(sought) > 0 {
		if at >= len(line) {
			return 0
		}
		r, size := utf8.DecodeRuneInString(line[at:])
		if unicode.IsSpace(r) {
			if sought[0] != ' ' {
				return 0
			}
			at += len(line[at:]) - len(strings.TrimLeftFunc(line[at:], unicode.IsSpace))
			sought = sought[1:]
			continue
		}
		folded := []rune(q.folded(line[at : at+size]))
		if len(folded) > len(sought) || !slices.Equal(folded, sought[:len(folded)]) {
			return 0
		}
		at, sought = at+size, sought[len(folded):]
	}
	return at
}

// fold has capitals and small letters be one, as Unicode's full case folding has it.
var fold = cases.Fold()

func (q Search) folded(words string) string {
	if q.Exact {
		return words
	}
	return fold.String(words)
}

// inWord says whether a place in a line lies within a word.
func inWord(line string, at int) bool {
	before, _ := utf8.DecodeLastRuneInString(line[:at])
	after, _ := utf8.DecodeRuneInString(line[at:])
	return isLetter(before) && isLetter(after)
}

func isLetter(r rune) bool { return unicode.In(r, unicode.L, unicode.M, unicode.N) }

func lastOf(s string) string {
	runes := []rune(strings.TrimLeftFunc(s, unicode.IsSpace))
	if len(runes) <= around {
		return string(runes)
	}
	return "…" + string(runes[len(runes)-around:])
}

func firstOf(s string) string {
	runes := []rune(strings.TrimRightFunc(s, unicode.IsSpace))
	if len(runes) <= around {
		return string(runes)
	}
	return string(runes[:around]) + "…"
}

// A run is the pieces of text that a reader reads as one: those of a paragraph, a heading, a cell.
type run []*html.Node

func (r run) words() string {
	var all strings.Builder
	for _, piece := range r {
		all.WriteString(piece.Data)
	}
	return all.String()
}

// put writes words over a span: into the piece in which it begins; what it has of others goes.
func (r run) put(over span, words string) {
	begins := 0
	for _, piece := range r {
		length := len(piece.Data)
		from, to := max(over.from-begins, 0), min(over.to-begins, length)
		if from < length && to > from {
			piece.Data = piece.Data[:from] + words + piece.Data[to:]
			words = ""
			prune(piece)
		}
		begins += length
	}
}

// prune takes a piece out that has nothing left, and the emphasis or link around it.
func prune(piece *html.Node) {
	if piece.Data != "" {
		return
	}
	for n := piece; ; {
		around := n.Parent
		around.RemoveChild(n)
		if !within[around.DataAtom] || around.FirstChild != nil {
			return
		}
		n = around
	}
}

// within are the elements that don't end what is read as one.
var within = map[atom.Atom]bool{atom.A: true, atom.Strong: true, atom.Em: true, atom.S: true, atom.Code: true}

// runsOf gathers the runs of a tree in the order of reading.
func runsOf(n *html.Node) []run {
	var all []run
	var open run
	end := func() {
		if len(open) > 0 {
			all, open = append(all, open), nil
		}
	}
	var visit func(*html.Node)
	visit = func(n *html.Node) {
		for c := n.FirstChild; c != nil; c = c.NextSibling {
			switch {
			case c.Type == html.TextNode:
				open = append(open, c)
			case within[c.DataAtom]:
				visit(c)
			default:
				end()
				visit(c)
				end()
			}
		}
	}
	visit(n)
	end()
	return all
}

// parsed reads a kept text; written writes it as it was.
func parsed(clean string) *html.Node {
	holder := &html.Node{Type: html.ElementNode, Data: "div", DataAtom: atom.Div}
	body := &html.Node{Type: html.ElementNode, Data: "body", DataAtom: atom.Body}
	nodes, err := html.ParseFragment(strings.NewReader(clean), body)
	if err != nil { // a reader of a string gives none
		return holder
	}
	for _, node := range nodes {
		holder.AppendChild(node)
	}
	return holder
}

func written(holder *html.Node) string {
	var out strings.Builder
	for node := holder.FirstChild; node != nil; node = node.NextSibling {
		if err := html.Render(&out, node); err != nil { // nor does a builder
			return ""
		}
	}
	return out.String()
}
