package text

import (
	"strings"

	"golang.org/x/net/html"

	"vineladder/internal/core/address"
)

// breaks are the elements that begin a line of their own, with the sign that stands for them.
var breaks = map[string]string{
	"p":          "",
	"dt":         "",
	"dd":         "  ",
	"figure":     "",
	"figcaption": "  ",
	"caption":    "",
	"br":         "",
	"h2":         "## ",
	"h3":         "### ",
	"h4":         "#### ",
	"li":         "• ",
	"tr":         "",
	"hr":         "———",
}

// Words says a kept text as lines that a person can compare: a block a line, its kind as a sign before it, emphasis
// and lists as they are marked up, links with their targets. Texts that look different have different words.
func Words(clean string) []string {
	var lines []string
	var line strings.Builder
	anchor := "" // of the heading that is read, told where its words don't make it
	end := func() {
		if words := strings.TrimSpace(line.String()); words != "" {
			lines = append(lines, words)
		}
		line.Reset()
	}
	z := html.NewTokenizer(strings.NewReader(clean))
	for {
		kind := z.Next()
		token := z.Token()
		sign, breaking := breaks[token.Data]
		switch kind {
		case html.ErrorToken:
			end()
			return lines
		case html.TextToken:
			line.WriteString(strings.Join(strings.FieldsFunc(token.Data, func(r rune) bool { return r == '\n' }), " "))
		case html.StartTagToken, html.SelfClosingTagToken:
			switch {
			case breaking:
				end()
				line.WriteString(sign)
				anchor = valueOf(&token, "id")
			case token.Data == "img":
				line.WriteString("picture " + valueOf(&token, "src") + ", in words “" + valueOf(&token, "alt") + "”")
			case token.Data == "a" && len(token.Attr) > 0:
				line.WriteString("[" + token.Attr[0].Val + "](")
			default:
				line.WriteString("<" + token.Data + marks(&token) + ">")
			}
		case html.EndTagToken:
			switch {
			case breaking:
				if said := strings.TrimPrefix(line.String(), sign); anchor != "" && anchor != address.Segment(said) {
					line.WriteString(" (#" + anchor + ")")
				}
				anchor = ""
				end()
			case token.Data == "a":
				line.WriteString(")")
			default:
				line.WriteString("</" + token.Data + ">")
			}
		}
	}
}

// marks says the attributes that visitors can notice: what cells span and head.
func marks(token *html.Token) string {
	out := ""
	for _, attr := range token.Attr {
		switch attr.Key {
		case "colspan", "rowspan", "scope":
			out += " " + attr.Key + "=" + attr.Val
		}
	}
	return out
}

// A Heading of a text is where links can lead to.
type Heading struct {
	Anchor, Words string
	Level         int
}

// Headings gives the headings of a kept text, in order.
func Headings(clean string) []Heading {
	var all []Heading
	inside := false
	z := html.NewTokenizer(strings.NewReader(clean))
	for {
		kind := z.Next()
		token := z.Token()
		switch {
		case kind == html.ErrorToken:
			return all
		case kind == html.StartTagToken && headings[token.Data]:
			inside = true
			all = append(all, Heading{Anchor: valueOf(&token, "id"), Level: int(token.Data[1] - '0')})
		case kind == html.EndTagToken && headings[token.Data]:
			inside = false
		case kind == html.TextToken && inside:
			all[len(all)-1].Words += token.Data
		}
	}
}
