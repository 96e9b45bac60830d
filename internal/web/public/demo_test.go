package public

import (
	"context"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"

	"vineladder/internal/clock"
	"vineladder/internal/core/address"
	"vineladder/internal/core/consequence"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/demo"
	"vineladder/internal/store/storetest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// A reading is what a test reads of a page as a browser would.
type reading struct {
	headings int                 // h1
	navs     map[string][]string // links by the name of their landmark
	named    []string            // names of landmarks, in order
	current  map[string]int      // lines with aria-current, by landmark
	empty    int                 // links without words
}

func read(t *testing.T, page string) reading {
	root, err := html.Parse(strings.NewReader(page))
	require.NoError(t, err)
	r := reading{navs: map[string][]string{}, current: map[string]int{}}
	var walk func(n *html.Node, nav string)
	walk = func(n *html.Node, nav string) {
		if n.Type == html.ElementNode {
			switch n.Data {
			case "h1":
				r.headings++
			case "nav":
				nav = attribute(n, "aria-label")
				r.named = append(r.named, nav)
			case "a":
				if nav != "" {
					r.navs[nav] = append(r.navs[nav], attribute(n, "href"))
				}
				if strings.TrimSpace(words(n)) == "" && attribute(n, "aria-label") == "" {
					r.empty++
				}
			}
			if nav != "" && attribute(n, "aria-current") != "" {
				r.current[nav]++
			}
		}
		for kid := n.FirstChild; kid != nil; kid = kid.NextSibling {
			walk(kid, nav)
		}
	}
	walk(root, "")
	return r
}

func attribute(n *html.Node, name string) string {
	for _, a := range n.Attr {
		if a.Key == name {
			return a.Val
		}
	}
	return ""
}

func words(n *html.Node) string {
	if n.Type == html.TextNode {
		return n.Data
	}
	all := ""
	for kid := n.FirstChild; kid != nil; kid = kid.NextSibling {
		all += words(kid)
	}
	return all
}

// Source: WAI-ARIA 1.2, aria-current: one line of a set at most; WCAG 2.2, 2.4.4: no link without words; common
// practice, no source: one main heading. Every page written for the demo, for every kind of visitor, as a browser reads
// it.
func TestEveryDemoPageAsABrowserReadsIt(t *testing.T) {
	ctx := context.Background()
	st := storetest.New(t)
	require.NoError(t, demo.Load(ctx, st, "127.0.0.1:8080"))
	s := st.Published().Site
	renderer, err := NewRenderer(st, func(name string) string { return "/assets/" + name }, "http://127.0.0.1:8080")
	require.NoError(t, err)
	pages := 0
	for _, lens := range consequence.ViewersOf(s, nil, clock.Now()).Panel.Lenses() {
		kept := NewKept()
		s.Walk(s.Home(), func(p *site.Page) bool {
			if reach.Ask(s, p.ID, lens) != reach.Sees {
				return true
			}
			q := Request{Site: s, Lens: lens, Path: address.Of(s, p.ID), Kept: kept}
			answer, err := renderer.Render(ctx, q)
			require.NoError(t, err)
			got := read(t, string(answer.Body))
			assert.Equal(t, 1, got.headings, p.Label)
			assert.Zero(t, got.empty, p.Label)
			for i, name := range got.named {
				assert.NotEmpty(t, name, p.Label)
				for _, other := range got.named[:i] {
					assert.NotEqual(t, other, name, p.Label)
				}
			}
			for nav, lines := range got.current {
				assert.LessOrEqual(t, lines, 1, "%s on %s", nav, p.Label)
			}
			pages++
			return true
		})
	}
	assert.Greater(t, pages, 700)
}
