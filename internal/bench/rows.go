package main

import (
	"context"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"sync"
	"time"

	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

var rows = []row{
	{name: "public-page", what: "a signed-out public page against a bare handler that writes the same bytes and headers, over loopback, 8 connections",
		aim: 0.6, atLeast: true, unit: " req/s", measure: publicPage},
	{name: "public-page-handler", what: "the same two handlers called directly, without the network's share",
		aim: 0.6, atLeast: true, unit: " req/s", measure: publicPageDirect},
	{name: "move-branch-1000", what: "a move of a branch of 1,000 pages with its page, address and menu consequences for all lenses, against PostgreSQL's recursive query that lists that branch with addresses, rows fetched and scanned",
		aim: 1, unit: " ms", measure: moveBranch},
	{name: "edit-draft", what: "one edit of a label, applied, against PostgreSQL's update of that row in a transaction",
		aim: 1, unit: " ms", measure: oneEdit},
}

const publicPath = "/section-7/part-3/page-20-of-part-3"

// bare answers with bytes and headers that were made before.
func bare(w *world) http.Handler {
	response := must(client().Get(w.server.URL + publicPath))
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
	server := httptest.NewServer(bare(w))
	return func() float64 { return load(w.server.URL) }, func() float64 { return load(server.URL) }
}

// load gives the requests per second that 8 connections get in a fixed number of requests.
func load(url string) float64 {
	const connections, each = 8, 400
	c := client()
	start := time.Now()
	var group sync.WaitGroup
	for range connections {
		group.Go(func() {
			for range each {
				response := must(c.Get(url + publicPath))
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
		request := httptest.NewRequest(http.MethodGet, "http://127.0.0.1"+publicPath, nil)
		return func() float64 {
			const n = 20_000
			start := time.Now()
			for range n {
				h.ServeHTTP(&sink{http.Header{}}, request)
			}
			return n / time.Since(start).Seconds()
		}
	}
	return calls(w.public.Handler()), calls(bare(w))
}

func moveBranch(ctx context.Context, w *world) (ours, baseline func() float64) {
	on := w.store.Published().Site
	sections := on.Children(on.Home())
	page, into := sections[len(sections)/2], sections[3]
	if n := 1 + on.Below(page); n != 1000 {
		panic(fmt.Sprint("the branch has ", n, " pages"))
	}
	viewers := consequence.ViewersOf(on, nil, time.Now())
	ours = func() float64 {
		return milliseconds(func() {
			next, _, err := edit.Apply(on, edit.Move{Page: page, To: edit.Place{Parent: into}}, time.Now())
			if err != nil {
				panic(err)
			}
			report := consequence.Compare(on, next, viewers)
			if len(report.Addresses) != 1000 {
				panic(len(report.Addresses))
			}
			_ = report.Sentences()
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
			if n != 1000 {
				panic(n)
			}
		})
	}
	return ours, baseline
}

func oneEdit(ctx context.Context, w *world) (ours, baseline func() float64) {
	on := w.store.Published().Site
	page := on.Page(on.Children(on.Home())[5])
	op := edit.Edit{Page: page.ID, Fields: []edit.FieldChange{{Field: edit.Label, Old: page.Label, New: "Another"}}}
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
