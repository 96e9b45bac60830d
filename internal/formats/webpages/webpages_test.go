package webpages_test

import (
	"context"
	"errors"
	"io"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/core/text"
	"vineladder/internal/formats/webpages"
)

// harbour is a small folder with all that a folder can have.
var harbour = fstest.MapFS{
	"index.html": {
		Data: []byte(`<!doctype html><title>Harbour – The Board</title><meta name="description" content="All of it">
		<header><p>Skip this</p></header><nav><a href="z-first.html">Nav</a></nav>
		<body><h1>Harbour</h1><p>See <a href="z-first.html#two">first</a>, <a href="berths/">berths</a> and
		<a href="https://elsewhere.example/">more</a>, <a href="gone.html">not this</a>.<script>alert(1)</script></p>
		<p><img src="pics/quay.png" alt="The quay"><img src="pics/none.png" alt="A boat"> <a href="rules.pdf">Rules</a></p></body>`),
	},
	"a-last.html": {Data: []byte(`<h1>Last</h1><form><input></form><p>Back <a href="/index.html">home</a></p>`)},
	"z-first.html": {Data: []byte(`<title>First</title><main><h1 id="top">First <a href="#top">¶</a></h1>
		<p>One</p><section id="two"><h2>The Second</h2><ul><li><a href="#deep">Deep</a></li></ul>
		<p id="deep">Deep words</p></section><table><tr><th>Pier</th></tr><tr><td>4</td></tr></table></main><p>Not the main part</p>`)},
	"berths/south.htm": {
		Data: []byte(`<h1>South</h1><p><a href="../z-first.html#deep">up</a> <a href="../../etc/passwd">out</a></p>`),
	},
	"berths/north.htm": {Data: []byte("<meta charset=iso-8859-1><h1>\xd8yra</h1>")},
	"winter.html":      {Data: []byte(`<h1>Winter</h1>`)},
	"winter/ice.html":  {Data: []byte(`<h1>Ice</h1>`)},
	"pics/quay.png":    {Data: []byte("picture")},
	"pics/unused.png":  {Data: []byte("picture")},
	"rules.pdf":        {Data: []byte("bad")},
	".hidden/x.html":   {Data: []byte("<h1>Hidden</h1>")},
}

// bring reads a folder and applies what it brings to a small site, below its page “Sailings”.
func bring(
	t *testing.T,
	from fstest.MapFS,
	wereAt string,
) (*site.Site, *webpages.Folder, *webpages.Plan, map[string]string) {
	t.Helper()
	s := testkit.Outline(t, "Home\n  Sailings\n    Harbour")
	f, err := webpages.Read(t.Context(), from, func(int, int) {})
	require.NoError(t, err)
	kept := map[string]string{"": ""}
	cleaner := text.NewCleaner()
	plan, err := f.Brings(t.Context(), s, webpages.Destination{
		Below: 2, WereAt: wereAt, Now: testkit.Now, Told: func(int, int) {},
		IDs: func(n int) ([]site.PageID, error) {
			ids := make([]site.PageID, n)
			for i := range ids {
				ids[i] = site.PageID(100 + i)
			}
			return ids, nil
		},
		Keep: func(name string, from io.Reader) (site.Bytes, error) {
			if data, _ := io.ReadAll(from); string(data) == "bad" {
				return site.Bytes{}, &edit.Refusal{Sentence: "This is no PDF."}
			}
			return site.Bytes{Hash: strings.Repeat("a", 64), Type: "image/png", Size: 7, Width: 1, Height: 1}, nil
		},
		Free:  func(_ *site.Site, wanted string, _ site.Bytes) string { return wanted },
		Clean: func(on *site.Site, raw string) string { return cleaner.Clean(on, raw, testkit.Now) },
		Save: func(texts []string) ([]string, error) {
			hashes := make([]string, len(texts))
			for i, clean := range texts {
				if clean != "" {
					hashes[i] = strings.Repeat("0", 31) + string(rune('a'+i))
					kept[hashes[i]] = clean
					s.Texts().Know(hashes[i], text.Links(clean))
				}
			}
			return hashes, nil
		},
	})
	require.NoError(t, err)
	next, _, err := edit.ApplyAll(s, plan.Ops, testkit.Now)
	require.NoError(t, err)
	return next, f, plan, kept
}

func TestAFolderBecomesABranch(t *testing.T) {
	s, f, plan, kept := bring(t, harbour, "/old")
	var tree []string
	s.Walk(2, func(p *site.Page) bool { tree = append(tree, address.Of(s, p.ID)+" "+p.Label); return true })
	assert.Equal(t, []string{
		"/sailings Sailings", "/sailings/harbour Harbour",
		"/sailings/harbour-2 Harbour", "/sailings/harbour-2/z-first First", "/sailings/harbour-2/berths Berths",
		"/sailings/harbour-2/berths/north Øyra", "/sailings/harbour-2/berths/south South",
		"/sailings/harbour-2/a-last Last", "/sailings/harbour-2/winter Winter", "/sailings/harbour-2/winter/ice Ice",
	}, tree, "in the order in which the folder's page links them, then by name; beside what stood there")

	at := func(path string) *site.Page { return s.Page(address.Resolve(s, path, testkit.Now).Page) }
	top := at("/old/index.html")
	require.NotNil(t, top)
	assert.Equal(t, "All of it", top.Summary)
	assert.Same(t, top, at("/old"))
	assert.Equal(t, "South", at("/old/berths/south.htm").Label)
	first, berths, quay := at("/old/z-first.html"), at("/old/berths"), at("/files/quay.png")
	link := func(p *site.Page, part string) string {
		return `href="page:` + strings.TrimSpace(strings.Join([]string{fmtID(p), part}, "")) + `"`
	}
	words := kept[top.Text]
	assert.Contains(t, words, link(first, "#two")+`>first</a>`)
	assert.Contains(t, words, link(berths, "")+`>berths</a>`)
	assert.Contains(t, words, `https://elsewhere.example/`)
	assert.Contains(t, words, `not this.`)
	assert.Contains(t, words, `<img src="page:`+fmtID(quay)+`" alt="The quay"/>A boat Rules`)
	assert.NotContains(t, words, "Skip this")
	assert.NotContains(t, words, "alert")
	words = kept[first.Text]
	assert.NotContains(t, words, "Not the main part")
	assert.Contains(t, words, `<h2 id="two">The Second</h2>`)
	assert.Contains(t, words, `<a href="#two">Deep</a>`, "what stands in a part is reached by its heading")
	assert.Contains(t, kept[at("/old/berths/south.htm").Text], link(first, "#two")+`>up</a> out`)

	assert.Equal(t, 1, plan.Files, "a file that no page shows stays where it is")
	assert.Equal(t, []string{"rules.pdf is left out: This is no PDF."}, plan.Remarks)
	byPath := map[string]*webpages.Page{}
	for _, p := range f.Pages {
		byPath[p.Path] = p
	}
	assert.Equal(t, []string{"gone.html", "pics/none.png"}, byPath["index.html"].Dead)
	assert.Equal(t, []string{"../../etc/passwd"}, byPath["berths/south.htm"].Dead)
	assert.Equal(t, []string{"a form"}, byPath["a-last.html"].Left)
	assert.Equal(t, 1, byPath["z-first.html"].Tables)
}

func fmtID(p *site.Page) string { return strings.TrimPrefix(site.FileRef(p.ID), "page/") }

func TestFoldersThatAreNone(t *testing.T) {
	silent := func(int, int) {}
	_, err := webpages.Read(t.Context(), fstest.MapFS{"a.txt": {}}, silent)
	assert.ErrorContains(t, err, "no HTML file")
	ended, end := context.WithCancel(t.Context())
	_, err = webpages.Read(ended, harbour, func(done, _ int) { end() })
	assert.True(t, errors.Is(err, context.Canceled), "it can be stopped")

	deep := strings.Repeat("<div>", 10_000) + "<p>Deep</p>"
	f, err := webpages.Read(t.Context(), fstest.MapFS{
		"deep.html": {Data: []byte(deep)}, "large.html": {Data: make([]byte, webpages.PageLimit+1)},
	}, silent)
	require.NoError(t, err)
	for _, p := range f.Pages[1:] {
		assert.NotEmpty(t, p.Left, "of %s something is left out, and said", p.Path)
	}
}

// Where the old addresses of a folder are those of what stands there now, nothing is taken from it, and the rest leads
// on.
func TestOldAddressesThatAreTaken(t *testing.T) {
	s, _, plan, _ := bring(t, harbour, "/sailings/harbour-2")
	at := address.Resolve(s, "/sailings/harbour-2/z-first.html", testkit.Now)
	assert.Equal(t, "First", s.Page(at.Page).Label)
	assert.NotContains(t, strings.Join(plan.Remarks, " "), "already")
	_, _, plan, _ = bring(t, harbour, "/sailings/")
	assert.Contains(t, strings.Join(plan.Remarks, " "), "“Sailings” has the address /sailings already.")
}

// Whatever is called alike, however long and however often: every heading and every page has an address of its own.
func TestManyOfOneLongName(t *testing.T) {
	long := strings.Repeat("all sailings are cancelled ", 12)
	parts := strings.Repeat("<h2>"+long+"</h2><h3>content</h3>", 60)
	from := fstest.MapFS{"index.html": {Data: []byte("<h1>Top</h1>" + parts)}}
	for i := range 40 {
		name := strings.Repeat("a", 90) + strings.Repeat("_", i%4) + strings.Repeat("-", i/4) + ".html"
		from[name] = &fstest.MapFile{Data: []byte("<h1>" + long + "</h1>")}
	}
	s, f, _, kept := bring(t, from, "/old")
	top := address.Resolve(s, "/old/index.html", testkit.Now).Page
	assert.Len(t, s.Children(top), len(from)-1)
	seen := map[string]bool{}
	for part := range strings.SplitSeq(kept[s.Page(top).Text], ` id="`) {
		if id, _, is := strings.Cut(part, `"`); is && strings.Contains(part, "</h") {
			assert.False(t, seen[id], id)
			seen[id] = true
		}
	}
	assert.Len(t, seen, 120)
	assert.Len(t, f.Pages, len(from))
}
