package text

import (
	"strings"

	"golang.org/x/net/html"
)

// breaks are the elements that begin a line of their own, with the sign that stands for them.
var breaks = map[string]string{
	"p":  "",
	"br": "",
	"h2": "## ",
	"h3": "### ",
	"h4": "#### ",
	"li": "• ",
	"tr": "",
	"hr": "———",
}

// Words says a kept text as lines that a person can compare: a block a line, its kind as a sign before it, emphasis
// and lists as they are marked up, links with their targets. Texts that look different have different words.
func Words(clean string) []string {
	var lines []string
	var line strings.Builder
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
			case token.Data == "a" && len(token.Attr) > 0:
				line.WriteString("[" + token.Attr[0].Val + "](")
			default:
				line.WriteString("<" + token.Data + ">")
			}
		case html.EndTagToken:
			switch {
			case breaking:
				end()
			case token.Data == "a":
				line.WriteString(")")
			default:
				line.WriteString("</" + token.Data + ">")
			}
		}
	}
}
