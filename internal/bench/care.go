package main

import (
	"context"
	"fmt"
	"runtime"

	"vineladder/internal/clock"
	"vineladder/internal/core/check"
	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
)

// These rows measure problems and the past (rules 9.6 and 10).
func init() {
	rows = append(rows, []row{
		{
			name: "problems", what: "all problems from nothing, against a bare pass over the pages", aim: 100, unit: " ms",
			measure: problemsFromNothing,
		},
		{
			name: "problems-edit", what: "problems after a page deep in the tree gets another label, against the " +
				"consequences of that", aim: 2, unit: " ms", measure: problemsAfterEdit,
		},
		{
			name: "past", what: "the site of 1,000 publications ago of 10 edits each, against reading those rows and " +
				"putting as many pages", aim: 2, unit: " ms", measure: pastSite,
		},
	}...)
}

func lookAt(on *site.Site) *check.Look {
	return check.NewLook(on, clock.Now(), "https://harbour.example")
}

func problemsFromNothing(_ context.Context, w *world) (ours, baseline func() float64) {
	on := w.store.Published().Site
	ours = func() float64 {
		return milliseconds(func() { runtime.KeepAlive(check.Find(lookAt(on)).WithFar()) })
	}
	return ours, barePass(on)
}

func problemsAfterEdit(_ context.Context, w *world) (ours, baseline func() float64) {
	was := w.store.Published().Site
	page := was.Page(w.branchOf(10))
	is := must(onlySite(edit.Apply(was, edit.OpEdit{Page: page.ID, Fields: []edit.FieldChange{
		{Field: edit.FieldLabel, Old: page.Label, New: page.Label + " again"},
	}}, clock.Now())))
	is = edit.Settle(was, is, clock.Now())
	before := check.Find(lookAt(was))
	ours = func() float64 {
		return milliseconds(func() { runtime.KeepAlive(before.After(lookAt(is))) })
	}
	baseline = func() float64 {
		viewers := consequence.ViewersOf(was, nil, clock.Now())
		return milliseconds(func() { runtime.KeepAlive(consequence.Compare(was, is, viewers, nil).Sentences()) })
	}
	return ours, baseline
}

func onlySite(made *site.Site, _ edit.Op, err error) (*site.Site, error) { return made, err }

// Publications of the row “past”, and edits of each.
const (
	pastPublications = 1000
	pastEdits        = 10
)

func pastSite(ctx context.Context, w *world) (ours, baseline func() float64) {
	began := w.store.Published().Revision
	by := store.Account{Name: "the benchmark"}
	pages := leaves(w.store.Published().Site, pastPublications*pastEdits)
	for n := range pastPublications {
		on := w.store.Published().Site
		var ops []edit.Op
		for k := range pastEdits {
			p := on.Page(pages[(n*pastEdits+k)%len(pages)])
			ops = append(ops, edit.OpEdit{Page: p.ID, Fields: []edit.FieldChange{
				{Field: edit.FieldSummary, Old: p.Summary, New: fmt.Sprint("In short, ", n)},
			}})
		}
		must(w.store.PublishDirect(ctx, by, "edited", ops))
	}
	round := int64(0)
	ours = func() float64 {
		round++ // a past that was made is kept
		return milliseconds(func() { must(w.store.PastAt(ctx, began+round%16)) })
	}
	baseline = func() float64 {
		on := w.store.Published().Site
		return milliseconds(func() {
			var rows []string // a row as one word: what it costs to have it sent
			if err := w.store.DB().SelectContext(ctx, &rows, `SELECT p::text FROM past_pages p WHERE (id, past_revision) IN (
				SELECT id, min(past_revision) FROM past_pages WHERE past_revision > $1 GROUP BY id)`, began); err != nil {
				panic(err)
			}
			b := on.Builder()
			for i := range rows {
				made := *on.Page(pages[i%len(pages)])
				b.Put(&made)
			}
			runtime.KeepAlive(b.Site())
		})
	}
	return ours, baseline
}

// leaves gives pages with nothing below them.
func leaves(on *site.Site, n int) (pages []site.PageID) {
	on.Walk(on.Home(), func(p *site.Page) bool {
		if len(on.Children(p.ID)) == 0 {
			pages = append(pages, p.ID)
		}
		return len(pages) < n
	})
	return pages
}
