package public

import (
	"encoding/xml"
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/store"
)

// The sitemap is what its schema says (sitemaps.org protocol 0.9, as the package “sitemap” ships it), and has exactly
// the addresses that answer everybody with a page of their own; what is kept out says so in its head and header.
func TestWhatSearchEnginesFind(t *testing.T) {
	server, _, st, _ := serveFiles(t)
	get := func(path string) (*http.Response, string) {
		client := &http.Client{
			CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
		}
		answer, err := client.Get(server.URL + path)
		require.NoError(t, err)
		defer answer.Body.Close()
		body, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		return answer, string(body)
	}
	publish := func(ops ...edit.Op) {
		_, err := st.PublishDirect(t.Context(), store.Account{Name: "test"}, "test", ops)
		require.NoError(t, err)
	}
	listed := func() []string {
		_, body := get("/sitemap.xml")
		var set struct {
			URLs []struct {
				Loc string `xml:"loc"`
			} `xml:"url"`
		}
		require.NoError(t, xml.Unmarshal([]byte(body), &set))
		var all []string
		for _, u := range set.URLs {
			all = append(all, strings.TrimPrefix(u.Loc, server.URL))
		}
		return all
	}
	answer, body := get("/sitemap.xml")
	assert.Equal(t, "application/xml; charset=utf-8", answer.Header.Get("Content-Type"))
	file := filepath.Join(t.TempDir(), "sitemap.xml")
	require.NoError(t, os.WriteFile(file, []byte(body), 0o600))
	schema := "../../../node_modules/sitemap/schema/sitemap.xsd"
	said, err := exec.Command("xmllint", "--nonet", "--noout", "--schema", schema, file).CombinedOutput()
	require.NoError(t, err, string(said))

	all := listed()
	on := st.Published().Site
	settings := on.Settings()
	on.Walk(on.Home(), func(p *site.Page) bool {
		at := address.Of(on, p.ID)
		special := slices.Contains(
			[]site.PageID{settings.NotFound, settings.NoAccess, settings.SignIn, settings.Shut},
			p.ID,
		)
		answer, _ := get(at)
		want := answer.StatusCode == http.StatusOK && !special && !p.IsFile()
		assert.Equal(t, want, slices.Contains(all, at), at)
		return true
	})

	freight := on.Child(on.Home(), "freight")
	publish(edit.OpEdit{Page: freight, Fields: []edit.FieldChange{{Field: edit.FieldKeptOut, Old: "no", New: "yes"}}})
	for range 2 { // the second is a kept answer
		below, page := get("/freight/freight-rates")
		assert.Equal(t, "noindex", below.Header.Get("X-Robots-Tag"))
		assert.Contains(t, page, `<meta name="robots" content="noindex">`)
	}
	paper, _ := get("/files/freight-rates.pdf")
	assert.Equal(t, "noindex", paper.Header.Get("X-Robots-Tag"), "a file below it, too")
	assert.False(t, slices.ContainsFunc(listed(), func(at string) bool { return strings.HasPrefix(at, "/freight") }))
	home, _ := get("/")
	assert.Empty(t, home.Header.Get("X-Robots-Tag"))

	_, rules := get("/robots.txt")
	assert.Equal(t, fmt.Sprintf("User-agent: *\nAllow: /\n\nSitemap: %s/sitemap.xml\n", server.URL), rules)
	publish(
		edit.OpEditSettings{
			Fields: []edit.FieldChange{{Field: edit.FieldRobots, New: "User-agent: *\nDisallow: /nets"}},
		},
	)
	_, rules = get("/robots.txt")
	assert.True(t, strings.HasPrefix(rules, "User-agent: *\nDisallow: /nets\n\nSitemap: "), rules)
	publish(edit.OpEditSettings{Fields: []edit.FieldChange{{Field: edit.FieldClosed, Old: "no", New: "yes"}}})
	shut, _ := get("/sitemap.xml")
	assert.Equal(t, http.StatusServiceUnavailable, shut.StatusCode)
}

// More addresses than a file holds are parts, each once, named by a list of them.
func TestASitemapOfSeveralParts(t *testing.T) {
	b := testkit.HomeAlone().Builder()
	for id := site.PageID(2); id <= 2*sitemapLimit+11; id++ {
		b.Put(&site.Page{
			ID: id, Parent: 1, Status: site.StatusLive, Kind: "page", Key: fmt.Sprint(id), Label: "Page",
			Segment: fmt.Sprintf("page-%d", id), Rank: fmt.Sprintf("a%07d", id),
		})
	}
	s := b.Site()
	r := &Renderer{origin: "https://harbour.example"}
	ask := func(query string) Response {
		return r.sitemap(Request{Site: s, Query: query, Lens: reach.Lens{At: testkit.Now}})
	}
	index := string(ask("").Body)
	assert.Equal(t, 3, strings.Count(index, "<sitemap>"))
	assert.Contains(t, index, "https://harbour.example/sitemap.xml?part=3")
	seen := map[string]bool{}
	for part, want := range []int{sitemapLimit, sitemapLimit, 11} {
		n := 0
		for line := range strings.Lines(string(ask(fmt.Sprintf("part=%d", part+1)).Body)) {
			if strings.HasPrefix(line, "<url>") {
				n++
				assert.False(t, seen[line])
				seen[line] = true
			}
		}
		assert.Equal(t, want, n)
	}
	for _, bad := range []string{"part=0", "part=4", "part=x"} {
		assert.Equal(t, http.StatusNotFound, ask(bad).Status, bad)
	}
}
