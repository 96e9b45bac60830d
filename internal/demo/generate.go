package demo

import (
	"context"
	"errors"
	"fmt"
	"math/rand/v2"
	"time"

	"vineladder/internal/clock"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
)

// A Synthetic site is one of a size, for trying things at size: depth to 9, some runs of 2,000 siblings, sort rules,
// audiences, windows, a menu that follows the tree, and branches that have moved. One seed gives one site.
type Synthetic struct {
	Pages int
	Seed  uint64
	Moves int // publications that move branches; 0: some
}

// Progress is how far a long work has come.
type Progress struct {
	Done, Total int
	What        string
}

// chunk is the number of pages published at a time, which bounds the memory that one publication takes.
const chunk = 50_000

// Generate fills an empty database.
func Generate(ctx context.Context, st *store.Store, of Synthetic, tell func(Progress)) error {
	if !st.IsEmpty() {
		return errors.New("the database is not empty; give one without pages")
	}
	if err := st.Found(ctx, store.Foundation{Settings: site.Settings{
		Name: "Synthetic site", Language: "en",
		Zone: time.UTC,
	}, Roles: roles, Kinds: kinds}); err != nil {
		return err
	}
	random := rand.New(rand.NewPCG(of.Seed, 1))
	tell(Progress{0, of.Pages, "pages"})
	by := store.Account{Name: "generate"}
	pages := shapeTree(random, of.Pages)
	ids, err := st.NewPageIDs(ctx, len(pages))
	if err != nil {
		return err
	}
	for from := 0; from < len(pages); from += chunk {
		to := min(from+chunk, len(pages))
		ops := make([]edit.Op, 0, to-from)
		for i := from; i < to; i++ {
			op := edit.OpMake{Page: ids[i], Fields: pages[i].fields}
			if i > 0 {
				op.Place.Parent = ids[pages[i].parent]
			}
			ops = append(ops, op)
		}
		if _, err := st.PublishDirect(ctx, by, fmt.Sprintf("made pages %d to %d", from+1, to), ops); err != nil {
			return fmt.Errorf("make pages: %w", err)
		}
		tell(Progress{to, of.Pages, "pages"})
	}
	if err := plainFrame(ctx, st, by); err != nil {
		return err
	}
	if of.Moves == 0 {
		of.Moves = min(20, 2+len(pages)/1000)
	}
	return moveBranches(ctx, st, by, random, ids, of.Moves, tell)
}

// plainFrame gives a site a menu that follows the tree, in the header and at the side.
func plainFrame(ctx context.Context, st *store.Store, by store.Account) error {
	f := &furnisher{ctx: ctx, st: st, site: st.Published().Site}
	m := f.menu("Main menu")
	f.entry(m, 0, fmt.Sprintf("branch:%d:0:beside", f.site.Home()))
	f.block("Name of the site", "name", "header", fields(), nil)
	f.block("Who is signed in", "account", "header", fields(), nil)
	f.block(
		"Header menu",
		f.menuPiece(m, site.Window{First: 1, Levels: 1, From: site.FromWhole, Unfold: site.UnfoldAll}),
		"header",
		fields("title", "Main"),
		nil,
	)
	f.block("Breadcrumb", "breadcrumb", "top", fields("title", "You are here"), nil)
	f.block(
		"Side menu",
		f.menuPiece(m, site.Window{First: 2, From: site.FromTrail, Unfold: site.UnfoldTrail}),
		"left",
		fields("title", "In this section"),
		nil,
	)
	if f.err != nil {
		return fmt.Errorf("furnish the site: %w", f.err)
	}
	_, err := st.PublishDirect(ctx, by, "put the menu in its places", f.ops)
	return err
}

// InMemory makes the pages of a synthetic site without a database, as if they had just been published.
func InMemory(of Synthetic) *site.Site {
	b := site.NewBuilder(site.Settings{Name: "Synthetic site", Language: "en", Zone: time.UTC})
	b.SetRoles(roles)
	s := b.Site()
	pages := shapeTree(rand.New(rand.NewPCG(of.Seed, 1)), of.Pages)
	now := clock.Now()
	for from := 0; from < len(pages); from += chunk {
		var ops []edit.Op
		for i := from; i < min(from+chunk, len(pages)); i++ {
			op := edit.OpMake{Page: site.PageID(i + 1), Fields: pages[i].fields}
			if i > 0 {
				op.Place.Parent = site.PageID(pages[i].parent + 1)
			}
			ops = append(ops, op)
		}
		next, _, err := edit.ApplyAll(s, ops, now)
		if err != nil {
			panic(err) // the shape makes no site, which is a mistake in this file
		}
		s = next
	}
	return s
}

// A made page stands in an earlier one.
type made struct {
	parent int
	fields []edit.FieldChange
}

// shapeTree deals pages out from the top: a page either has a run of leaves, or some children among which its share is
// divided unevenly, as sites grow.
func shapeTree(random *rand.Rand, n int) []made {
	type share struct{ page, pages, level int }
	pages := []made{{fields: []edit.FieldChange{field(edit.FieldLabel, "Home")}}}
	queue := []share{{0, n - 1, 1}}
	for len(queue) > 0 {
		s := queue[0]
		queue = queue[1:]
		if s.pages == 0 {
			continue
		}
		kids := min(s.pages, 4+random.IntN(28))
		leaves := s.level >= 8 || s.pages <= 12 || s.pages <= 2000 && random.IntN(5) == 0
		if leaves {
			kids = min(s.pages, 2000)
		}
		left, weight := s.pages-kids, 0
		weights := make([]int, kids)
		for i := range weights {
			weights[i] = 1 + random.IntN(100)*random.IntN(100)
			weight += weights[i]
		}
		for i := range kids {
			pages = append(pages, made{s.page, lifelike(random, len(pages), i, s.level)})
			part := left * weights[i] / max(weight, 1)
			left, weight = left-part, weight-weights[i]
			queue = append(queue, share{len(pages) - 1, part, s.level + 1})
		}
	}
	return pages
}

var subjects = []string{
	"Berth",
	"Notice",
	"Minutes",
	"Tide table",
	"Tender",
	"Route",
	"Sailing",
	"Pier",
	"Chart",
	"Licence",
	"Report",
	"Mooring",
	"Survey",
	"Rate",
	"Rota",
}

// lifelike gives a page its label and, now and then, what pages have: an audience, a window, a rule, a date.
func lifelike(random *rand.Rand, number, at, level int) []edit.FieldChange {
	label := fmt.Sprintf("%s %d, %s", subjects[random.IntN(len(subjects))], number, islands[random.IntN(len(islands))])
	if level == 1 {
		label = fmt.Sprintf("%s %d", islands[at%len(islands)], at+1)
	}
	fields := []edit.FieldChange{field(edit.FieldLabel, label)}
	if random.IntN(25) > 0 {
		fields = append(fields, field(edit.FieldStatus, string(site.StatusLive)))
	}
	switch random.IntN(60) {
	case 0, 1:
		fields = append(fields, field(edit.FieldAudience, "staff"))
	case 2:
		fields = append(fields, field(edit.FieldAudience, "operators"))
	case 3:
		fields = append(fields, field(edit.FieldAudience, string(site.AudienceSignedIn)))
	case 4, 5:
		fields = append(fields, field(edit.FieldListed, "no"))
	case 6:
		fields = append(
			fields,
			field(
				edit.FieldLiveUntil,
				time.Date(2027, 1, 1+random.IntN(300), 0, 0, 0, 0, time.UTC).Format(time.RFC3339),
			),
		)
	case 7, 8:
		fields = append(fields, field(edit.FieldSort, string(site.SortLabel)))
	case 9, 10, 11:
		fields = append(fields, kind("notice", time.Date(2020, 1, 1+random.IntN(2000), 0, 0, 0, 0, time.UTC))...)
	case 12:
		fields = append(fields, field(edit.FieldSort, string(site.SortDateDown)))
	}
	return fields
}

// moveBranches publishes moves of branches here and there, so that there are old addresses.
func moveBranches(
	ctx context.Context,
	st *store.Store,
	by store.Account,
	random *rand.Rand,
	ids []site.PageID,
	moves int,
	tell func(Progress),
) error {
	for n := range moves {
		s := st.Published().Site
		var ops []edit.Op
		for range min(20, len(ids)/20) {
			page, into := ids[random.IntN(len(ids))], ids[random.IntN(len(ids))]
			op := edit.OpMove{Page: page, To: edit.Place{Parent: into}}
			if next, settled, err := edit.Apply(s, op, clock.Now()); err == nil && s.Below(page) < 2000 &&
				s.Level(into) < 5 {
				s, ops = next, append(ops, settled)
			}
		}
		if len(ops) == 0 {
			continue
		}
		if _, err := st.PublishDirect(ctx, by, fmt.Sprintf("moved %d branches", len(ops)), ops); err != nil {
			return fmt.Errorf("move branches: %w", err)
		}
		tell(Progress{n + 1, moves, "publications that move branches"})
	}
	return nil
}
