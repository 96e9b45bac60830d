package main

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"reflect"
	"runtime"
	"sync"
	"sync/atomic"
	"time"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/address"
	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/demo"
	"vineladder/internal/store"
	"vineladder/internal/web/workbench/tree"
)

var rows = []row{
	{
		name: "public-page", what: "a signed-out public page against a bare handler that writes the same bytes and " +
			"headers, over loopback, 8 connections",
		aim: 0.8, atLeast: true, unit: " req/s", measure: publicPage,
	},
	{
		name: "public-page-handler", what: "the same two handlers called directly, without the network's share",
		aim: 0.6, atLeast: true, unit: " req/s", measure: publicPageDirect,
	},
	{
		name: "missing-page",
		what: "addresses that lead nowhere, each another, against the page, over loopback, 8 connections",
		aim:  0.5, atLeast: true, unit: " req/s", measure: beside(func(n int, r *http.Request) {
			r.URL.Path = fmt.Sprintf("/nowhere/%d", n)
		}),
	},
	{
		name: "unknown-cookie", what: "the page with a session's cookie that was not made here, against the page",
		aim: 0.5, atLeast: true, unit: " req/s", measure: beside(func(n int, r *http.Request) {
			r.Header.Set("Cookie", fmt.Sprintf("vineladder_visitor=a%d.b", n))
		}),
	},
	{
		name: "unknown-query", what: "the page with a query string that nobody asked for before, against the page",
		aim: 0.5, atLeast: true, unit: " req/s", measure: beside(func(n int, r *http.Request) {
			r.URL.RawQuery = fmt.Sprintf("q=%d", n)
		}),
	},
	{
		name: "public-page-signed-in", what: "the page made for somebody who is signed in, its fragments kept, against " +
			"the bare handler called directly; reported, without an aim",
		aim: 0, atLeast: true, unit: " pages/s", measure: signedInPage,
	},
	{
		name: "public-page-cold", what: "signed-out pages that nobody asked for before, 2,000 different ones of one " +
			"revision, against the bare handler called directly; reported, the aim is 3,000 a second",
		aim: 0, atLeast: true, unit: " pages/s", measure: coldPages,
	},
	{
		name: "move-branch-1000", what: "a move of a branch of about 1,000 pages with its page, address and menu " +
			"consequences for 12 lenses, against PostgreSQL's recursive query that lists that branch with addresses, rows " +
			"fetched and scanned",
		aim: 1, unit: " ms", measure: moveBranch(1000),
	},
	{
		name: "move-branch-10000", what: "the same for a branch of about 10,000 pages",
		aim: 1, unit: " ms", measure: moveBranch(10_000),
	},
	{
		name: "load-site", what: "loading the Site, against the same queries through the same driver with every row scanned",
		aim: 3, unit: " ms", measure: loadSite,
	},
	{
		name: "heap", what: "heap after a collection, the Site with all indexes and 12 lenses, without page text, against " +
			"1 KiB a page",
		aim: 1, unit: " B a page", measure: heapPerPage,
	},
	{
		name: "publish-1000", what: "publishing 1,000 edits, consequences computed before, against one UPDATE from unnest " +
			"of the same rows and 1,000 inserted log rows in one commit",
		aim: 2, unit: " ms", measure: publishEdits,
	},
	{
		name: "ladder-window", what: "a window of 60 ladder rows deep in the scroll, every branch open, against the first " +
			"window",
		aim: 3, unit: " ms", measure: ladderWindow,
	},
	{
		name: "edit-at-size", what: "applying one edit at 1,000,000 pages, against the same at 1,000",
		aim: 2, unit: " ms", measure: editAtSize,
	},
	{
		name: "edit-draft", what: "one edit of a label, applied, against PostgreSQL's update of that row in a transaction",
		aim: 1, unit: " ms", measure: oneEdit,
	},
	{
		name: "menu-250-warm", what: "a page with a menu of 250 entries, its fragments kept, against a plain template " +
			"that ranges over the same entries",
		aim: 5, atLeast: true, unit: " pages/s", measure: manyEntries(true),
	},
	{
		name: "menu-250-cold", what: "the same with nothing kept",
		aim: 0.8, atLeast: true, unit: " pages/s", measure: manyEntries(false),
	},
	{
		name: "menu-2000-warm", what: "a menu of about 2,000 lines that follow the tree, for a lens that is known, " +
			"against a bare walk that collects those pages",
		aim: 10, unit: " ms", measure: treeMenu(true),
	},
	{
		name: "menu-2000-new", what: "the same menu for a new lens, against one bare pass over a slice of all pages",
		aim: 10, unit: " ms", measure: treeMenu(false),
	},
	{
		name: "cover-block", what: "the pages of one block with five conditions, against one bare pass over a slice of " +
			"all pages",
		aim: 5, unit: " ms", measure: coverBlock(branchesOnly),
	},
	{
		name: "cover-everywhere", what: "the same with five conditions that leave little out, so that no branch can be " +
			"passed by",
		aim: 5, unit: " ms", measure: coverBlock(everywhere),
	},
	{
		name: "regions-at-size", what: "all regions of one page of this site, against one of a site of 1,000 pages",
		aim: 2, unit: " ms", measure: regionsAtSize,
	},
	{
		name: "move-block", what: "the consequences of moving a block with 10 conditions for 12 lenses, against one bare " +
			"pass over a slice of all pages",
		aim: 30, unit: " ms", measure: moveBlock,
	},
	{
		name: "items-2000", what: "one window after another of a menu of 2,000 items in the menus area, with why each " +
			"does not show, against the windows of a menu of 20 items",
		aim: 3, unit: " ms", measure: itemWindows(false),
	},
	{
		name: "items-2000-anew", what: "the first of them after an edit, against the first of the small menu, which has a " +
			"hundredth of the rows; reported, without an aim",
		aim: 0, atLeast: true, unit: " ms", measure: itemWindows(true),
	},
	{
		name: "looks-everywhere", what: "the consequences of a level fewer in the header for 12 lenses, against one bare " +
			"pass over a slice of all pages",
		aim: 30, unit: " ms", measure: looksEverywhere,
	},
	{ // the last one: from here on the site has a menu for programs, which edits are compared with
		name: "menu-for-programs", what: "a menu that programs read, against the page, both packed as who asks takes them",
		aim: 0.25, atLeast: true, unit: " req/s", measure: programs(true),
	},
	{
		name: "menu-for-programs-plain", what: "the same not packed, against a bare handler that sends the same bytes",
		aim: 0.8, atLeast: true, unit: " req/s", measure: programs(false),
	},
}

// publicPath is that of a page in the middle of the site that everybody sees.
func publicPath(w *world) string {
	on := w.store.Published().Site
	lens := reach.Lens{At: time.Now()}
	var found site.PageID
	n := 0
	on.Walk(on.Home(), func(p *site.Page) bool {
		if n++; n > on.Count()/2 && reach.Ask(on, p.ID, lens) == reach.Sees {
			found = p.ID
		}
		return found == 0
	})
	return address.Of(on, found)
}

// bare answers with bytes and headers that were made before.
func bare(at string) http.Handler {
	response := must(client().Get(at))
	body := must(io.ReadAll(response.Body))
	if response.StatusCode != http.StatusOK {
		panic(response.Status)
	}
	header := response.Header.Clone()
	header.Del("Date")
	return http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		for name, values := range header {
			w.Header()[name] = values
		}
		_, _ = w.Write(body)
	})
}

func publicPage(_ context.Context, w *world) (ours, baseline func() float64) {
	path := publicPath(w)
	server := httptest.NewServer(bare(w.server.URL + path))
	return func() float64 { return load(w.server.URL + path) }, func() float64 { return load(server.URL + path) }
}

// programs asks for a menu as programs do.
func programs(packed bool) func(context.Context, *world) (ours, baseline func() float64) {
	return func(ctx context.Context, w *world) (ours, baseline func() float64) {
		menu := w.server.URL + programsMenu(ctx, w)
		take := func(r *http.Request) { r.Header.Set("Accept-Encoding", "gzip") }
		if packed {
			page := w.server.URL + publicPath(w)
			return func() float64 { return loadWith(menu, take) }, func() float64 { return loadWith(page, take) }
		}
		server := httptest.NewServer(bare(menu))
		return func() float64 { return load(menu) }, func() float64 { return load(server.URL) }
	}
}

// beside asks for the page in another way than it is kept for, against the page itself.
func beside(other func(n int, r *http.Request)) func(context.Context, *world) (ours, baseline func() float64) {
	return func(_ context.Context, w *world) (ours, baseline func() float64) {
		page, n := w.server.URL+publicPath(w), atomic.Int64{}
		ours = func() float64 {
			return loadWith(page, func(r *http.Request) { other(int(n.Add(1)), r) })
		}
		return ours, func() float64 { return load(page) }
	}
}

// programsMenu gives the address of a menu that programs may read.
func programsMenu(ctx context.Context, w *world) string {
	m := &w.store.Published().Site.Menus()[0]
	if !m.Programs {
		op := edit.OpEditMenu{
			Menu:   m.ID,
			Fields: []edit.FieldChange{{Field: edit.FieldPrograms, Old: "no", New: "yes"}},
		}
		must(w.store.PublishDirect(ctx, store.Account{Name: "bench"}, "let programs read a menu", []edit.Op{op}))
	}
	return "/api/menus/" + m.Key + ".json"
}

// load gives the requests per second that 8 connections get in a fixed number of requests.
func load(url string) float64 { return loadWith(url, func(*http.Request) {}) }

func loadWith(url string, change func(*http.Request)) float64 {
	const connections, each = 8, 400
	c := client()
	start := time.Now()
	var group sync.WaitGroup
	for range connections {
		group.Go(func() {
			for range each {
				request := must(http.NewRequest(http.MethodGet, url, nil))
				change(request)
				response := must(c.Do(request))
				_ = must(io.Copy(io.Discard, response.Body))
				response.Body.Close()
			}
		})
	}
	group.Wait()
	return connections * each / time.Since(start).Seconds()
}

// sink takes an answer as a connection would, without keeping it.
type sink struct{ header http.Header }

func (s *sink) Header() http.Header         { return s.header }
func (s *sink) Write(p []byte) (int, error) { return len(p), nil }
func (s *sink) WriteHeader(int)             {}

func publicPageDirect(_ context.Context, w *world) (ours, baseline func() float64) {
	calls := func(h http.Handler) func() float64 {
		request := httptest.NewRequest(http.MethodGet, "http://127.0.0.1"+publicPath(w), nil)
		return func() float64 {
			const n = 20_000
			start := time.Now()
			for range n {
				h.ServeHTTP(&sink{http.Header{}}, request)
			}
			return n / time.Since(start).Seconds()
		}
	}
	return calls(w.public.Handler()), calls(bare(w.server.URL + publicPath(w)))
}

// moveBranch moves a branch of about a number of pages to the other end of the site.
func moveBranch(pages int) func(context.Context, *world) (ours, baseline func() float64) {
	return func(ctx context.Context, w *world) (ours, baseline func() float64) {
		on := w.store.Published().Site
		page := w.branchOf(pages)
		into := on.Home()
		for _, id := range on.Children(on.Home()) {
			if id != on.Page(page).Parent && !on.IsWithin(page, id) {
				into = id
			}
		}
		size := 1 + on.Below(page)
		viewers := twelve(on)
		ours = func() float64 {
			return milliseconds(func() {
				now := time.Now()
				next, _, err := edit.Apply(on, edit.OpMove{Page: page, To: edit.Place{Parent: into}}, now)
				if err != nil {
					panic(err)
				}
				report := consequence.Compare(on, edit.Settle(on, next, now), viewers, nil)
				if len(report.Sentences()) < 2 {
					panic("too little changes")
				}
			})
		}
		baseline = func() float64 {
			return milliseconds(func() {
				rows := must(w.store.DB().QueryContext(ctx, `WITH RECURSIVE branch AS (
						SELECT id, '/' || segment AS address FROM pages WHERE id = $1
						UNION ALL
						SELECT p.id, b.address || '/' || p.segment FROM pages p JOIN branch b ON p.parent_id = b.id)
					SELECT id, address FROM branch`, int64(page)))
				defer rows.Close()
				n := 0
				for rows.Next() {
					var id int64
					var at string
					if err := rows.Scan(&id, &at); err != nil {
						panic(err)
					}
					n++
				}
				if n != size {
					panic(fmt.Sprint(n, " pages, not ", size))
				}
			})
		}
		return ours, baseline
	}
}

// twelve gives viewers of twelve kinds.
func twelve(on *site.Site) consequence.Viewers {
	sets := [][]string{
		{"staff", "operators"},
		{"harbour-masters", "operators"},
		{"board-members", "operators"},
		{"harbour-masters", "board-members"},
	}
	viewers := consequence.ViewersOf(on, sets, time.Now())
	if n := len(viewers.Names); n != 12 {
		panic(fmt.Sprint(n, " lenses"))
	}
	return viewers
}

// loadSite loads the Site, against the same queries with every row scanned.
func loadSite(ctx context.Context, w *world) (ours, baseline func() float64) {
	ours = func() float64 {
		return milliseconds(func() {
			again := must(store.Open(ctx, w.url, slog.New(slog.DiscardHandler)))
			again.Close()
		})
	}
	baseline = func() float64 {
		return milliseconds(func() {
			db := must(sqlx.Open("pgx", w.url))
			defer db.Close()
			for _, query := range store.LoadQueries() {
				scan(must(db.QueryxContext(ctx, query)))
			}
		})
	}
	return ours, baseline
}

// scan reads every row into values of the columns' own types.
func scan(rows *sqlx.Rows) {
	defer rows.Close()
	types := must(rows.ColumnTypes())
	values := make([]any, len(types))
	for i, t := range types {
		if values[i] = reflect.New(t.ScanType()).Interface(); t.DatabaseTypeName() == "_TEXT" ||
			t.DatabaseTypeName() == "TIMESTAMPTZ" {
			values[i] = new(any)
		}
	}
	for rows.Next() {
		for i := range values {
			if _, ok := values[i].(*string); ok {
				values[i] = new(string) // as every loader needs a string of its own
			}
		}
		if err := rows.Scan(values...); err != nil {
			panic(err)
		}
	}
}

// heapPerPage is the memory that a Site with its indexes and the tables of twelve lenses keeps, a page.
func heapPerPage(ctx context.Context, w *world) (ours, baseline func() float64) {
	ours = func() float64 {
		var before, after runtime.MemStats
		runtime.GC()
		runtime.ReadMemStats(&before)
		again := must(store.Open(ctx, w.url, slog.New(slog.DiscardHandler)))
		viewers := twelve(again.Published().Site)
		runtime.GC()
		runtime.ReadMemStats(&after)
		pages := again.Published().Site.Count()
		runtime.KeepAlive(viewers)
		again.Close()
		return float64(after.HeapAlloc-before.HeapAlloc) / float64(pages)
	}
	return ours, func() float64 { return 1024 }
}

// publishEdits publishes 1,000 edits, against one UPDATE of the same rows and 1,000 log rows in one commit.
func publishEdits(ctx context.Context, w *world) (ours, baseline func() float64) {
	by := must(
		w.store.AddAccount(
			ctx,
			fmt.Sprint("bench", time.Now().UnixNano()),
			"Bench",
			"long enough a password",
			[]string{"site-keeper"},
		),
	)
	draft := must(w.store.NewDraft(ctx, by, "bench"))
	on := w.store.Published().Site
	var pages []site.PageID
	on.Walk(on.Home(), func(p *site.Page) bool {
		if p.ID%41 == 0 && len(pages) < 1000 {
			pages = append(pages, p.ID)
		}
		return true
	})
	round := 0
	ours = func() float64 {
		round++
		d := must(w.store.AddStep(ctx, draft, by, "wrote summaries", func(d *store.Draft) ([]edit.Op, error) {
			return edit.SetMany(d.Site, pages, edit.FieldSummary, fmt.Sprint("Summary ", round)), nil
		}))
		must(w.store.Consequences(ctx, d))
		return milliseconds(func() {
			must(w.store.Publish(ctx, draft, by, store.Reviewed{Revision: d.Base.Revision, Version: d.Version}))
		})
	}
	must(w.store.DB().ExecContext(ctx, `CREATE TABLE bench_log (at timestamptz, op jsonb)`))
	var ids []int64
	for _, id := range pages {
		ids = append(ids, int64(id))
	}
	baseline = func() float64 {
		var summaries, log []string
		for _, id := range ids {
			summaries = append(summaries, fmt.Sprint("Summary ", round, id))
			log = append(
				log,
				fmt.Sprintf(
					`{"op": "edit", "v": 1, "with": {"page": %d, "fields": [{"old": "Summary %d", "new": "Summary %d", "field": "summary"}]}}`,
					id,
					round,
					round+1,
				),
			)
		}
		return milliseconds(func() {
			tx := must(w.store.DB().BeginTx(ctx, nil))
			must(
				tx.ExecContext(
					ctx,
					`UPDATE pages p SET summary = t.summary, revision = revision + 0 FROM unnest($1::bigint[], $2::text[]) AS t (id, summary) WHERE p.id = t.id`,
					ids,
					summaries,
				),
			)
			must(
				tx.ExecContext(
					ctx,
					`INSERT INTO bench_log SELECT now(), op::jsonb FROM unnest($1::text[]) AS t (op)`,
					log,
				),
			)
			if err := tx.Commit(); err != nil {
				panic(err)
			}
		})
	}
	return ours, baseline
}

// ladderWindow renders a window of 60 rows deep in a ladder whose branches are all open, against the first window.
func ladderWindow(_ context.Context, w *world) (ours, baseline func() float64) {
	on := w.store.Published().Site
	window := tree.OpenLadder(on, time.Now())
	total := window(0, 1)
	deep := []int{total / 2, total - 60, total / 3}
	n := 0
	ours = func() float64 { n++; return milliseconds(func() { window(deep[n%3], 60) }) }
	return ours, func() float64 { return milliseconds(func() { window(0, 60) }) }
}

// editAtSize applies one edit at a million pages, against the same at a thousand.
func editAtSize(context.Context, *world) (ours, baseline func() float64) {
	apply := func(pages int) func() float64 {
		on := demo.InMemory(demo.Synthetic{Pages: pages, Seed: 1})
		kids := on.Children(on.Home())
		page := on.Page(kids[len(kids)/2])
		op := edit.OpEdit{
			Page:   page.ID,
			Fields: []edit.FieldChange{{Field: edit.FieldLabel, Old: page.Label, New: "Another"}},
		}
		return func() float64 {
			const times = 2000
			return milliseconds(func() {
				for range times {
					if _, _, err := edit.Apply(on, op, time.Now()); err != nil {
						panic(err)
					}
				}
			}) / times
		}
	}
	return apply(1_000_000), apply(1_000)
}

func oneEdit(ctx context.Context, w *world) (ours, baseline func() float64) {
	on := w.store.Published().Site
	page := on.Page(on.Children(on.Home())[5])
	op := edit.OpEdit{
		Page:   page.ID,
		Fields: []edit.FieldChange{{Field: edit.FieldLabel, Old: page.Label, New: "Another"}},
	}
	var next *site.Site
	ours = func() float64 {
		return milliseconds(func() { next, _, _ = edit.Apply(on, op, time.Now()) })
	}
	baseline = func() float64 {
		return milliseconds(func() {
			tx := must(w.store.DB().BeginTx(ctx, nil))
			must(tx.ExecContext(ctx, `UPDATE pages SET label = $2 WHERE id = $1`, int64(page.ID), page.Label))
			if err := tx.Commit(); err != nil {
				panic(err)
			}
		})
	}
	_ = next
	return ours, baseline
}
