package text

import (
	"slices"
	"strings"

	"golang.org/x/net/html"
)

// Web gives the web addresses to which a kept text links, each once, in their order, without what follows a “#”.
func Web(clean string) (addresses []string) {
	if !strings.Contains(clean, `"http`) {
		return nil
	}
	z := html.NewTokenizer(strings.NewReader(clean))
	for {
		kind := z.Next()
		if kind == html.ErrorToken {
			return addresses
		}
		if token := z.Token(); kind == html.StartTagToken && token.Data == "a" {
			for _, attr := range token.Attr {
				to, _, _ := strings.Cut(attr.Val, "#")
				web := strings.HasPrefix(to, "https://") || strings.HasPrefix(to, "http://")
				if attr.Key == "href" && web && !slices.Contains(addresses, to) {
					addresses = append(addresses, to)
				}
			}
		}
	}
}
