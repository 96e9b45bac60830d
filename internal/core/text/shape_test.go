package text_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/picture"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/core/text"
)

// withPicture is a site with a picture (3) and a paper (4) in a folder.
func withPicture(t testing.TB) *site.Site {
	s := testkit.Outline(t, "Home")
	folder, place := edit.FilesPlace(s, 2)
	paper := testkit.Bytes("rates")
	paper.Type, paper.Width, paper.Height = "application/pdf", 0, 0
	s, _, err := edit.ApplyAll(s, append(
		folder,
		edit.MakeFile(3, place, "Pier", "pier.png", testkit.Bytes("pier")),
		edit.MakeFile(4, place, "Rates", "rates.pdf", paper),
	), testkit.Now)
	require.NoError(t, err)
	return s
}

func TestTextIsBroughtIntoOneShape(t *testing.T) {
	s, cleaner := withPicture(t), text.NewCleaner("harbour.example")
	for raw, want := range map[string]string{
		// headings go down one level at a time, each with an address (WCAG 1.3.1; levels: rules 12.1)
		`<h3>Fares</h3><h6>Dogs</h6><h2>Fares</h2>`: `<h2 id="fares">Fares</h2><h3 id="dogs">Dogs</h3><h2 id="fares-2">Fares</h2>`,
		`<h2 id="kept">New words</h2>`:              `<h2 id="kept">New words</h2>`,
		`<h2 id="content">Content</h2>`:             `<h2 id="content-2">Content</h2>`,
		`<h2 id="A b">Fares</h2><h2> </h2>`:         `<h2 id="fares">Fares</h2> `,
		`<h2>Øyra</h2>`:                             `<h2 id="oyra">Øyra</h2>`,
		// cells say what they head (WCAG 1.3.1, technique H63)
		`<table><thead><tr><th>A</th></tr></thead><tbody><tr><th>b</th><td colspan="2">c</td></tr></tbody></table>`: `<table>` +
			`<thead><tr><th scope="col">A</th></tr></thead><tbody><tr><th scope="row">b</th><td colspan="2">c</td></tr></tbody></table>`,
		`<table><caption></caption><tr><td colspan="999" style="x">c</td></tr></table>`: `<table><tbody><tr><td>c</td></tr></tbody></table>`,
		`<table><tbody><tr><th><p>A</p></th></tr><tr><td><p>b</p><p></p></td></tr></tbody></table><ul><li><p>c</p></li></ul>`: `<table>` +
			`<thead><tr><th scope="col">A</th></tr></thead><tbody><tr><td>b</td></tr></tbody></table><ul><li>c</li></ul>`,
		// pictures are those of the site's files
		`<figure> <img src="/files/pier.png?v=1" alt=" The pier "> <figcaption>At dawn</figcaption></figure>`: `<figure>` +
			`<img src="page:3" alt="The pier"/><figcaption>At dawn</figcaption></figure>`,
		`<p><img src="https://harbour.example/files/pier.png"></p>`:                              `<p><img src="page:3" alt=""/></p>`,
		`<img src="https://elsewhere.example/x.png" alt="x"><img src="/files/rates.pdf">`:        ``,
		`<img src="page:2"><img src="page:99"><img src="data:image/png;base64,AAAA">`:            ``,
		`<figure><p>no picture</p></figure>`:                                                     `<p>no picture</p>`,
		`<figcaption>alone</figcaption>`:                                                         `alone`,
		`<a href="/files/rates.pdf#page=2">Rates</a><a href="/x"></a>`:                           `<a href="page:4#page=2">Rates</a>`,
		`<aside><p>Mind the gap</p></aside><aside></aside>`:                                      `<aside><p>Mind the gap</p></aside>`,
		`<dl><dt>Depth</dt><dd>4 m</dd></dl>`:                                                    `<dl><dt>Depth</dt><dd>4 m</dd></dl>`,
		`<div class="x"><section>words <b>stay</b> <u>too</u></section></div><iframe>f</iframe>`: `words stay too`,
	} {
		assert.Equal(t, want, cleaner.Clean(s, raw, testkit.Now), raw)
	}
}

// What a visitor gets of a picture: the version that is meant, several widths, and its words alone where it is out of
// reach. On a page with other texts only the page's own has addresses of headings.
func TestPicturesAndHeadingsAsTheyAreRead(t *testing.T) {
	s := withPicture(t)
	kept := `<h2 id="pier">Pier</h2><figure><img src="page:3" alt="The “pier”"/></figure>`
	by := text.Reader{Picture: func(id site.PageID, words string) (picture.Picture, bool) {
		shown, _, there := picture.At(s, site.FileRef(id), "/proof/x", words)
		return shown, there
	}}
	version := testkit.Bytes("pier").Version()
	src := "/proof/x/files/pier.png?v=" + version
	assert.Equal(t, `<h2 id="pier">Pier</h2><figure><img src="`+src+`" srcset="`+src+`&amp;w=480 480w, `+src+
		` 640w" sizes="auto, 100vw" alt="The “pier”" width="640" height="480" loading="lazy"></figure>`, text.Render(kept, by))
	assert.Equal(t, []site.PageID{3}, text.Links(kept))
	out := text.Reader{
		Part:    true,
		Picture: func(site.PageID, string) (picture.Picture, bool) { return picture.Picture{}, false },
	}
	assert.Equal(t, `<h2>Pier</h2><figure>The “pier”</figure>`, text.Render(kept, out))
	assert.Equal(t, []string{"## Pier", "picture page:3, in words “The “pier””"}, text.Words(kept))
	assert.Equal(t, []string{"## Pier (#quay)"}, text.Words(`<h2 id="quay">Pier</h2>`))
}

// Evasions of filters, after the lists of the OWASP XSS filter evasion sheet and the HTML standard's parsing rules
// (from memory): nothing that runs, loads or restyles is left of any.
func TestEvasionsLeaveNothingThatRuns(t *testing.T) {
	s, cleaner := withPicture(t), text.NewCleaner("harbour.example")
	for _, raw := range []string{
		`<SCRIPT SRC=https://x.example/a.js></SCRIPT>`, `<IMG SRC="javascript:alert(1)">`, `<IMG SRC=JaVaScRiPt:alert(1)>`,
		"<IMG SRC=`javascript:alert(1)`>", `<IMG """><SCRIPT>alert(1)</SCRIPT>"\>`, `<IMG SRC=# onmouseover="alert(1)">`,
		`<IMG SRC=/ onerror="alert(1)"></img>`, `<a href="jav&#x09;ascript:alert(1)">x</a>`, `<a href="&#106;avascript:alert(1)">x</a>`,
		"<a href=\"java\x00script:alert(1)\">x</a>", `<a href=" &#14; javascript:alert(1)">x</a>`, `<SCRIPT/XSS SRC="x"></SCRIPT>`,
		`<BODY onload!#$%&()*~+-_.,:;?@[/|\]^=alert(1)>`, `<<SCRIPT>alert(1);//\<</SCRIPT>`, `<SCRIPT SRC=x?< B >`,
		`<IMG SRC="('XSS')"`, `</TITLE><SCRIPT>alert(1);</SCRIPT>`, `<INPUT TYPE="IMAGE" SRC="javascript:alert(1);">`,
		`<BODY BACKGROUND="javascript:alert(1)">`, `<svg/onload=alert(1)>`, `<math><mtext><table><mglyph><style><img src=x onerror=alert(1)>`,
		`<noscript><p title="</noscript><img src=x onerror=alert(1)>">`, `<LINK REL="stylesheet" HREF="javascript:alert(1);">`,
		`<META HTTP-EQUIV="refresh" CONTENT="0;url=javascript:alert(1);">`, `<IFRAME SRC="javascript:alert(1);"></IFRAME>`,
		`<TABLE><TD BACKGROUND="javascript:alert(1)">`, `<DIV STYLE="background-image: url(javascript:alert(1))">`,
		`<!--[if gte IE 4]><SCRIPT>alert(1);</SCRIPT><![endif]-->`, `<BASE HREF="javascript:alert(1);//">`,
		`<OBJECT TYPE="text/x-scriptlet" DATA="x"></OBJECT>`, `<EMBED SRC="data:image/svg+xml;base64,x">`, `<form><button formaction=javascript:alert(1)>`,
		`<a href="data:text/html,<script>alert(1)</script>">x</a>`, `<template><script>alert(1)</script></template>`,
		`<h2 id="x" onclick=alert(1)>h</h2>`, `<td colspan="2" onfocus=alert(1)>`, `<a href=vbscript:x>x</a>`,
	} {
		clean := cleaner.Clean(s, raw, testkit.Now)
		nodes, err := html.Parse(strings.NewReader(clean))
		require.NoError(t, err)
		assertHarmless(t, nodes, raw)
	}
}

func assertHarmless(t *testing.T, n *html.Node, raw string) {
	if n.Type == html.ElementNode {
		assert.NotContains(t, []string{
			"script", "style", "svg", "math", "iframe", "object", "embed", "link", "meta", "base", "form", "input", "button",
			"template", "noscript",
		}, n.Data, raw)
		for _, a := range n.Attr {
			assert.Contains(t, []string{"href", "src", "alt", "id", "scope", "colspan", "rowspan"}, a.Key, raw)
			assert.NotRegexp(t, `(?i)^\s*(java|vb|data)`, a.Val, raw)
		}
	}
	for child := n.FirstChild; child != nil; child = child.NextSibling {
		assertHarmless(t, child, raw)
	}
}

// Whatever is nested in whatever: nothing of the words is lost, headings skip no level, addresses are given once, and
// what is in shape stays as it is.
func TestShapingKeepsWordsAndOrder(t *testing.T) {
	s, cleaner := withPicture(t), text.NewCleaner("harbour.example")
	tags := []string{
		"h1", "h2", "h3", "h4", "h5", "h6", "p", "ul", "li", "table", "tr", "td", "th", "figure", "figcaption", "aside",
		"dl", "dd", "a", "strong", "blockquote", "caption", "thead", "div",
	}
	rapid.Check(t, func(t *rapid.T) {
		var raw strings.Builder
		n := 0
		for range rapid.IntRange(1, 25).Draw(t, "parts") {
			tag := rapid.SampledFrom(tags).Draw(t, "tag")
			switch rapid.IntRange(0, 2).Draw(t, "what") {
			case 0:
				raw.WriteString("<" + tag + ">")
			case 1:
				raw.WriteString("</" + tag + ">")
			default:
				n++
				raw.WriteString("w" + strings.Repeat("x", n) + " ")
			}
		}
		clean := cleaner.Clean(s, raw.String(), testkit.Now)
		for i := 1; i <= n; i++ {
			if !strings.Contains(clean, "w"+strings.Repeat("x", i)) {
				t.Fatalf("the word %d of %s is lost: %s", i, raw.String(), clean)
			}
		}
		if again := cleaner.Clean(s, clean, testkit.Now); again != clean {
			t.Fatalf("%s becomes %s", clean, again)
		}
		level, ids := 1, map[string]bool{}
		for z := html.NewTokenizer(strings.NewReader(clean)); z.Next() != html.ErrorToken; {
			token := z.Token()
			if token.Type != html.StartTagToken || len(token.Data) != 2 || token.Data[0] != 'h' ||
				token.Data == "hr" {
				continue
			}
			if at := int(token.Data[1] - '0'); at > level+1 || at < 2 || at > 4 {
				t.Fatalf("a heading skips: %s", clean)
			} else {
				level = at
			}
			if id := token.Attr[0].Val; ids[id] {
				t.Fatalf("two headings are “%s”: %s", id, clean)
			} else {
				ids[id] = true
			}
		}
	})
}

// A link around blocks goes on to lead from all of its words: however blocks stand in a link, each word that stood in
// it stands in it after.
func TestLinksAroundBlocksStayOnTheirWords(t *testing.T) {
	s := testkit.Outline(t, "Home")
	cleaner := text.NewCleaner()
	assert.Equal(t, `<p><a href="page:1">One <em>two</em></a></p><ul><li><a href="page:1">three</a></li></ul>`,
		cleaner.Clean(s, `<a href="page:1"><p>One <em>two</em></p><ul><li>three</li></ul></a>`, testkit.Now))
	rapid.Check(t, func(t *rapid.T) {
		n := 0
		var block func(depth int) string
		block = func(depth int) string {
			n++
			word := fmt.Sprintf("word%d", n)
			if depth == 0 {
				return word
			}
			inner := block(depth - 1)
			return rapid.SampledFrom([]string{
				"<p>" + word + "</p>" + inner, "<ul><li>" + inner + "</li></ul>", "<em>" + word + "</em> " + inner,
				"<table><tr><td>" + inner + "</td><td>" + word + "</td></tr></table>", "<h2>" + word + "</h2>" + inner,
				"<blockquote>" + inner + "</blockquote>",
			}).Draw(t, "block")
		}
		source := `<p>Before</p><a href="page:1">` + block(rapid.IntRange(0, 4).Draw(t, "depth")) + `</a><p>After</p>`
		clean := cleaner.Clean(s, source, testkit.Now)
		linked := ""
		for i, part := range strings.Split(clean, `<a href="page:1">`) {
			if i > 0 {
				in, _, _ := strings.Cut(part, "</a>")
				linked += in
			}
		}
		for i := 1; i <= n; i++ {
			if word := fmt.Sprintf("word%d", i); strings.Contains(source, word) {
				assert.Contains(t, linked, word, "%s\n%s", source, clean)
			}
		}
		assert.NotContains(t, linked, "Before")
		assert.NotContains(t, linked, "After")
	})
}
