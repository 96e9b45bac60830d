package public

import (
	"context"
	"io"
	"net/http"
	"net/url"
	"os"
	"path"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/html"

	"vineladder/internal/blob"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
	"vineladder/internal/formats/webpages"
	"vineladder/internal/store"
)

// A documentation tree of 4,424 pages, as Debian's package cppreference-doc-en-html has it. Where the package is not
// installed, the test is left out; nothing of it is part of this repository.
const realTree = "/usr/share/cppreference/doc/html"

// Every internal link that resolved before resolves after: of each file of a real documentation tree the links are read
// by themselves, and the public site is walked, from the address at which the file stood.
func TestARealDocumentationTree(t *testing.T) {
	if _, err := os.Stat(realTree); err != nil {
		t.Skip("Debian's cppreference-doc-en-html is not installed")
	}
	server, s, st, kept := serveFiles(t)
	on := st.Published().Site
	began := time.Now()
	folder, err := webpages.Read(t.Context(), os.DirFS(realTree), func(int, int) {})
	require.NoError(t, err)
	read := time.Since(began)
	cleaner := text.NewCleaner()
	plan, err := folder.Brings(t.Context(), on, webpages.Destination{
		Below: on.Home(), WereAt: "/reference", Now: s.now(), Told: func(int, int) {},
		IDs: func(n int) ([]site.PageID, error) { return st.NewPageIDs(context.Background(), n) },
		Keep: func(name string, from io.Reader) (site.Bytes, error) {
			holds, err := kept.Keep(context.Background(), name, from)
			if refused, is := err.(*blob.Refusal); is {
				err = &edit.Refusal{Sentence: refused.Sentence}
			}
			return holds, err
		},
		Free:  func(_ *site.Site, wanted string, holds site.Bytes) string { return "ref-" + blob.Name(wanted, holds) },
		Clean: func(with *site.Site, raw string) string { return cleaner.Clean(with, raw, s.now()) },
		Save:  func(texts []string) ([]string, error) { return st.SaveTexts(context.Background(), texts...) },
	})
	require.NoError(t, err)
	_, err = st.PublishDirect(t.Context(), store.Account{Name: "test"}, "a tree", plan.Ops)
	require.NoError(t, err)
	t.Logf("%d pages, %d files: read in %s, brought in %s", plan.Pages, plan.Files, read, time.Since(began)-read)
	t.Log(plan.Remarks)

	// Where each file is now, by its old address.
	now := map[string]string{}
	pages := map[string]string{} // what is there
	for _, p := range folder.Pages {
		if p.Path == "" {
			continue
		}
		answer, err := http.Get(server.URL + (&url.URL{Path: "/reference/" + p.Path}).EscapedPath())
		require.NoError(t, err)
		body, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		answer.Body.Close()
		if !assert.Equal(t, http.StatusOK, answer.StatusCode, p.Path) {
			continue
		}
		now[p.Path] = answer.Request.URL.Path
		pages[p.Path] = string(body)
	}
	links, parts := 0, 0
	for from, body := range pages {
		after := hrefs(t, body)
		source, err := os.ReadFile(path.Join(realTree, from))
		require.NoError(t, err)
		for href := range hrefs(t, string(source)) {
			to, part := resolved(from, href)
			there, known := now[to]
			if !known || to == from && part == "" {
				continue
			}
			links++
			if part != "" && after[there+"#"+part] {
				parts++
				continue
			}
			found := after[there]
			for at := range after {
				found = found || strings.HasPrefix(at, there+"#") || to == from && strings.HasPrefix(at, "#")
			}
			assert.True(t, found, "%s: %s should lead to %s", from, href, there)
		}
		if t.Failed() {
			break
		}
	}
	t.Logf("%d links, %d to a part", links, parts)
	assert.Greater(t, links, 50_000)
}

// hrefs are the addresses to which a document links.
func hrefs(t *testing.T, document string) map[string]bool {
	all := map[string]bool{}
	z := html.NewTokenizer(strings.NewReader(document))
	for {
		switch z.Next() {
		case html.ErrorToken:
			return all
		case html.StartTagToken:
			token := z.Token()
			for _, a := range token.Attr {
				if token.Data == "a" && a.Key == "href" {
					all[a.Val] = true
				}
			}
		}
	}
}

// resolved gives the file of the tree to which an address leads, and the part of it.
func resolved(from, href string) (string, string) {
	at, err := url.Parse(href)
	if err != nil || at.Scheme != "" || at.Host != "" {
		return "", ""
	}
	base := &url.URL{Path: "/" + from}
	to := base.ResolveReference(at)
	return strings.TrimPrefix(to.Path, "/"), at.Fragment
}
