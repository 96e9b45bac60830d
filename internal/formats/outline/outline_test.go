package outline_test

import (
	"bytes"
	"encoding/xml"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/target"
	"vineladder/internal/core/testkit"
	"vineladder/internal/formats/outline"
)

const origin = "https://harbour.example"

func menuOf(t *testing.T) (*site.Site, *site.Menu) {
	s := testkit.Outline(t, "Home\n  Sailings\n    Fares & offers")
	return s, &site.Menu{ID: 1, Key: "main", Name: "Main <menu>", Entries: []site.Entry{
		{ID: 1, Label: "Boats", Shows: site.ItemHeading{}},
		{
			ID: 2, Parent: 1, Shows: site.ItemPage{Page: testkit.Find(t, s, "Fares & offers")}, Hint: "What it costs",
			Badge: site.Badge{
				Text:   "New",
				Pair:   "#ffffff on #12414a",
				Before: true,
			}, Icon: "ship", LiveUntil: testkit.Now.Add(time.Hour),
		},
		{
			ID:     3,
			Label:  "Tides",
			Shows:  site.ItemWeb{Address: "https://tides.example/?a=1&b=2"},
			Off:    true,
			NewTab: true,
		},
		{ID: 4, Shows: site.ItemBranch{Root: 1, Depth: 2, Self: site.SelfNot}, Audience: "staff"},
		{ID: 5, Label: "Rates", Shows: site.ItemFile{File: "rates.pdf"}},
		{ID: 6, Label: "Sign in", Shows: site.ItemAccount{Does: site.AccountSignIn}},
	}}
}

// Source: OPML 2.0, from memory: an opml element with a version, a head with a title and a date of RFC 822, a body of
// outlines, each with a text; a “link” has a url; isComment says that an outline does not count.
func TestOPML(t *testing.T) {
	s, m := menuOf(t)
	var out bytes.Buffer
	require.NoError(t, outline.WriteOPML(&out, outline.Of(s, m, origin), testkit.Now))
	var read struct {
		Version string `xml:"version,attr"`
		Title   string `xml:"head>title"`
		Created string `xml:"head>dateCreated"`
		Body    []struct {
			Attrs []xml.Attr `xml:",any,attr"`
			Kids  []struct {
				Attrs []xml.Attr `xml:",any,attr"`
			} `xml:"outline"`
		} `xml:"body>outline"`
	}
	require.NoError(t, xml.Unmarshal(out.Bytes(), &read))
	assert.Equal(t, "2.0", read.Version)
	assert.Equal(t, "Main <menu>", read.Title)
	assert.Equal(t, "Tue, 24 Nov 2026 12:00:00 UTC", read.Created)
	attr := func(attrs []xml.Attr, name string) string {
		for _, a := range attrs {
			if a.Name.Local == name {
				return a.Value
			}
		}
		return ""
	}
	require.Len(t, read.Body, 5)
	assert.Equal(t, "Boats", attr(read.Body[0].Attrs, "text"))
	kid := read.Body[0].Kids[0].Attrs
	assert.Equal(
		t,
		[]string{"Fares & offers", "link", "https://harbour.example/sailings/fares-and-offers", "What it costs"},
		[]string{attr(kid, "text"), attr(kid, "type"), attr(kid, "url"), attr(kid, "description")},
	)
	assert.Equal(t, "https://tides.example/?a=1&b=2", attr(read.Body[1].Attrs, "url"))
	assert.Equal(t, "true", attr(read.Body[1].Attrs, "isComment"))
	assert.Equal(t, "branch:p1:2:not", attr(read.Body[2].Attrs, "shows"))
}

// taken makes a menu of a document, as an import does.
func taken(t require.TestingT, s *site.Site, m outline.Menu) *site.Menu {
	ids := make([]site.EntryID, m.Count())
	for i := range ids {
		ids[i] = site.EntryID(100 + i)
	}
	forms, err := m.Forms(s, origin, ids, testkit.Now)
	require.NoError(t, err)
	next, _, err := edit.Apply(s, edit.OpMakeMenu{Menu: 9, Name: m.Name, Entries: forms}, testkit.Now)
	require.NoError(t, err)
	return next.Menu(9)
}

// What is written comes back as it was, in both formats, whatever the menu.
func TestRoundTrip(t *testing.T) {
	s, m := menuOf(t)
	both := func(t require.TestingT, s *site.Site, m *site.Menu) {
		written := outline.Of(s, m, origin)
		var asJSON, asOPML bytes.Buffer
		require.NoError(t, outline.WriteJSON(&asJSON, []outline.Menu{written}))
		require.NoError(t, outline.WriteOPML(&asOPML, written, testkit.Now))
		for _, document := range []string{asJSON.String(), asOPML.String()} {
			read, err := outline.Read([]byte(document))
			require.NoError(t, err)
			again := outline.Of(s, taken(t, s, read[0]), origin)
			require.Equal(t, written.Entries, again.Entries, document)
		}
	}
	both(t, s, m)
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 12)
		both(t, s, testkit.RandomMenu(t, s))
	})
}

// Source: the examples of the OPML 2.0 specification, from memory, cut short: states (a plain outline), places lived
// (text with markup), a directory of links, and a list of subscriptions, whose addresses stand in htmlUrl and xmlUrl.
func TestOutlinesFromElsewhere(t *testing.T) {
	s, _ := menuOf(t)
	for name, c := range map[string]struct {
		body string
		want string
	}{
		"states": {
			`<outline text="United States"><outline text="Far West"><outline text="Alaska"/><outline text="Nevada"><outline text="Reno" created="Tue, 12 Jul 2005 23:56:35 GMT"/></outline></outline></outline>`,
			"United States heading; Far West heading; Alaska heading; Nevada heading; Reno heading",
		},
		"directory": {
			`<outline text="Scripting" created="Sun, 16 Oct 2005 05:56:10 GMT" type="link" url="http://hosting.example/scripting.opml"/><outline text="Fares" type="link" url="https://harbour.example/sailings/fares-and-offers"/>`,
			"Scripting web:http://hosting.example/scripting.opml; Fares page:3",
		},
		"subscriptions": {
			`<outline text="News" description="Tech news" htmlUrl="http://news.example/" language="unknown" title="News" type="rss" version="RSS2" xmlUrl="http://news.example/2547.xml"/>`,
			"News web:http://news.example/",
		},
		"places lived": {`<outline text="  Wisconsin &lt;b&gt;and&lt;/b&gt; more "/>`, "Wisconsin <b>and</b> more heading"},
	} {
		t.Run(name, func(t *testing.T) {
			read, err := outline.Read(
				[]byte(
					`<?xml version="1.0" encoding="ISO-8859-1"?><opml version="2.0"><head><title>` + name + `</title></head><body>` +
						c.body + `</body></opml>`,
				),
			)
			require.NoError(t, err, "the specification's files say ISO-8859-1")
			assert.Equal(t, name, read[0].Name)
			var got []string
			for _, e := range taken(t, s, read[0]).Entries {
				got = append(got, s.EntryLabel(&e)+" "+target.Text(e.Shows))
			}
			assert.Equal(t, c.want, strings.Join(got, "; "))
		})
	}
}

func TestWhatCannotBeRead(t *testing.T) {
	s, _ := menuOf(t)
	deep := strings.Repeat(
		`<outline text="x">`,
		outline.DepthLimit+1,
	) + strings.Repeat(
		`</outline>`,
		outline.DepthLimit+1,
	)
	for document, want := range map[string]string{
		"words": "neither OPML nor a list of menus", "<opml": "this is not OPML",
		`<opml version="7"><body/></opml>`: "version “7” is not known",
		`<opml version="2.0"><body>` + deep +
			`</body></opml>`: "more than 50 deep",
		fmt.Sprintf(`[{"key":"a","name":"A","entries":[%s{}]}]`, strings.Repeat(`{},`,
			outline.EntryLimit)): "more than 20000 entries",
	} {
		_, err := outline.Read([]byte(document))
		assert.ErrorContains(t, err, want)
	}
	read, err := outline.Read(
		[]byte(
			`[{"key":"a","name":"A","entries":[{"label":"One","fields":{"shows":"page:nowhere"}},{"label":"Two","entries":[{"label":"Three","url":"/gone"},{"label":"Four","url":"gopher://x"}]}]}]`,
		),
	)
	require.NoError(t, err)
	_, err = read[0].Forms(s, origin, make([]site.EntryID, 4), testkit.Now)
	for _, fault := range []string{
		"One: there is no page with the key “nowhere”",
		"Two › Three: there is no page at /gone", "Two › Four: A web address starts with",
	} {
		assert.ErrorContains(t, err, fault)
	}
}

// Whatever is wrong with an entry, its line is said, in JSON as in OPML, however the document is set.
func TestFaultsOfJSONNameTheLine(t *testing.T) {
	s, _ := menuOf(t)
	rapid.Check(t, func(t *rapid.T) {
		n, wrong := 0, rapid.IntRange(1, 8).Draw(t, "which is wrong")
		gap := rapid.SampledFrom([]string{"", " ", "\n", "\n\n  "})
		var document strings.Builder
		line := 0
		var entry func(depth int)
		entry = func(depth int) {
			n++
			document.WriteString(gap.Draw(t, "before"))
			if n == wrong {
				line = 1 + strings.Count(document.String(), "\n")
			}
			shows := map[bool]string{true: "page:nowhere", false: "heading"}[n == wrong]
			fmt.Fprintf(&document, `{"label": "E", "fields": {%s"shows": %q}`, gap.Draw(t, "inside"), shows)
			if depth < 3 && n < 8 && rapid.Bool().Draw(t, "deeper") {
				document.WriteString(`, "entries":` + gap.Draw(t, "list") + "[")
				entry(depth + 1)
				document.WriteString("]")
			}
			document.WriteString(gap.Draw(t, "end") + "}")
		}
		document.WriteString(`[{"name": "M", "entries": [`)
		for entry(0); n < 8; entry(0) {
			document.WriteString(",")
		}
		document.WriteString("]}]")
		if line == 0 {
			t.Skip("it is deeper than was made")
		}
		read, err := outline.Read([]byte(document.String()))
		require.NoError(t, err)
		_, err = read[0].Forms(s, origin, make([]site.EntryID, n), testkit.Now)
		require.ErrorContains(t, err, fmt.Sprintf("line %d, E", line))
	})
}

// What stands below a run, but below none of its lines, would never show: it is refused with its line and name.
func TestNothingStandsAmongTheLinesOfARun(t *testing.T) {
	s, _ := menuOf(t)
	read, err := outline.Read(
		[]byte(
			"<opml version=\"2.0\"><body>\n<outline text=\"All\" shows=\"branch:p1:not:0\">\n<outline text=\"Mail\" " +
				"url=\"https://mail.example/\"/>\n</outline></body></opml>",
		),
	)
	require.NoError(t, err)
	_, err = read[0].Forms(s, origin, make([]site.EntryID, 2), testkit.Now)
	assert.ErrorContains(t, err, "line 3, All › Mail: it can't stand among lines that follow the tree")
}

// Whatever is read, what can be written of it reads the same again, and nothing is read that is over the limits.
func FuzzRead(f *testing.F) {
	for _, seed := range []string{
		`<opml version="2.0"><head><title>States</title></head><body><outline text="Alaska"><outline text="Nome" type="link" url="/a"/></outline></body></opml>`,
		`[{"key":"a","name":"A","entries":[{"label":"One","fields":{"shows":"page:p1","on":"no"},"entries":[{"label":"Two"}]}]}]`, `<opml`, `[{}]`, "\ufeff<opml version=\"1.0\"/>",
	} {
		f.Add([]byte(seed))
	}
	f.Fuzz(func(t *testing.T, document []byte) {
		menus, err := outline.Read(document)
		if err != nil {
			return
		}
		for _, m := range menus {
			if m.Count() > outline.EntryLimit {
				t.Fatalf("%d entries were read", m.Count())
			}
		}
		var out bytes.Buffer
		if err := outline.WriteJSON(&out, menus); err != nil {
			t.Fatal(err)
		}
		again, err := outline.Read(out.Bytes())
		if err != nil || len(again) != len(menus) {
			t.Fatalf("what was written is not read again: %v", err)
		}
	})
}
