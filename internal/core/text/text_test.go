package text_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"

	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/core/text"
)

func TestCleanKeepsWhatTextMayHoldAndNothingElse(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings\n    Fares")
	cleaner := text.NewCleaner("harbour.example")
	for raw, want := range map[string]string{
		`<h1>Big</h1><h2>Two</h2>`:                                 `<h2 id="big">Big</h2><h2 id="two">Two</h2>`,
		`<p onclick="x()">a<script>alert(1)</script></p>`:          `<p>a</p>`,
		`<a href="javascript:alert(1)">x</a>`:                      `x`,
		`<img src=x onerror=alert(1)>`:                             ``,
		`<p> &nbsp;</p>`:                                           ``,
		`<p style="color:red"><strong>b</strong><em>i</em></p>`:    `<p><strong>b</strong><em>i</em></p>`,
		`<a href="/sailings/fares/?a=1#top">F</a>`:                 `<a href="page:3?a=1#top">F</a>`,
		`<a href="https://harbour.example/Sailings">S</a>`:         `<a href="page:2">S</a>`,
		`<a href="https://elsewhere.example/sailings">S</a>`:       `<a href="https://elsewhere.example/sailings">S</a>`,
		`<a href="#below">B</a><a href="mailto:a@b.example">M</a>`: `<a href="#below">B</a><a href="mailto:a@b.example">M</a>`,
		`<p>a < b & c</p>`:                                         `<p>a &lt; b &amp; c</p>`,
	} {
		assert.Equal(t, want, cleaner.Clean(s, raw, testkit.Now), raw)
	}
}

func TestRenderFollowsThePageAndDropsWhatIsOutOfReach(t *testing.T) {
	link := func(id site.PageID) (string, bool) { return "/now/here", id == 3 }
	assert.Equal(
		t,
		`<p><a href="/now/here?a=1#top">F</a> and G, <a href="https://e.example/">E</a></p>`,
		text.Render(
			`<p><a href="page:3?a=1#top">F</a> and <a href="page:4">G</a>, <a href="https://e.example/">E</a></p>`,
			text.Reader{Link: link},
		),
	)
}

func TestCopiedTextPointsAtTheCopies(t *testing.T) {
	source := `<p><a href="page:7?q=1#top">in</a> <a href="page:8">out</a> <a href="https://harbour.example/">far</a></p>`
	assert.Equal(
		t,
		`<p><a href="page:70?q=1#top">in</a> <a href="page:8">out</a> <a href="https://harbour.example/">far</a></p>`,
		text.Repoint(source, map[site.PageID]site.PageID{7: 70}),
	)
	assert.Equal(t, source, text.Repoint(source, nil), "what is not copied stays to the letter")
	assert.Equal(t, []site.PageID{7, 8}, text.Links(source+source))
	assert.Empty(t, text.Links(`<p><a href="/x">x</a></p>`))
}

// What is cleaned is balanced HTML: in the middle of a page it closes all that it opens, and nothing else.
func FuzzCleanIsBalanced(f *testing.F) {
	for _, seed := range []string{
		"<table><tr><td><blockquote>x", "<ul><li>a<li>b</ol>", "<p>a<h2>b</p>c</h2>",
		"</div></table>x", "<a href=/x>a<a href=/y>b", "<table><p>x<tr><td>y", "a\x00b\xff", "<pre>\n\nx",
	} {
		f.Add(seed)
	}
	cleaner := text.NewCleaner("harbour.example")
	s := testkit.Outline(f, "Home\n  Fares")
	f.Fuzz(func(t *testing.T, raw string) {
		clean := cleaner.Clean(s, raw, testkit.Now)
		nodes, err := html.Parse(
			strings.NewReader(
				"<!doctype html><html><head></head><body><main>" + clean + "</main><footer>end</footer></body></html>",
			),
		)
		require.NoError(t, err)
		main, footer := find(nodes, "main"), find(nodes, "footer")
		require.NotNil(t, footer, clean)
		require.Equal(t, main.Parent, footer.Parent, clean)
		require.Equal(t, "end", footer.FirstChild.Data, clean)
		require.Equal(t, clean, cleaner.Clean(s, clean, testkit.Now), "cleaning again changes nothing")
	})
}

func find(n *html.Node, name string) *html.Node {
	if n.Type == html.ElementNode && n.Data == name {
		return n
	}
	for child := n.FirstChild; child != nil; child = child.NextSibling {
		if found := find(child, name); found != nil {
			return found
		}
	}
	return nil
}
