package oracle

import (
	"fmt"
	"math/rand/v2"
	"time"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
)

// now is the moment at which drafts are published; the site has a past before it, and a few moments to come.
var now = time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC)

// texts are what page texts and text blocks say, by their hashes. Some link to pages.
var texts = map[string]string{
	"t1": "<p>Boats leave from the pier.</p>",
	"t2": "<p>Boats leave from the <a href=\"page:3\">north pier</a>.</p>",
	"t3": "<p>Boats leave from the <a href=\"page:5\">south pier</a>.</p><ul><li>daily</li></ul>",
	"t4": "<p>Boats leave from the north pier.</p>",
	"t5": "<p>See <a href=\"page:7\">fares</a> and <a href=\"page:4\">times</a>.</p>",
}

func theme() *site.Theme {
	return &site.Theme{
		Regions: []site.Region{
			{Key: "header", Name: "Header"},
			{Key: "side", Name: "Side"},
			{Key: "content", Name: "Content"},
			{Key: "footer", Name: "Footer"},
		},
		Layouts: []site.Layout{
			{
				Key:     "standard",
				Name:    "Standard",
				Columns: []string{"1fr", "3fr"},
				Wide:    [][]string{{"header", "header"}, {"side", "content"}, {"footer", "footer"}},
				Phone:   []string{"header", "content", "side", "footer"},
			},
			{
				Key:     "wide",
				Name:    "Wide",
				Columns: []string{"1fr"},
				Wide:    [][]string{{"header"}, {"content"}, {"footer"}},
				Phone:   []string{"header", "content", "footer"},
			},
		},
		Pairs: []site.Pair{{Key: "calm", Name: "Calm", Text: "#1e2b27", Back: "#f7f5ef"}},
		Icons: []string{"anchor", "ship", "star"},
	}
}

// A world is a published site with what is known of it.
type world struct {
	*rand.Rand
	seed  uint64
	site  *site.Site
	at    time.Time // of the next edit
	next  int64     // the next number of a new thing
	edges []time.Time
	last  edit.Op // that was done, settled
}

// pick draws one of a few.
func pick[T any](w *world, of ...T) T { return of[w.IntN(len(of))] }

func (w *world) chance(oneIn int) bool { return w.IntN(oneIn) == 0 }

var labels = []string{
	"Fares", "Winter", "Summer", "North pier", "South pier", "Notices", "Times", "Contact", "Board", "Øyra", "Jobs", "History",
	"Early boats", "Late boats",
}

// newWorld makes a site of some 12 pages with menus, blocks of every type, roles, and a past of moved, renamed and
// binned pages.
func newWorld(seed uint64) *world {
	w := &world{seed: seed, Rand: rand.New(rand.NewPCG(seed, 7)), next: 100, at: now.Add(-72 * time.Hour)}
	for i := range pick(w, 0, 0, 0, 1, 1, 1, 2, 2, 3, 4) {
		w.edges = append(w.edges, now.Add(time.Duration(i+1)*time.Hour))
	}
	b := site.NewBuilder(
		site.Settings{
			Name:     "Harbour",
			Language: "en",
			Zone:     time.UTC,
			BinDays:  30,
			Register: w.chance(2),
			Closed:   w.chance(12),
		},
	)
	b.SetRoles([]site.Role{
		{Key: "staff", Name: "staff"},
		{Key: "masters", Name: "masters", Includes: []string{"staff"}},
		{Key: "keepers", Name: "keepers", Actions: []site.Action{site.Keep, site.Edit}},
	})
	b.SetKinds(
		[]site.Kind{
			{Key: "page", Name: "Page"},
			{Key: "notice", Name: "Notice", DateName: "Date"},
			{Key: "poster", Name: "Poster", Layout: "wide"},
		},
	)
	b.SetTheme(theme())
	for hash, kept := range texts {
		b.KnowText(hash, text.Links(kept))
	}
	w.site = b.Site()
	w.grow()
	w.furnish()
	w.live()
	w.at = now
	return w
}

// grow makes the pages.
func (w *world) grow() {
	empty := w.site
	for id := range 12 {
		fields := []edit.FieldChange{{Field: edit.Label, New: labels[id]}}
		place := edit.Place{}
		if id > 0 {
			place.Parent = site.PageID(w.IntN(min(id, 5)) + 1)
			for _, field := range []edit.Field{
				edit.Title, edit.Text, edit.Kind, edit.Status, edit.Listed, edit.Audience, edit.Conceal, edit.LiveFrom,
				edit.LiveUntil, edit.Layout, edit.BranchLayout, edit.Sort, edit.Date, edit.OwnAddress, edit.ShortAddresses, edit.Summary,
			} {
				if field == edit.Status || w.chance(5) {
					fields = append(fields, edit.FieldChange{Field: field, New: w.pageValue(field)})
				}
			}
		}
		w.do(edit.Make{Page: site.PageID(id + 1), Place: place, Fields: fields})
	}
	for id := site.PageID(1); id <= 12; id++ {
		if w.site.Page(id) == nil { // its fields were refused
			w.do(
				edit.Make{
					Page:  id,
					Place: edit.Place{Parent: min(1, id-1)},
					Fields: []edit.FieldChange{
						{Field: edit.Label, New: labels[id-1]},
						{Field: edit.Status, New: "live"},
					},
				},
			)
		}
	}
	w.site = edit.Settle(empty, w.site, w.at)
}

// do applies an operation if it can be done.
func (w *world) do(op edit.Op) bool {
	made, settled, err := edit.Apply(w.site, op, w.at)
	if err == nil {
		w.site, w.last = made, settled
	}
	return err == nil
}

// furnish makes menus with items of every type, blocks of every type, and places for them.
func (w *world) furnish() {
	root := w.page()
	entry := func(id int64, parent int64, fields map[edit.Field]string) edit.EntryForm {
		return edit.EntryForm{ID: site.EntryID(id), Parent: site.EntryID(parent), Fields: fields}
	}
	self := pick(w, "not", "above", "beside")
	w.do(edit.MakeMenu{Menu: 1, Key: "main", Name: "Main", Programs: w.chance(2), Entries: []edit.EntryForm{
		entry(1, 0, map[edit.Field]string{edit.Shows: fmt.Sprintf("branch:1:%d:%s", w.IntN(3), self)}),
	}})
	w.do(edit.MakeMenu{Menu: 2, Key: "quick", Name: "Quick", Programs: w.chance(2), Entries: []edit.EntryForm{
		entry(2, 0, map[edit.Field]string{edit.Shows: "heading", edit.Label: "Go", edit.Icon: pick(w, "", "ship")}),
		entry(
			3,
			2,
			map[edit.Field]string{edit.Shows: fmt.Sprintf("page:%d", w.page()), edit.Hint: pick(w, "", "Where")},
		),
		entry(
			4,
			2,
			map[edit.Field]string{edit.Shows: fmt.Sprintf("branch:%d:1:%s", root, pick(w, "not", "above", "beside"))},
		),
		entry(
			5,
			0,
			map[edit.Field]string{
				edit.Shows:     "web:https://tides.example/",
				edit.Label:     "Tides",
				edit.BadgeText: pick(w, "", "New"),
				edit.BadgePair: pick(w, "", "calm"),
			},
		),
		entry(
			6,
			0,
			map[edit.Field]string{
				edit.Shows:  "file:times.pdf",
				edit.Label:  "Times as a file",
				edit.NewTab: pick(w, "yes", "no"),
			},
		),
		entry(
			7,
			0,
			map[edit.Field]string{
				edit.Shows: "account:" + pick(w, "sign-in", "sign-out", "register", "details"),
				edit.Label: "Account",
			},
		),
		entry(
			8,
			0,
			map[edit.Field]string{
				edit.Shows:    fmt.Sprintf("page:%d", w.page()),
				edit.Audience: pick(w, "", "staff"),
				edit.On:       pick(w, "yes", "yes", "no"),
			},
		),
		entry(9, 8, map[edit.Field]string{edit.Shows: fmt.Sprintf("page:%d", w.page())}),
	}})
	w.do(edit.MakeMenu{Menu: 3, Key: "feed", Name: "Feed", Programs: true, Entries: []edit.EntryForm{
		entry(10, 0, map[edit.Field]string{edit.Shows: fmt.Sprintf("branch:%d:0:above", root)}),
		entry(11, 0, map[edit.Field]string{edit.Shows: "heading", edit.Label: "Later", edit.LiveFrom: w.instant()}),
	}})
	pieces := []string{
		"name",
		"account",
		"breadcrumb",
		"text:t2",
		"children",
		"image:pier.jpg:The pier",
		w.window(1),
		w.window(1),
		w.window(2),
		"text:t1",
	}
	for i, piece := range pieces {
		id := int64(i + 1)
		w.do(edit.MakeBlock{Block: site.BlockID(id), Fields: map[edit.Field]string{
			edit.Name: pick(w, "Block A", "Block B", fmt.Sprintf("Block %d", id)),
			edit.Title: pick(
				w,
				"",
				"",
				"Near here",
				fmt.Sprintf("Title %d", id),
			), edit.Titled: pick(w, "yes", "no"), edit.Piece: piece,
		}})
		if i < 9 {
			w.do(w.put(site.BlockID(id)))
		}
	}
	if w.chance(2) {
		w.do(w.put(4))
	}
	for _, field := range []edit.Field{edit.NotFoundPage, edit.SignInPage, edit.NoAccessPage, edit.ClosedPage} {
		if w.chance(2) {
			w.do(
				edit.EditSettings{
					Fields: []edit.FieldChange{
						{Field: field, Old: edit.SettingValue(w.site.Settings(), field), New: fmt.Sprint(w.page())},
					},
				},
			)
		}
	}
}

func (w *world) window(menu int) string {
	from, entry := pick(w, "trail", "trail", "whole", "entry"), 0
	if from == "entry" {
		entry = map[int]int{1: 1, 2: pick(w, 2, 4, 8), 3: 10}[menu]
	}
	return fmt.Sprintf("menu:%d:%d:%d:%s:%d:%s", menu, w.IntN(2)+1, w.IntN(3), from, entry, pick(w, "all", "trail"))
}

// put places a block, mostly without conditions.
func (w *world) put(block site.BlockID) edit.Op {
	w.next++
	fields := map[edit.Field]string{}
	for _, field := range edit.Fields()["place"] {
		if w.chance(9) {
			fields[field] = w.placeValue(field)
		}
	}
	return edit.PutPlacement{Placement: site.PlacementID(w.next), Block: block, Slot: w.slot(), Fields: fields}
}

// live gives the site a past: publications with moves, new addresses, and pages in the bin.
func (w *world) live() {
	for range w.IntN(3) + 1 {
		w.at = w.at.Add(24 * time.Hour)
		was := w.site
		for range w.IntN(4) {
			w.do(w.pageOp(pick(w, "move", "segment", "bin", "own", "status")))
		}
		w.site = edit.Settle(was, w.site, w.at)
	}
}

func (w *world) pageOp(what string) edit.Op {
	page := w.page()
	switch what {
	case "move":
		return edit.Move{Page: page, To: w.gap()}
	case "bin":
		if !w.chance(3) {
			return edit.Bin{Page: site.PageID(w.IntN(5) + 8)}
		}
		return edit.Bin{Page: page}
	case "segment":
		return w.editPage(page, edit.Segment, fmt.Sprintf("old-%d", w.IntN(3)))
	case "own":
		return w.editPage(page, edit.OwnAddress, pick(w, "", "/fixed", "/fixed/deep"))
	}
	return w.editPage(page, edit.Status, pick(w, "live", "offline"))
}

func (w *world) editPage(page site.PageID, field edit.Field, value string) edit.Op {
	return edit.Edit{
		Page:   page,
		Fields: []edit.FieldChange{{Field: field, Old: edit.Value(w.site.Page(page), field), New: value}},
	}
}
