package main

import (
	"bytes"
	"context"
	"fmt"
	"html/template"
	"net/http"
	"slices"
	"strings"
	"time"

	"vineladder/internal/clock"
	"vineladder/internal/core/address"
	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/piece"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/demo"
	"vineladder/internal/theme"
	"vineladder/internal/web/public"
	"vineladder/internal/web/workbench/menus"
)

// far is a number that nothing on the benchmark's site has.
const far = 1 << 40

func applyAll(on *site.Site, ops ...edit.Op) *site.Site {
	next, _, err := edit.ApplyAll(on, ops, time.Now())
	if err != nil {
		panic(err)
	}
	return next
}

// inMemory makes a site with the theme of the program.
func inMemory(pages int) *site.Site {
	b := demo.InMemory(demo.Synthetic{Pages: pages, Seed: 1}).Builder()
	b.SetTheme(must(theme.Of()))
	return b.Site()
}

// pagesOf gives every page in one slice, in the tree's order.
func pagesOf(on *site.Site) []*site.Page {
	var pages []*site.Page
	on.Walk(on.Home(), func(p *site.Page) bool { pages = append(pages, p); return true })
	return pages
}

// pass looks once at every page of a slice.
func pass(pages []*site.Page) func() float64 {
	return func() float64 {
		return milliseconds(func() {
			n := 0
			for _, p := range pages {
				if p.Status == site.StatusLive && p.Listed && p.LiveFrom.IsZero() {
					n++
				}
			}
			if n == 0 {
				panic("no page is live")
			}
		})
	}
}

type noTexts struct{}

func (noTexts) Texts(context.Context, []string) (map[string]string, error) { return nil, nil }

// plainPage is what anybody would write first: one template that ranges over the entries.
var plainPage = template.Must(
	template.New(
		"",
	).Parse(
		`<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{{.Title}}</title></head><body>
<nav aria-label="Main"><ul>{{range .Entries}}<li><a href="{{.URL}}"{{if .Hint}} title="{{.Hint}}"{{end}}{{if .Current}} aria-current="page"{{end}}>{{.Label}}</a></li>{{end}}</ul></nav>
<main><h1>{{.Title}}</h1></main></body></html>`,
	),
)

type plainEntry struct {
	URL, Label, Hint string
	Current          bool
}

// manyEntries renders a page with a menu of 250 entries, its fragments kept or all cold, against a plain template that
// ranges over the same entries; in pages a second.
func manyEntries(warm bool) func(context.Context, *world) (ours, baseline func() float64) {
	return func(ctx context.Context, _ *world) (ours, baseline func() float64) {
		const entries, each = 250, 200
		on := inMemory(1000)
		var put []edit.EntryForm
		var plain []plainEntry
		for _, p := range pagesOf(on) {
			i := len(put)
			if i == entries || reach.Ask(on, p.ID, reach.Lens{At: time.Now()}) != reach.Sees {
				continue
			}
			label, hint := fmt.Sprintf("Entry & %d", i), fmt.Sprintf("Where %d leads", i)
			put = append(
				put,
				edit.EntryForm{
					ID: site.EntryID(far + i),
					Fields: map[edit.Field]string{
						edit.FieldShows: fmt.Sprintf("page:%d", p.ID),
						edit.FieldLabel: label,
						edit.FieldHint:  hint,
					},
				},
			)
			plain = append(plain, plainEntry{URL: address.Of(on, p.ID), Label: label, Hint: hint})
		}
		on = placeMenu(
			on,
			edit.OpMakeMenu{Menu: far, Name: "Many", Entries: put},
			site.Window{First: 1, From: site.FromWhole, Unfold: site.UnfoldAll},
			"header",
			nil,
		)
		renderer := must(
			public.NewRenderer(
				noTexts{},
				func(name string) string { return "/assets/" + name },
				"https://bench.example",
			),
		)
		keep := public.NewKept()
		ours = func() float64 {
			return perSecond(each, func() {
				if !warm {
					keep = public.NewKept()
				}
				answer := must(
					renderer.Render(
						ctx,
						public.Request{Site: on, Path: "/", Lens: reach.Lens{At: time.Now()}, Kept: keep},
					),
				)
				if bytes.Count(answer.Body, []byte("Entry &amp;")) != entries {
					panic("the menu is not there")
				}
			})
		}
		baseline = func() float64 {
			return perSecond(each, func() {
				var out bytes.Buffer
				if err := plainPage.Execute(&out, map[string]any{"Title": "Home", "Entries": plain}); err != nil {
					panic(err)
				}
				if bytes.Count(out.Bytes(), []byte("Entry &amp;")) != entries {
					panic("the menu is not there")
				}
			})
		}
		return ours, baseline
	}
}

func perSecond(times int, do func()) float64 {
	start := time.Now()
	for range times {
		do()
	}
	return float64(times) / time.Since(start).Seconds()
}

// signedInPage makes a page for somebody with a role; such pages are not stored whole.
func signedInPage(ctx context.Context, w *world) (ours, baseline func() float64) {
	_, baseline = publicPageDirect(ctx, w)
	on, keep := w.store.Published().Site, public.NewKept()
	lens := reach.Lens{Visitor: reach.As(on, []string{"staff"}), At: time.Now()}
	path := publicPath(w)
	ours = func() float64 {
		return perSecond(500, func() {
			answer := must(
				w.public.Render(ctx, public.Request{Site: on, Path: path, Lens: lens, Name: "Somebody", Kept: keep}),
			)
			if answer.Status != http.StatusOK {
				panic(answer.Status)
			}
		})
	}
	return ours, baseline
}

// placeMenu makes a menu and puts it into a region, on its own.
func placeMenu(
	on *site.Site,
	m edit.OpMakeMenu,
	w site.Window,
	region string,
	conditions map[edit.Field]string,
) *site.Site {
	return applyAll(
		on,
		m,
		edit.OpMakeBlock{
			Block: far,
			Fields: map[edit.Field]string{
				edit.FieldName:  m.Name,
				edit.FieldPiece: piece.Text(site.BlockMenu{Menu: m.Menu, Window: w}),
			},
		},
		edit.OpPutPlacement{Placement: far, Block: far, Slot: edit.Slot{Region: region}, Fields: conditions},
	)
}

// treeMenu resolves a menu of about 2,000 lines that follow the tree, for a lens that is known or a new one.
func treeMenu(warm bool) func(context.Context, *world) (ours, baseline func() float64) {
	return func(_ context.Context, w *world) (ours, baseline func() float64) {
		root := w.branchOf(2000)
		on := applyAll(
			w.store.Published().Site,
			edit.OpMakeMenu{
				Menu: far,
				Name: "Tree",
				Entries: []edit.EntryForm{
					{ID: far, Fields: map[edit.Field]string{edit.FieldShows: fmt.Sprintf("branch:%d:0:above", root)}},
				},
			},
		)
		m := on.Menu(far)
		everything := site.Window{First: 1, From: site.FromWhole, Unfold: site.UnfoldAll}
		lens := reach.Lens{At: time.Now(), Visitor: reach.As(on, []string{"staff"})}
		view := menu.NewView(on, m, lens)
		ours = func() float64 {
			return milliseconds(func() {
				if !warm {
					view = menu.NewView(on, m, lens)
				}
				if len(view.Window(everything, root)) == 0 {
					panic("no line")
				}
			})
		}
		if !warm {
			return ours, pass(pagesOf(on))
		}
		baseline = func() float64 {
			return milliseconds(func() {
				var found []site.PageID
				on.Walk(root, func(p *site.Page) bool { found = append(found, p.ID); return true })
				if len(found) < 1000 {
					panic("the branch is too small")
				}
			})
		}
		return ours, baseline
	}
}

// firstKidInSide makes a menu of the first page below home, and a block of it in the side with conditions.
func firstKidInSide(on *site.Site, name string, conditions map[edit.Field]string) *site.Site {
	shows := fmt.Sprintf("page:%d", on.Children(on.Home())[0])
	return placeMenu(
		on,
		edit.OpMakeMenu{
			Menu:    far,
			Name:    name,
			Entries: []edit.EntryForm{{ID: far, Fields: map[edit.Field]string{edit.FieldShows: shows}}},
		},
		site.Window{First: 1, From: site.FromWhole, Unfold: site.UnfoldAll},
		"right",
		conditions,
	)
}

// conditioned makes a block in the side with conditions of several sorts, at least as many as asked for.
func conditioned(on *site.Site, n int) *site.Site {
	kids := on.Children(on.Home())
	var where, except string
	for i := range n - 4 {
		if i > 0 {
			where += "|"
		}
		where += fmt.Sprintf("branch:%d", kids[i%len(kids)])
	}
	for _, kid := range kids {
		if inside := on.Children(kid); len(inside) > 0 && strings.Count(except, "branch") < n/5 {
			except += fmt.Sprintf("branch:%d|", inside[len(inside)/2])
		}
	}
	return firstKidInSide(
		on,
		"Conditioned",
		map[edit.Field]string{
			edit.FieldWhere:    where + "|pattern:/" + on.Page(kids[len(kids)-1]).Segment + "/**",
			edit.FieldExcept:   except,
			edit.FieldNotKinds: "vacancy",
			edit.FieldLiveFrom: "2020-01-01T00:00:00Z",
		},
	)
}

// everywhere makes a block in the side of which five conditions leave a little out: nothing can be passed by.
func everywhere(on *site.Site) *site.Site {
	kids := on.Children(on.Home())
	return firstKidInSide(
		on,
		"Everywhere",
		map[edit.Field]string{
			edit.FieldExcept:    fmt.Sprintf("page:%d|page:%d", kids[0], on.Home()),
			edit.FieldNotKinds:  "vacancy",
			edit.FieldLiveFrom:  "2020-01-01T00:00:00Z",
			edit.FieldLiveUntil: "2099-01-01T00:00:00Z",
			edit.FieldAudience:  "everyone",
		},
	)
}

// coverBlock counts the pages of one block with five conditions, against a pass over all pages.
func coverBlock(with func(*site.Site) *site.Site) func(context.Context, *world) (ours, baseline func() float64) {
	return func(_ context.Context, w *world) (ours, baseline func() float64) {
		return cover(with(w.store.Published().Site))
	}
}

func branchesOnly(on *site.Site) *site.Site { return conditioned(on, 5) }

func cover(on *site.Site) (ours, baseline func() float64) {
	block, lens := on.Block(far), reach.Lens{At: time.Now()}
	ours = func() float64 {
		return milliseconds(func() {
			if region.Pages(on, block, lens) == 0 {
				panic("the block shows nowhere")
			}
		})
	}
	return ours, pass(pagesOf(on))
}

// regionsAtSize decides all regions of a page of a large site, against one of 1,000 pages with the same blocks.
func regionsAtSize(_ context.Context, w *world) (ours, baseline func() float64) {
	decide := func(on *site.Site) func() float64 {
		on = conditioned(on, 10)
		page := on.Children(on.Home())[0]
		return func() float64 {
			const times = 300
			return milliseconds(func() {
				for range times {
					if _, areas := region.NewFrame(on, reach.Lens{At: time.Now()}).On(page); len(areas) == 0 {
						panic("no region")
					}
				}
			}) / times
		}
	}
	return decide(inMemory(w.store.Published().Site.Count())), decide(inMemory(1000))
}

// moveBlock says what moving a block with 10 conditions to another region does for 12 lenses, against a pass over all
// pages.
func moveBlock(_ context.Context, w *world) (ours, baseline func() float64) {
	on := conditioned(w.store.Published().Site, 10)
	viewers := twelve(on)
	was := edit.SlotOf(on, on.Placement(far))
	ours = func() float64 {
		return milliseconds(func() {
			next := applyAll(on, edit.OpMovePlacement{Placement: far, From: was, To: edit.Slot{Region: "below"}})
			if len(consequence.Compare(on, next, viewers, nil).Sentences()) == 0 {
				panic("nothing is said")
			}
		})
	}
	return ours, pass(pagesOf(on))
}

// looksEverywhere says what a level fewer in the header does for 12 lenses, against a pass over all pages.
func looksEverywhere(_ context.Context, w *world) (ours, baseline func() float64) {
	on := w.store.Published().Site
	var header *site.Block
	for i := range on.Blocks() {
		b := &on.Blocks()[i]
		placed := on.PlacementsOf(b.ID)
		if _, _, isMenu := b.Menu(); isMenu && len(placed) > 0 && placed[0].Region == "header" {
			header = b
		}
	}
	m, _, _ := header.Menu()
	levels := func(n int) string {
		return piece.Text(
			site.BlockMenu{
				Menu:   m,
				Window: site.Window{First: 1, Levels: n, From: site.FromWhole, Unfold: site.UnfoldAll},
			},
		)
	}
	shows := func(was, is string) edit.Op {
		return edit.OpEditBlock{
			Block:  header.ID,
			Fields: []edit.FieldChange{{Field: edit.FieldPiece, Old: was, New: is}},
		}
	}
	on = applyAll(on, shows(edit.BlockValue(header, edit.FieldPiece), levels(2)))
	viewers := twelve(on)
	ours = func() float64 {
		return milliseconds(func() {
			next := applyAll(on, shows(levels(2), levels(1)))
			if said := consequence.Compare(on, next, viewers, nil).Sentences(); said[0].About != "menu" {
				panic("nothing is said")
			}
		})
	}
	return ours, pass(pagesOf(on))
}

// itemWindows makes windows of the ladders of a large menu and of a small one, a third of their items switched off.
func itemWindows(anew bool) func(context.Context, *world) (ours, baseline func() float64) {
	return func(_ context.Context, w *world) (ours, baseline func() float64) {
		on := w.store.Published().Site
		window := func(items int) func() float64 { return itemWindow(on, items, anew) }
		return window(2000), window(20)
	}
}

func itemWindow(on *site.Site, items int, anew bool) func() float64 {
	kids := on.Children(on.Home())
	m := site.Menu{ID: 9000, Key: "large", Name: "Large"}
	for i := range items {
		e := site.Entry{ID: site.EntryID(i + 1), Shows: site.ItemPage{Page: kids[i%len(kids)]}, Off: i%3 == 0}
		if i%10 > 0 {
			e.Parent = site.EntryID(i - i%10 + 1)
		}
		m.Entries = append(m.Entries, e)
	}
	d := on.Builder()
	d.SetMenus(append(slices.Clone(on.Menus()), m))
	s := d.Site()
	open := menus.OpenItems(s, s.Menu(9000), clock.Now(), anew)
	return func() float64 {
		const times = 20
		return milliseconds(func() {
			for range times {
				if open(items/2, 60) != items {
					panic("other rows")
				}
			}
		}) / times
	}
}

// coldPages makes pages that are not kept yet, of one revision: what they have in common is.
func coldPages(ctx context.Context, w *world) (ours, baseline func() float64) {
	on := w.store.Published().Site
	var paths []string
	lens := reach.Lens{At: time.Now()}
	for i, p := range pagesOf(on) {
		if i%41 == 0 && reach.Ask(on, p.ID, lens) == reach.Sees {
			paths = append(paths, address.Of(on, p.ID))
		}
	}
	paths = paths[:min(len(paths), 2000)]
	renderer := must(
		public.NewRenderer(w.store, func(name string) string { return "/assets/" + name }, "http://127.0.0.1"),
	)
	ours = func() float64 {
		kept := public.NewKept()
		start := time.Now()
		for _, path := range paths {
			if answer := must(renderer.Answer(ctx, public.Request{
				Site: on, Lens: lens, Path: path,
				Kept: kept,
			})); answer.Status != http.StatusOK {
				panic(path)
			}
		}
		return float64(len(paths)) / time.Since(start).Seconds()
	}
	_, baseline = publicPageDirect(ctx, w)
	return ours, baseline
}
