package oracle

import (
	"fmt"
	"math/rand/v2"
	"time"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/core/text"
)

// now is the moment at which drafts are published; the site has a past before it, and a few moments to come.
var now = time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC)

// Rich details are named by their hashes, which have the length of hashes.
const (
	richOne = "0123456789abcdef0123456789abcdef"
	richTwo = "fedcba9876543210fedcba9876543210"
)

// texts are what page texts and text blocks say, by their hashes. Some link to pages.
var texts = map[string]string{
	"t1":    "<p>Boats leave from the pier.</p>",
	"t2":    "<p>Boats leave from the <a href=\"page:3\">north pier</a>.</p>",
	"t3":    "<p>Boats leave from the <a href=\"page:5\">south pier</a>.</p><ul><li>daily</li></ul>",
	"t4":    "<p>Boats leave from the north pier.</p>",
	richOne: "<p>See the <a href=\"page:3\">north pier</a>.</p>",
	richTwo: "<p>See <em>nothing</em>.</p>",
	"t5":    "<p>See <a href=\"page:7\">fares</a> and <a href=\"page:4\">times</a>.</p>",
	"t6":    "<h2 id=\"chart\">Chart</h2><figure><img src=\"page:14\" alt=\"A chart\"/></figure>",
	"t7":    "<h2 id=\"rates\">Chart</h2><p><a href=\"page:15\">Rates</a></p>",
}

func theme() *site.Theme {
	t := testkit.Theme()
	t.Pairs = []site.Pair{{Key: "calm", Name: "Calm", Text: "#1e2b27", Back: "#f7f5ef"}}
	return t
}

// details are what notices and posters have of their own, of every sort that shows something else to someone.
func details() []site.Detail {
	made := []site.Detail{
		{Key: "notice.depth", Label: "Depth", Type: site.DetailNumber, Unit: "m"},
		{Key: "notice.pier", Label: "Pier", Type: site.DetailPage},
		{Key: "notice.note", Label: "Note", Type: site.DetailRich},
		{Key: "notice.level", Label: "Level", Type: site.DetailChoice, Choices: "low\nhigh"},
		{Key: "poster.hangs", Label: "Hangs", Type: site.DetailDates},
		{Key: "poster.by", Label: "By", Type: site.DetailMail},
		{Key: "page.when", Label: "When", Type: site.DetailMoment},
		{Key: "page.see", Label: "See", Type: site.DetailPage, Shows: site.DetailEditors},
	}
	for i := range made {
		made[i].Rank = fmt.Sprintf("a%d", i)
		if made[i].Shows == "" {
			made[i].Shows = site.DetailBoth
		}
	}
	return made
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
	"Fares", "Winter", "Summer", "North pier", "South pier", "Notices", "Times", "Contact", "Board", "Øyra", "Jobs",
	"History",
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
		{Key: "keepers", Name: "keepers", Grants: site.OnSite(site.ActionKeep, site.ActionEdit)},
	})
	b.SetKinds(
		[]site.Kind{
			{Key: "page", Name: "Page"},
			{Key: "notice", Name: "Notice", DateName: "Date"},
			{Key: "poster", Name: "Poster", Layout: "wide"},
			{Key: site.KindTopic, Name: "Topic"},
			{Key: "leaflet", Name: "Leaflet"},
		},
	)
	b.SetDetails(details())
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
		fields := []edit.FieldChange{{Field: edit.FieldLabel, New: labels[id]}}
		place := edit.Place{}
		if id > 0 {
			place.Parent = site.PageID(w.IntN(min(id, 5)) + 1)
			for _, field := range []edit.Field{
				edit.FieldTitle, edit.FieldText, edit.FieldKind, edit.FieldStatus, edit.FieldListed, edit.FieldAudience,
				edit.FieldConceal, edit.FieldLiveFrom,
				edit.FieldLiveUntil, edit.FieldLayout, edit.FieldBranchLayout, edit.FieldSort, edit.FieldDate, edit.FieldOwnAddress,
				edit.FieldShortAddresses, edit.FieldSummary, edit.FieldDetails,
			} {
				if field == edit.FieldStatus || field == edit.FieldDetails || w.chance(5) {
					fields = append(fields, edit.FieldChange{Field: field, New: w.pageValue(field)})
				}
			}
		}
		w.do(edit.OpMake{Page: site.PageID(id + 1), Place: place, Fields: fields})
	}
	for id := site.PageID(1); id <= 12; id++ {
		if w.site.Page(id) == nil { // its fields were refused
			w.do(
				edit.OpMake{
					Page:  id,
					Place: edit.Place{Parent: min(1, id-1)},
					Fields: []edit.FieldChange{
						{Field: edit.FieldLabel, New: labels[id-1]},
						{Field: edit.FieldStatus, New: "live"},
					},
				},
			)
		}
	}
	w.shelve()
	if w.chance(2) {
		w.gather()
	}
	w.site = edit.Settle(empty, w.site, w.at)
}

// The pages that are files in every world: a folder, a picture in it, and a paper somewhere.
const theFolder, thePicture, thePaper = 13, 14, 15

// shelve makes the files.
func (w *world) shelve() {
	w.do(edit.MakeFolder(theFolder, edit.Place{Parent: pick[site.PageID](w, 1, 1, w.plain())}, "Files"))
	w.do(edit.MakeFile(thePicture, edit.Place{Parent: theFolder}, "Chart", "chart.png", testkit.Bytes("a")))
	w.do(
		edit.MakeFile(
			thePaper,
			edit.Place{Parent: pick(w, theFolder, w.plain())},
			"Rates",
			"rates.pdf",
			testkit.Bytes("b"),
		),
	)
	for _, id := range []site.PageID{theFolder, thePicture, thePaper} {
		for _, field := range []edit.Field{edit.FieldStatus, edit.FieldAudience, edit.FieldLiveFrom, edit.FieldListed} {
			if w.chance(8) {
				w.do(w.editPage(id, field, w.pageValue(field)))
			}
		}
	}
}

// gather makes one or two topic lists, and pages that bear their topics.
func (w *world) gather() {
	next := site.PageID(thePaper)
	make := func(kind string, parent site.PageID) {
		next++
		fields := []edit.FieldChange{
			{Field: edit.FieldLabel, New: pick(w, labels...)},
			{Field: edit.FieldKind, New: kind},
			{Field: edit.FieldStatus, New: pick(w, "live", "live", "live", "live", "offline")},
		}
		for _, field := range []edit.Field{
			edit.FieldListed, edit.FieldAudience, edit.FieldLiveFrom, edit.FieldSort, edit.FieldText, edit.FieldSummary,
		} {
			if w.chance(8) {
				fields = append(fields, edit.FieldChange{Field: field, New: w.pageValue(field)})
			}
		}
		w.do(edit.OpMake{Page: next, Place: edit.Place{Parent: parent}, Fields: fields})
	}
	for range w.IntN(2) + 1 {
		make(site.KindTopicList, pick(w, 1, 1, w.plain()))
		for range w.IntN(3) + 1 {
			if above := w.gathering(site.KindTopicList, site.KindTopic); above != 0 {
				make(site.KindTopic, above)
			}
		}
	}
	if topic := w.gathering(site.KindTopic); w.chance(2) && topic != 0 {
		w.do(
			w.editPage(topic, edit.FieldMergedInto, fmt.Sprint(w.gathering(site.KindTopic))),
		) // if it goes to the bin
	}
	for id := site.PageID(2); id <= 12; id++ {
		if w.chance(2) {
			w.do(w.editPage(id, edit.FieldTopics, edit.TopicsText(w.topics()...)))
			if w.chance(4) {
				w.do(w.editPage(id, edit.FieldListing, w.pageValue(edit.FieldListing)))
			}
		}
	}
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
	w.do(edit.OpMakeMenu{Menu: 1, Key: "main", Name: "Main", Programs: w.chance(2), Entries: []edit.EntryForm{
		entry(1, 0, map[edit.Field]string{edit.FieldShows: fmt.Sprintf("branch:1:%d:%s", w.IntN(3), self)}),
	}})
	w.do(edit.OpMakeMenu{Menu: 2, Key: "quick", Name: "Quick", Programs: w.chance(2), Entries: []edit.EntryForm{
		entry(
			2,
			0,
			map[edit.Field]string{
				edit.FieldShows: "heading",
				edit.FieldLabel: "Go",
				edit.FieldIcon:  pick(w, "", "ship"),
			},
		),
		entry(
			3,
			2,
			map[edit.Field]string{
				edit.FieldShows: fmt.Sprintf("page:%d", w.page()),
				edit.FieldHint:  pick(w, "", "Where"),
			},
		),
		entry(
			4,
			2,
			map[edit.Field]string{
				edit.FieldShows: fmt.Sprintf("branch:%d:1:%s", root, pick(w, "not", "above", "beside")),
			},
		),
		entry(
			5,
			0,
			map[edit.Field]string{
				edit.FieldShows:     "web:https://tides.example/",
				edit.FieldLabel:     "Tides",
				edit.FieldBadgeText: pick(w, "", "New"),
				edit.FieldBadgePair: pick(w, "", "calm"),
			},
		),
		entry(
			6,
			0,
			map[edit.Field]string{
				edit.FieldShows:  "file:times.pdf",
				edit.FieldLabel:  "Times as a file",
				edit.FieldNewTab: pick(w, "yes", "no"),
			},
		),
		entry(
			7,
			0,
			map[edit.Field]string{
				edit.FieldShows: "account:" + pick(w, "sign-in", "sign-out", "register", "details"),
				edit.FieldLabel: "Account",
			},
		),
		entry(
			8,
			0,
			map[edit.Field]string{
				edit.FieldShows:    fmt.Sprintf("page:%d", w.page()),
				edit.FieldAudience: pick(w, "", "staff"),
				edit.FieldOn:       pick(w, "yes", "yes", "no"),
			},
		),
		entry(9, 8, map[edit.Field]string{edit.FieldShows: fmt.Sprintf("page:%d", w.page())}),
	}})
	if w.chance(3) {
		fields := map[edit.Field]string{edit.FieldShows: w.narrowed()}
		w.do(edit.OpPutEntries{Gap: edit.Gap{Menu: 2}, Entries: []edit.EntryForm{entry(13, 0, fields)}})
	}
	if w.chance(2) {
		grown := map[edit.Field]string{edit.FieldShows: w.growth(), edit.FieldLines: w.lines()}
		w.do(edit.OpPutEntries{Gap: edit.Gap{Menu: 2}, Entries: []edit.EntryForm{entry(12, 0, grown)}})
	}
	w.do(edit.OpMakeMenu{Menu: 3, Key: "feed", Name: "Feed", Programs: true, Entries: []edit.EntryForm{
		entry(10, 0, map[edit.Field]string{edit.FieldShows: fmt.Sprintf("branch:%d:0:above", root)}),
		entry(
			11,
			0,
			map[edit.Field]string{
				edit.FieldShows:    "heading",
				edit.FieldLabel:    "Later",
				edit.FieldLiveFrom: w.instant(),
			},
		),
	}})
	for id, name := range []string{"Piers", "Boats", "Isles"} { // the last has no place
		w.do(edit.OpMakeSet{Set: site.SetID(id + 1), Fields: map[edit.Field]string{
			edit.FieldName: name, edit.FieldWhere: w.placeValue(edit.FieldWhere),
			edit.FieldExcept: pick(w, "", "", w.placeValue(edit.FieldExcept)),
		}})
	}
	pieces := []string{
		"name",
		pick(w, "account", "search"),
		"breadcrumb",
		"text:t2",
		"children",
		pick(w, "image:pier.jpg:The pier", "image:page/14:The chart"),
		w.window(1),
		w.window(1),
		w.window(2),
		"text:t1",
	}
	if w.chance(2) {
		pieces[pick(w, 2, 3, 5, 8)] = w.listing()
	}
	for i, piece := range pieces {
		id := int64(i + 1)
		w.do(edit.OpMakeBlock{Block: site.BlockID(id), Fields: map[edit.Field]string{
			edit.FieldName: pick(w, "Block A", "Block B", fmt.Sprintf("Block %d", id)),
			edit.FieldTitle: pick(
				w,
				"",
				"",
				"Near here",
				fmt.Sprintf("Title %d", id),
			), edit.FieldTitled: pick(w, "yes", "no"), edit.FieldPiece: piece,
		}})
		if i < 9 {
			w.do(w.put(site.BlockID(id)))
		}
	}
	if w.chance(2) {
		w.do(w.put(4))
	}
	for _, field := range []edit.Field{
		edit.FieldNotFoundPage, edit.FieldSignInPage, edit.FieldNoAccessPage,
		edit.FieldClosedPage, edit.FieldSearchPage,
	} {
		if w.chance(2) {
			w.do(
				edit.OpEditSettings{
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
	if w.chance(4) {
		fields[edit.FieldSet] = pick(w, "1", "2")
	}
	return edit.OpPutPlacement{Placement: site.PlacementID(w.next), Block: block, Slot: w.slot(), Fields: fields}
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
		return edit.OpMove{Page: page, To: w.gapFor(page)}
	case "bin":
		if !w.chance(3) {
			return edit.OpBin{Page: site.PageID(w.IntN(5) + 8)}
		}
		return edit.OpBin{Page: page}
	case "segment":
		return w.editPage(page, edit.FieldSegment, fmt.Sprintf("old-%d", w.IntN(3)))
	case "own":
		return w.editPage(page, edit.FieldOwnAddress, pick(w, "", "/fixed", "/fixed/deep"))
	}
	return w.editPage(page, edit.FieldStatus, pick(w, "live", "offline"))
}

func (w *world) editPage(page site.PageID, field edit.Field, value string) edit.Op {
	return edit.OpEdit{
		Page:   page,
		Fields: []edit.FieldChange{{Field: field, Old: edit.Value(w.site.Page(page), field), New: value}},
	}
}
