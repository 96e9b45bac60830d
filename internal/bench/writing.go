package main

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/http/httptest"
	"net/url"
	"runtime"
	"strings"
	"testing/fstest"
	"time"

	"golang.org/x/net/html"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
	"vineladder/internal/formats/webpages"
	"vineladder/internal/store"
)

// These rows measure writing, links and being found (rules 12).
func init() {
	rows = append(rows, []row{
		{
			name: "links-in", what: "what links into a branch of 1,000 pages from outside of it, three links a page, against " +
				"walking the same edges by hand",
			aim: 2, unit: " ms", measure: linksIn,
		},
		{
			name: "link-bytes", what: "memory for each link, both ways, in bytes, of a site whose pages have three links " +
				"each; against one byte",
			aim: 48, unit: " bytes", measure: linkBytes,
		},
		{
			name: "search", what: "the first hits of a common word for who is signed out, as a whole page, against the bare " +
				"full-text query with the same limit",
			aim: 2, unit: " ms", measure: searching,
		},
		{
			name: "large-text", what: "a page with a text of 100 KB from what is kept, against any page, called directly",
			aim: 0.5, atLeast: true, unit: " req/s", measure: largeText,
		},
		{
			name: "import-html", what: "2,000 HTML files read, planned and cleaned, against parsing them with the same parser",
			aim: 3, unit: " ms", measure: importHTML,
		},
	}...)
}

// withLinks gives a site of the same tree in which each page links three others by its text.
func withLinks(on *site.Site) (*site.Site, map[site.PageID][]site.PageID) {
	random := rand.New(rand.NewPCG(1, 2))
	round++ // so that texts are new each time, and what is kept of them counts
	var ids []site.PageID
	on.Walk(on.Home(), func(p *site.Page) bool { ids = append(ids, p.ID); return true })
	edges := make(map[site.PageID][]site.PageID, len(ids))
	ops := make([]edit.Op, 0, len(ids))
	for i, id := range ids {
		to := []site.PageID{ids[random.IntN(len(ids))], ids[random.IntN(len(ids))], ids[random.IntN(len(ids))]}
		hash := fmt.Sprintf("%08x%024x", round, i)
		on.Texts().Know(hash, to)
		edges[id] = to
		ops = append(ops, edit.OpEdit{Page: id, Fields: []edit.FieldChange{
			{Field: edit.FieldText, Old: on.Page(id).Text, New: hash},
		}})
	}
	next, _, err := edit.ApplyAll(on, ops, time.Now())
	return must(next, err), edges
}

func linksIn(_ context.Context, w *world) (ours, baseline func() float64) {
	on, edges := withLinks(w.store.Published().Site)
	back := map[site.PageID][]site.PageID{}
	for from, all := range edges {
		for _, to := range all {
			back[to] = append(back[to], from)
		}
	}
	top := w.branchOf(1000)
	const times = 100
	ours = func() float64 {
		return milliseconds(func() {
			for range times {
				n := 0
				on.Walk(top, func(p *site.Page) bool {
					for _, from := range on.Linking(p.ID) {
						if !on.IsWithin(from, top) {
							n++
						}
					}
					return true
				})
				runtime.KeepAlive(n)
			}
		})
	}
	baseline = func() float64 {
		return milliseconds(func() {
			for range times {
				n := 0
				on.Walk(top, func(p *site.Page) bool {
					for _, from := range back[p.ID] {
						if !on.IsWithin(from, top) {
							n++
						}
					}
					return true
				})
				runtime.KeepAlive(n)
			}
		})
	}
	return ours, baseline
}

// round is how often texts with links were made.
var round int

func linkBytes(_ context.Context, w *world) (ours, baseline func() float64) {
	ours = func() float64 {
		on := w.store.Published().Site
		bare := heap()
		plain := sameTexts(on)
		without := heap() - bare
		before := heap()
		linked, edges := withLinks(on)
		links := 0
		for _, to := range edges {
			links += len(to)
		}
		edges = nil
		with := heap() - before
		runtime.KeepAlive(plain)
		runtime.KeepAlive(linked)
		return max(with-without, 0) / float64(links)
	}
	return ours, func() float64 { return 1 }
}

// sameTexts gives the site with a text on each page that links nothing, so that what texts cost is not counted.
func sameTexts(on *site.Site) *site.Site {
	var ops []edit.Op
	n := 0
	on.Walk(on.Home(), func(p *site.Page) bool {
		n++
		ops = append(ops, edit.OpEdit{Page: p.ID, Fields: []edit.FieldChange{
			{Field: edit.FieldText, Old: p.Text, New: fmt.Sprintf("f%031x", n)},
		}})
		return true
	})
	next, _, err := edit.ApplyAll(on, ops, time.Now())
	return must(next, err)
}

func heap() float64 {
	runtime.GC()
	runtime.GC()
	var stats runtime.MemStats
	runtime.ReadMemStats(&stats)
	return float64(stats.HeapAlloc)
}

func searching(ctx context.Context, w *world) (ours, baseline func() float64) {
	on := w.store.Published().Site
	page := on.Children(on.Home())[0]
	must(w.store.PublishDirect(ctx, store.Account{Name: "bench"}, "search", []edit.Op{
		edit.OpEditSettings{Fields: []edit.FieldChange{{
			Field: edit.FieldSearchPage, Old: edit.SettingValue(on.Settings(), edit.FieldSearchPage), New: fmt.Sprint(page),
		}}},
	}))
	word := commonWord(on)
	at := "http://127.0.0.1" + address.Of(w.store.Published().Site, page) + "?" + url.Values{"q": {word}}.Encode()
	const times = 5
	ours = func() float64 {
		return milliseconds(func() {
			for range times {
				answer := httptest.NewRecorder()
				w.public.Handler().ServeHTTP(answer, httptest.NewRequest(http.MethodGet, at, nil))
				if !strings.Contains(answer.Body.String(), "<mark>") &&
					!strings.Contains(answer.Body.String(), "hits") {
					panic("nothing was found: " + at)
				}
			}
		}) / times
	}
	baseline = func() float64 {
		return milliseconds(func() {
			for range times {
				must(w.store.FindPages(ctx, on.Settings().Language, word, 0, 200))
			}
		}) / times
	}
	return ours, baseline
}

// commonWord is the word that most labels have.
func commonWord(on *site.Site) string {
	counts := map[string]int{}
	best := ""
	on.Walk(on.Home(), func(p *site.Page) bool {
		for word := range strings.FieldsSeq(strings.ToLower(p.Label)) {
			if counts[word]++; len(word) > 4 && counts[word] > counts[best] {
				best = word
			}
		}
		return true
	})
	return best
}

func largeText(ctx context.Context, w *world) (ours, baseline func() float64) {
	other := publicPath(w)
	on := w.store.Published().Site
	id := address.Resolve(on, other, time.Now()).Page
	beside := on.Page(on.Page(id).Parent)
	paragraph := "<p>" + strings.Repeat("Ferries, piers and harbours. ", 35) + "</p>"
	hash := must(w.store.SaveTexts(ctx, strings.Repeat(paragraph, 100)))[0]
	must(w.store.PublishDirect(ctx, store.Account{Name: "bench"}, "a long text", []edit.Op{
		edit.OpEdit{
			Page:   beside.ID,
			Fields: []edit.FieldChange{{Field: edit.FieldText, Old: beside.Text, New: hash}},
		},
	}))
	calls := func(path string) func() float64 {
		request := httptest.NewRequest(http.MethodGet, "http://127.0.0.1"+path, nil)
		return func() float64 {
			const n = 10_000
			start := time.Now()
			for range n {
				w.public.Handler().ServeHTTP(&sink{http.Header{}}, request)
			}
			return n / time.Since(start).Seconds()
		}
	}
	return calls(address.Of(w.store.Published().Site, beside.ID)), calls(other)
}

// importHTML measures on files of a lifelike shape: navigation around, headings, lists, a table, links.
func importHTML(ctx context.Context, w *world) (ours, baseline func() float64) {
	const files = 2000
	folder := fstest.MapFS{}
	for i := range files {
		var page bytes.Buffer
		fmt.Fprintf(
			&page,
			`<!doctype html><html><head><title>Page %d – Handbook</title></head><body><header>Handbook</header><nav>`,
			i,
		)
		for k := range 60 {
			fmt.Fprintf(&page, `<a class="nav" href="p%d.html">Page %d</a> `, k, k)
		}
		fmt.Fprintf(&page, `</nav><main><h1>Page %d</h1>`, i)
		for k := range 12 {
			fmt.Fprintf(
				&page,
				`<h2 id="s%d">Part %d</h2><p class="lead">Ferries <b>call</b> at <a href="p%d.html#s2">the quay</a>, `+
					`piers and harbours in all weathers and every day of the year.</p><ul><li>One</li><li>Two <i>more</i></li></ul>`,
				k,
				k,
				(i+k)%files,
			)
		}
		page.WriteString(
			`<table><tr><th>Pier</th><th>Depth</th></tr><tr><td>North</td><td>4</td></tr></table></main></body></html>`,
		)
		folder[fmt.Sprintf("p%d.html", i)] = &fstest.MapFile{Data: page.Bytes()}
	}
	silent := func(int, int) {}
	on := w.store.Published().Site
	cleaner := text.NewCleaner()
	ours = func() float64 {
		return milliseconds(func() {
			read := must(webpages.Read(ctx, folder, silent))
			must(read.Brings(ctx, on, webpages.Destination{
				Below: on.Home(), WereAt: "/handbook", Now: time.Now(), Told: silent,
				IDs: func(n int) ([]site.PageID, error) {
					ids := make([]site.PageID, n)
					for i := range ids {
						ids[i] = site.PageID(1_000_000_000 + i)
					}
					return ids, nil
				},
				Keep:  func(string, io.Reader) (site.Bytes, error) { return site.Bytes{}, &edit.Refusal{} },
				Free:  func(_ *site.Site, wanted string, _ site.Bytes) string { return wanted },
				Clean: func(with *site.Site, raw string) string { return cleaner.Clean(with, raw, time.Now()) },
				Save:  func(texts []string) ([]string, error) { return make([]string, len(texts)), nil },
			}))
		})
	}
	baseline = func() float64 {
		return milliseconds(func() {
			for _, file := range folder {
				must(html.Parse(bytes.NewReader(file.Data)))
			}
		})
	}
	return ours, baseline
}
