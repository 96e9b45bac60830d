package main

import (
	"context"
	"fmt"
	"runtime"

	"vineladder/internal/clock"
	"vineladder/internal/core/ask"
	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/grid"
	"vineladder/internal/core/measure"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// These rows measure what looks at many pages at once: numbers, clicks, the table, the finder (rules 11).
func init() {
	rows = append(rows, []row{
		{
			name: "numbers", what: "numbers at a glance without clicks, against a bare pass over the pages", aim: 10,
			unit: " ms", measure: numbersAtAGlance,
		},
		{
			name: "clicks", what: "clicks from the home page, against a breadth-first search over every link that renders, " +
				"listed beforehand", aim: 3, unit: " ms", measure: clicksFromHome,
		},
		{
			name: "grid", what: "a table of 1,000 pages pasted over in two columns: what is read and checked, and the cells " +
				"for the screen, against making the edits with what they change", aim: 1, unit: " ms", measure: gridPasted,
		},
		{
			name: "finder-above", what: "finding a page by its words and by those of what stands above, against by one word",
			aim: 3, unit: " ms", measure: finderAbove,
		},
	}...)
}

func numbersAtAGlance(ctx context.Context, w *world) (ours, baseline func() float64) {
	on, lens := w.store.Published().Site, reach.Lens{At: clock.Now()}
	known := must(w.store.Care(ctx))
	ours = func() float64 {
		return milliseconds(func() { runtime.KeepAlive(measure.Count(on, lens, known)) })
	}
	return ours, barePass(on)
}

func clicksFromHome(_ context.Context, w *world) (ours, baseline func() float64) {
	on, lens := w.store.Published().Site, reach.Lens{At: clock.Now()}
	number, order := map[site.PageID]int32{}, []site.PageID{}
	on.Walk(on.Home(), func(p *site.Page) bool {
		number[p.ID] = int32(len(order))
		order = append(order, p.ID)
		return true
	})
	of := measure.Links(on, lens)
	links := make([][]int32, len(order))
	for i, id := range order {
		if reach.Ask(on, id, lens) != reach.Sees {
			continue
		}
		for _, to := range of(id) {
			links[i] = append(links[i], number[to])
		}
	}
	ours = func() float64 {
		return milliseconds(func() { runtime.KeepAlive(measure.Clicks(on, lens)) })
	}
	baseline = func() float64 {
		return milliseconds(func() {
			far, queue := map[int32]int{0: 0}, []int32{0}
			for len(queue) > 0 {
				at := queue[0]
				queue = queue[1:]
				for _, to := range links[at] {
					if _, known := far[to]; !known {
						far[to] = far[at] + 1
						queue = append(queue, to)
					}
				}
			}
			runtime.KeepAlive(far)
		})
	}
	return ours, baseline
}

func gridPasted(_ context.Context, w *world) (ours, baseline func() float64) {
	on, now := w.store.Published().Site, clock.Now()
	pages := leaves(on, grid.RowLimit)
	table := grid.Of(on, now, nil)
	label, summary := table.Column(string(edit.FieldLabel)), table.Column(string(edit.FieldSummary))
	var cells []grid.Cell
	for i, id := range pages {
		p := on.Page(id)
		cells = append(cells,
			grid.Cell{Page: id, Column: label.Key, Was: table.Text(p, label), Text: fmt.Sprint(p.Label, " ", i)},
			grid.Cell{Page: id, Column: summary.Key, Was: table.Text(p, summary), Text: fmt.Sprint("In short, ", i)})
	}
	ours = func() float64 {
		return milliseconds(func() {
			made := grid.Of(on, now, nil)
			plan := made.Plan(cells)
			if len(plan.Faults) > 0 || plan.Cells != len(cells) {
				panic("the table was not taken")
			}
			for _, id := range pages {
				for i := range made.Columns {
					runtime.KeepAlive(made.Text(on.Page(id), &made.Columns[i]))
				}
			}
		})
	}
	ops := table.Plan(cells).Ops
	viewers := consequence.ViewersOf(on, nil, now)
	baseline = func() float64 {
		return milliseconds(func() {
			is, _, err := edit.ApplyAll(on, ops, now)
			is = edit.Settle(on, must(is, err), now)
			runtime.KeepAlive(consequence.Compare(on, is, viewers, nil).Sentences())
		})
	}
	return ours, baseline
}

func finderAbove(_ context.Context, w *world) (ours, baseline func() float64) {
	on := w.store.Published().Site
	page := on.Page(w.branchOf(1))
	one := page.Label
	two := on.Page(page.Parent).Label + " " + one
	find := func(words string) func() float64 {
		return func() float64 {
			return milliseconds(func() { runtime.KeepAlive(ask.Named(on, words, nil, 20)) })
		}
	}
	return find(two), find(one)
}
