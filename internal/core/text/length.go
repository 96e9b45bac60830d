package text

import (
	"strings"
	"unicode"

	"golang.org/x/net/html"
)

// Length counts the words of a kept text that readers see.
func Length(clean string) (n int) {
	z := html.NewTokenizer(strings.NewReader(clean))
	inside := false // a word; a mark within one does not end it
	for {
		switch kind := z.Next(); kind {
		case html.ErrorToken:
			return n
		case html.TextToken:
			for _, c := range string(z.Text()) {
				is := unicode.IsLetter(c) || unicode.IsNumber(c) || inside && (c == '’' || c == '\'' || c == '-')
				if is && !inside {
					n++
				}
				inside = is
			}
		case html.StartTagToken, html.EndTagToken, html.SelfClosingTagToken:
			if name, _ := z.TagName(); !isInline(string(name)) {
				inside = false
			}
		}
	}
}

func isInline(tag string) bool {
	switch tag {
	case "a", "strong", "em", "b", "i", "abbr", "code", "sub", "sup", "span", "mark", "small", "q", "cite", "kbd":
		return true
	}
	return false
}
