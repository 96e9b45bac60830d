// Package testkit makes sites for tests: from an outline, or at random.
package testkit

import (
	"fmt"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	_ "vineladder/internal/laws"
)

// Now is the moment at which tests stand.
var Now = time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC)

// Settings of a test site.
func Settings() site.Settings {
	return site.Settings{Name: "Test", Language: "en", Zone: time.UTC}
}

// Roles of a test site: masters include staff.
func Roles() []site.Role {
	return []site.Role{
		{Key: "staff", Name: "staff"},
		{Key: "masters", Name: "harbour masters", Includes: []string{"staff"}},
		{Key: "operators", Name: "operators"},
	}
}

// Theme is that of test sites: a standard layout with a side, and a wide one without.
func Theme() *site.Theme {
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
		Icons: []string{"anchor", "ship", "star"},
	}
}

// Ids of the blocks of a furnished site.
const (
	Header site.BlockID = 1
	Side   site.BlockID = 2
)

// MenuBlock is a block that shows a menu.
func MenuBlock(id site.BlockID, name string, m site.MenuID, w site.Window) site.Block {
	return site.Block{ID: id, Name: name, Title: name, Heading: 2, Shows: site.BlockMenu{Menu: m, Window: w}}
}

// PlaceBlocks puts each block in the region of its number: 1 in the header, others in the side of the layouts that
// have one.
func PlaceBlocks(blocks ...site.Block) []site.Placement {
	var placements []site.Placement
	for _, b := range blocks {
		region := "side"
		if b.ID == Header {
			region = "header"
		}
		placements = append(placements, site.Placement{ID: site.PlacementID(b.ID), Block: b.ID, Region: region})
	}
	return placements
}

// Furnish gives a site the theme, a main menu that follows the tree, and blocks of it in the header and the side.
func Furnish(b *site.Builder, self site.Self) {
	b.SetTheme(Theme())
	b.SetMenus(
		[]site.Menu{
			{
				ID:      1,
				Key:     "main",
				Name:    "Main menu",
				Entries: []site.Entry{{ID: 1, Shows: site.ItemBranch{Root: 1, Self: self}}},
			},
		},
	)
	blocks := []site.Block{
		MenuBlock(
			Header,
			"Header",
			1,
			site.Window{First: 1, Levels: 2, From: site.FromWhole, Unfold: site.UnfoldAll},
		),
		MenuBlock(Side, "Side menu", 1, site.Window{First: 2, From: site.FromTrail, Unfold: site.UnfoldTrail}),
	}
	b.SetBlocks(blocks, PlaceBlocks(blocks...))
}

// Outline makes a site of live, listed pages from labels indented by two spaces; the first line is the home page.
// Words after "|" set fields, as in "Fares | status=offline listed=no".
func Outline(t testing.TB, text string) *site.Site {
	b := site.NewBuilder(Settings())
	b.SetRoles(Roles())
	Furnish(b, site.SelfNot)
	s := b.Site()
	var above []site.PageID
	var tags []edit.Op // when all topics are there
	for i, line := range strings.Split(strings.Trim(text, "\n"), "\n") {
		level := (len(line) - len(strings.TrimLeft(line, " "))) / 2
		label, with, _ := strings.Cut(strings.TrimSpace(line), "|")
		op := edit.OpMake{
			Page:   site.PageID(i + 1),
			Fields: []edit.FieldChange{{Field: edit.FieldLabel, New: strings.TrimSpace(label)}},
		}
		if level > 0 {
			op.Place.Parent = above[level-1]
			if !strings.Contains(with, "status=") {
				with += " status=live"
			}
		}
		for _, set := range strings.Fields(with) {
			field, value, _ := strings.Cut(set, "=")
			if change := (edit.FieldChange{Field: edit.Field(field), New: value}); change.Field == edit.FieldTopics {
				tags = append(tags, edit.OpEdit{Page: op.Page, Fields: []edit.FieldChange{change}})
				continue
			}
			op.Fields = append(op.Fields, edit.FieldChange{Field: edit.Field(field), New: value})
		}
		above = append(above[:level], op.Page)
		var err error
		s, _, err = edit.Apply(s, op, Now)
		require.NoError(t, err, line)
	}
	s, _, err := edit.ApplyAll(s, tags, Now)
	require.NoError(t, err)
	return s
}

// Find gives the page that has a label.
func Find(t testing.TB, s *site.Site, label string) site.PageID {
	var found site.PageID
	s.Walk(s.Home(), func(p *site.Page) bool {
		if p.Label == label {
			found = p.ID
		}
		return found == 0
	})
	require.NotZero(t, found, label)
	return found
}

// Random makes a site of up to n pages with statuses, windows, audiences and unlisted pages.
func Random(t *rapid.T, n int) *site.Site {
	b := site.NewBuilder(Settings())
	b.SetRoles(Roles())
	Furnish(b, rapid.SampledFrom([]site.Self{site.SelfNot, site.SelfAbove, site.SelfBeside}).Draw(t, "self"))
	s := b.Site()
	count := rapid.IntRange(1, n).Draw(t, "pages")
	for id := range count {
		op := edit.OpMake{
			Page:   site.PageID(id + 1),
			Fields: []edit.FieldChange{{Field: edit.FieldLabel, New: label(t)}},
		}
		if id > 0 {
			op.Place.Parent = site.PageID(rapid.IntRange(1, id).Draw(t, "parent"))
			op.Fields = append(op.Fields, fields(t)...)
		}
		var err error
		s, _, err = edit.Apply(s, op, Now)
		if err != nil {
			t.Fatalf("make: %v", err)
		}
	}
	return s
}

func label(t *rapid.T) string {
	return rapid.SampledFrom(
		[]string{"Fares", "Winter", "Summer", "Øyra", "North pier", "Notices", "fares", "Åsgarth", "!"},
	).Draw(
		t,
		"label",
	)
}

func fields(t *rapid.T) []edit.FieldChange {
	var changes []edit.FieldChange
	for _, field := range []edit.Field{
		edit.FieldStatus, edit.FieldListed, edit.FieldAudience, edit.FieldLiveFrom,
		edit.FieldLiveUntil,
	} {
		if rapid.IntRange(0, 2).Draw(t, "set") > 0 || field == edit.FieldStatus {
			changes = append(changes, edit.FieldChange{Field: field, New: value(t, field)})
		}
	}
	return changes
}

func value(t *rapid.T, field edit.Field) string {
	hour := func(h int) string { return Now.Add(time.Duration(h) * time.Hour).Format(time.RFC3339) }
	choices := map[edit.Field][]string{
		edit.FieldLabel:      {label(t)},
		edit.FieldTitle:      {"", "A long name"},
		edit.FieldStatus:     {"live", "live", "live", "offline"},
		edit.FieldListed:     {"yes", "yes", "no"},
		edit.FieldAudience:   {"", "", "", "everyone", "signed-in", "staff", "masters|operators"},
		edit.FieldLiveFrom:   {"", "", "", hour(-2), hour(1)},
		edit.FieldLiveUntil:  {"", "", "", hour(3), hour(2)},
		edit.FieldSegment:    {"", "typed", "fares"},
		edit.FieldOwnAddress: {"", "", "/fixed", "/fares/winter"},
		edit.FieldSort:       {"manual", "label", "newest", "date", "date-down"},
		edit.FieldPin:        {"", "start", "end"},
		edit.FieldDate:       {"", "2026-01-31", "2025-06-01"},
	}
	return rapid.SampledFrom(choices[field]).Draw(t, string(field))
}

// An Edits draws operations of every family: on pages, on menus, and on blocks and layouts. Its fields are the numbers
// that the next new page, entry and thing have.
type Edits struct {
	Page  site.PageID
	Entry site.EntryID
	Thing int64
}

// Draw gives a random operation on a Site.
func (e *Edits) Draw(s *site.Site, seed int) edit.Op {
	return rapid.Custom(func(t *rapid.T) edit.Op {
		switch rapid.IntRange(0, 2).Draw(t, "of") {
		case 0:
			return RandomOp(t, s, &e.Page)
		case 1:
			return RandomMenuOp(t, s, &e.Entry)
		}
		return RandomBlockOp(t, s, &e.Thing)
	}).Example(seed)
}

// RandomOp draws an operation on a site; it may well be one that is refused.
func RandomOp(t *rapid.T, s *site.Site, next *site.PageID) edit.Op {
	pages := ids(s)
	page := rapid.SampledFrom(pages).Draw(t, "page")
	place := edit.Place{Parent: rapid.SampledFrom(pages).Draw(t, "into")}
	if kids := s.Children(place.Parent); len(kids) > 0 && rapid.Bool().Draw(t, "beside") {
		place.Before = rapid.SampledFrom(kids).Draw(t, "before")
	}
	switch rapid.SampledFrom([]string{"make", "edit", "edit", "edit", "move", "move", "bin", "restore", "order"}).Draw(t,
		"op") {
	case "make":
		*next++
		return edit.OpMake{
			Page:   *next,
			Place:  place,
			Fields: append([]edit.FieldChange{{Field: edit.FieldLabel, New: label(t)}}, fields(t)...),
		}
	case "edit":
		field := rapid.SampledFrom([]edit.Field{
			edit.FieldLabel, edit.FieldTitle, edit.FieldStatus, edit.FieldListed, edit.FieldAudience,
			edit.FieldLiveFrom, edit.FieldLiveUntil, edit.FieldSegment, edit.FieldOwnAddress, edit.FieldSort, edit.FieldPin,
			edit.FieldDate,
		}).Draw(t, "field")
		return edit.OpEdit{
			Page:   page,
			Fields: []edit.FieldChange{{Field: field, Old: edit.Value(s.Page(page), field), New: value(t, field)}},
		}
	case "move":
		return edit.OpMove{Page: page, To: place}
	case "bin":
		return edit.OpBin{Page: page}
	case "order":
		return edit.OpOrder{
			Page:     place.Parent,
			Children: rapid.Permutation(s.Children(place.Parent)).Draw(t, "order"),
		}
	}
	if binned := s.Binned(); len(binned) > 0 {
		page = rapid.SampledFrom(binned).Draw(t, "binned")
	}
	return edit.OpRestore{Page: page}
}

// RandomMenu makes a menu of up to 8 entries of every type that leads somewhere, some inside others.
func RandomMenu(t *rapid.T, s *site.Site) *site.Menu {
	m := &site.Menu{ID: 1, Key: "main", Name: "Main"}
	used := map[site.PageID]bool{}
	for id := range rapid.IntRange(1, 8).Draw(t, "entries") {
		e := site.Entry{ID: site.EntryID(id + 1), Label: "Entry"}
		page := site.PageID(rapid.IntRange(1, s.Count()).Draw(t, "page"))
		switch rapid.IntRange(0, 4).Draw(t, "type") {
		case 0:
			e.Shows = site.ItemHeading{}
		case 1:
			e.Shows = site.ItemWeb{Address: "https://tides.example/"}
		case 2:
			if !used[page] {
				e.Shows, e.Grown = randomGrowth(t, s, page)
				used[page] = true
				break
			}
			fallthrough
		default:
			e.Shows = site.ItemPage{Page: page}
		}
		if id > 0 && rapid.Bool().Draw(t, "inside") {
			e.Parent = site.EntryID(rapid.IntRange(1, id).Draw(t, "parent"))
			if to, generated := m.Entry(e.Parent).Shows.(site.ItemBranch); generated {
				e.Under = randomLine(t, s, to.Root)
			}
		}
		e.Off = rapid.IntRange(0, 5).Draw(t, "off") == 0
		e.Audience = rapid.SampledFrom([]site.Audience{"", "", "signed-in", "staff"}).Draw(t, "audience")
		m.Entries = append(m.Entries, e)
	}
	return m
}

// randomGrowth makes a run of what is in a page, of any kind that the page can have, with single lines set.
func randomGrowth(t *rapid.T, s *site.Site, page site.PageID) (to site.ItemBranch, grown site.Values) {
	to = site.ItemBranch{
		Root:  page,
		Depth: rapid.IntRange(0, 2).Draw(t, "depth"),
		Self:  rapid.SampledFrom([]site.Self{site.SelfNot, site.SelfAbove, site.SelfBeside}).Draw(t, "self"),
		By:    rapid.SampledFrom([]site.GrownBy{"", "", site.GrownByLabel}).Draw(t, "by"),
	}
	switch p := s.Page(page); {
	case p.Gathers():
		to.Least = rapid.IntRange(0, 2).Draw(t, "least")
		to.Count = rapid.Bool().Draw(t, "count")
		to.By = rapid.SampledFrom([]site.GrownBy{"", site.GrownByLabel, site.GrownByCount}).Draw(t, "by count")
	case p.Listing != "" && rapid.Bool().Draw(t, "lists"):
		to.Hits, to.Depth, to.By = rapid.IntRange(1, 3).Draw(t, "hits"), 1, ""
	}
	for range rapid.SampledFrom([]int{0, 0, 1, 2}).Draw(t, "lines set") {
		line := site.GrownLine{
			Pin:    rapid.SampledFrom([]site.GrownPin{"", site.GrownFirst, site.GrownLast}).Draw(t, "pin"),
			Hidden: rapid.IntRange(0, 3).Draw(t, "hidden") == 0,
			Label:  rapid.SampledFrom([]string{"", "Another name"}).Draw(t, "line label"),
		}
		grown = grown.With(site.LineKey(randomLine(t, s, page)), line.String())
	}
	return to, grown
}

// randomLine draws a page that a run of what is in another one may well have a line of.
func randomLine(t *rapid.T, s *site.Site, root site.PageID) site.PageID {
	branch := []site.PageID{root}
	s.Walk(root, func(p *site.Page) bool { branch = append(branch, p.ID); return true })
	if rapid.IntRange(0, 3).Draw(t, "line of any") == 0 {
		return rapid.SampledFrom(ids(s)).Draw(t, "line")
	}
	return rapid.SampledFrom(branch).Draw(t, "line")
}

// RandomMenuOp draws an operation on the menus of a site; it may well be one that is refused.
func RandomMenuOp(t *rapid.T, s *site.Site, next *site.EntryID) edit.Op {
	m := rapid.SampledFrom(s.Menus()).Draw(t, "menu")
	var entry site.EntryID
	if len(m.Entries) > 0 {
		entry = rapid.SampledFrom(m.Entries).Draw(t, "entry").ID
	}
	gap := edit.Gap{Menu: rapid.SampledFrom(s.Menus()).Draw(t, "to").ID}
	if to := s.Menu(gap.Menu); len(to.Entries) > 0 && rapid.Bool().Draw(t, "inside") {
		above := rapid.SampledFrom(to.Entries).Draw(t, "parent")
		if gap.Parent = above.ID; above.IsGenerated() {
			gap.Under = randomLine(t, s, above.Target())
		}
	} else if len(to.Entries) > 0 {
		gap.Before = to.Entries[0].ID
	}
	shows := fmt.Sprintf("page:%d", rapid.SampledFrom(ids(s)).Draw(t, "page"))
	switch rapid.SampledFrom([]string{"put", "take", "edit", "edit", "move", "move", "rename"}).Draw(t, "menu op") {
	case "put":
		*next++
		return edit.OpPutEntries{
			Gap:     gap,
			Entries: []edit.EntryForm{{ID: *next, Fields: map[edit.Field]string{edit.FieldShows: shows}}},
		}
	case "take":
		return edit.OpTakeEntry{Entry: entry}
	case "move":
		return edit.OpMoveEntry{Entry: entry, To: gap}
	case "rename":
		return edit.OpEditMenu{
			Menu:   m.ID,
			Fields: []edit.FieldChange{{Field: edit.FieldName, Old: m.Name, New: "Renamed"}},
		}
	}
	field := rapid.SampledFrom([]edit.Field{edit.FieldOn, edit.FieldLabel, edit.FieldAudience, edit.FieldShows}).
		Draw(t, "field")
	value := map[edit.Field]string{
		edit.FieldOn: "no", edit.FieldLabel: "Other", edit.FieldAudience: "staff",
		edit.FieldShows: shows,
	}[field]
	old := ""
	if e := m.Entry(entry); e != nil {
		old = edit.EntryValue(e, field)
	}
	return edit.OpEditEntry{Entry: entry, Fields: []edit.FieldChange{{Field: field, Old: old, New: value}}}
}

func ids(s *site.Site) []site.PageID {
	var pages []site.PageID
	s.Walk(s.Home(), func(p *site.Page) bool { pages = append(pages, p.ID); return true })
	return pages
}

// Dump writes all that a site's pages hold, for telling two apart.
func Dump(s *site.Site) string {
	var out strings.Builder
	tops := append([]site.PageID{s.Home()}, s.Binned()...)
	for _, top := range tops {
		s.Walk(top, func(p *site.Page) bool {
			fmt.Fprintf(&out, "%d %d %+v\n", s.Level(p.ID), s.Below(p.ID), *p)
			return true
		})
	}
	fmt.Fprintln(&out, s.Count(), s.Fixed())
	return out.String()
}

// Lenses gives a few visitors at Now.
func Lenses() []reach.Lens {
	return []reach.Lens{
		{At: Now},
		{Visitor: reach.Visitor{SignedIn: true}, At: Now},
		{Visitor: reach.Visitor{SignedIn: true, Roles: []string{"staff"}}, At: Now},
		{Visitor: reach.Visitor{SignedIn: true, Roles: []string{"masters", "staff"}}, At: Now.Add(90 * time.Minute)},
	}
}

// RandomBlock makes a block that shows one of a few pieces, mostly a menu.
func RandomBlock(t *rapid.T, m *site.Menu) site.Block {
	pieces := []site.Piece{
		site.BlockBreadcrumb{},
		site.BlockChildren{},
		site.BlockAccount{},
		site.BlockSearch{},
		site.BlockListing{Sort: site.ListNewest, Most: 2},
		site.BlockListing{Kinds: "notice", Within: 1, Sort: site.ListTree, Most: 5},
	}
	window := site.Window{
		First: rapid.IntRange(1, 3).Draw(t, "first"), Levels: rapid.IntRange(0, 2).Draw(t, "levels"),
		From: rapid.SampledFrom(
			[]site.From{site.FromTrail, site.FromTrail, site.FromWhole, site.FromEntry},
		).Draw(
			t,
			"from",
		),
		Entry:  site.EntryID(rapid.IntRange(1, max(1, len(m.Entries))).Draw(t, "entry")),
		Unfold: rapid.SampledFrom([]site.Unfold{site.UnfoldAll, site.UnfoldTrail}).Draw(t, "unfold"),
	}
	if n := rapid.IntRange(0, 9).Draw(t, "piece"); n < len(pieces) {
		return site.Block{ID: 1, Name: "Piece", Shows: pieces[n]}
	}
	return MenuBlock(1, "Menu", m.ID, window)
}

// RandomPlacements places a block up to three times, with conditions.
func RandomPlacements(t *rapid.T, s *site.Site, block site.BlockID) []site.Placement {
	spots := func(name string) (spots []site.Spot) {
		for range rapid.IntRange(0, 2).Draw(t, name) {
			if rapid.IntRange(0, 2).Draw(t, "pattern") == 0 {
				spots = append(
					spots,
					site.Spot{
						Pattern: rapid.SampledFrom(
							[]string{"/**", "/*", "/*/*", "/**/b", "/a/**", "/a/*/b"},
						).Draw(
							t,
							"pattern of",
						),
					},
				)
				continue
			}
			spot := site.Spot{
				Page:   site.PageID(rapid.IntRange(1, s.Count()+2).Draw(t, "spot")),
				Branch: rapid.Bool().Draw(t, "branch"),
			}
			if p := s.Page(spot.Page); p != nil && p.IsTopic() && rapid.Bool().Draw(t, "topic") {
				spot.Branch, spot.Topic = false, true
			}
			spots = append(spots, spot)
		}
		return spots
	}
	kinds := func(name string) []string {
		if rapid.IntRange(0, 3).Draw(t, name) > 0 {
			return nil
		}
		return []string{rapid.SampledFrom([]string{"page", "notice"}).Draw(t, "kind")}
	}
	var placements []site.Placement
	for id := range rapid.IntRange(1, 3).Draw(t, "placements") {
		placements = append(placements, site.Placement{
			ID: site.PlacementID(id + 1), Block: block,
			Region: rapid.SampledFrom(
				[]string{"header", "side"},
			).Draw(
				t,
				"region",
			), Layout: rapid.SampledFrom([]string{"", "", "standard", "wide"}).Draw(t, "layout"),
			Off: rapid.IntRange(0, 9).Draw(t, "off") == 0,
			Conditions: site.Conditions{
				Where: spots("where"), Except: spots("except"), Kinds: kinds("kinds"), NotKinds: kinds("not kinds"),
				Audience: rapid.SampledFrom([]site.Audience{"", "", "signed-in", "staff"}).Draw(t, "audience"),
			},
		})
	}
	return placements
}

// RandomFurnished makes a site of up to n pages, and a few topics that they bear, with a menu, one block, its
// placements, and layouts, all at random.
func RandomFurnished(t *rapid.T, n int) (*site.Site, site.Block) {
	s := RandomTopics(t, Random(t, n), 3)
	m := RandomMenu(t, s)
	block := RandomBlock(t, m)
	b := s.Builder()
	b.SetMenus([]site.Menu{*m})
	b.SetBlocks([]site.Block{block}, RandomPlacements(t, s, block.ID))
	return RandomLayouts(t, b.Site()), block
}

// RandomLayouts sets layouts, kinds and own addresses on a few pages.
func RandomLayouts(t *rapid.T, s *site.Site) *site.Site {
	b := s.Builder()
	s.Walk(s.Home(), func(p *site.Page) bool {
		if rapid.IntRange(0, 3).Draw(t, "dress") > 0 {
			return true
		}
		dressed := *p
		dressed.Layout = rapid.SampledFrom([]string{"", "", "wide"}).Draw(t, "own layout")
		dressed.BranchLayout = rapid.SampledFrom([]string{"", "wide", "standard"}).Draw(t, "branch layout")
		if !p.Gathers() {
			dressed.Kind = rapid.SampledFrom([]string{"page", "notice"}).Draw(t, "kind")
		}
		if p.Parent != 0 && rapid.IntRange(0, 3).Draw(t, "own address") == 0 {
			dressed.OwnAddress = fmt.Sprintf("/a/%d", p.ID)
		}
		b.Put(&dressed)
		return true
	})
	return b.Site()
}

// RandomBlockOp makes an operation on blocks, their places, the settings or the kinds; it may be refused. next numbers
// new things.
func RandomBlockOp(t *rapid.T, s *site.Site, next *int64) edit.Op {
	*next++
	pieces := []string{
		"account",
		"breadcrumb",
		"children",
		"search",
		"name",
		"text:abc",
		"image:pier.jpg:The pier",
		"menu:1:2:0:trail:0:trail",
		"menu:1:1:1:whole:0:all",
	}
	var regions []string
	for _, r := range s.Theme().Regions {
		if r.Key != site.ContentRegion {
			regions = append(regions, r.Key)
		}
	}
	slot := func() edit.Slot {
		slot := edit.Slot{Region: rapid.SampledFrom(regions).Draw(t, "region")}
		if ids := region.In(s, slot.Region); len(ids) > 0 {
			slot.After = rapid.SampledFrom(append(ids, 0)).Draw(t, "after")
		}
		return slot
	}
	block := func() site.BlockID {
		if len(s.Blocks()) == 0 {
			return 99
		}
		return rapid.SampledFrom(s.Blocks()).Draw(t, "block").ID
	}
	change := func(field edit.Field, was, is string) []edit.FieldChange {
		return []edit.FieldChange{{Field: field, Old: was, New: is}}
	}
	p := site.Placement{ID: 99}
	if len(s.Placements()) > 0 {
		p = rapid.SampledFrom(s.Placements()).Draw(t, "placement")
	}
	switch rapid.IntRange(0, 10).Draw(t, "op") {
	case 8, 9:
		return randomSetOp(t, s, site.SetID(*next), &p)
	case 0:
		return edit.OpMakeBlock{
			Block: site.BlockID(*next),
			Fields: map[edit.Field]string{
				edit.FieldName:  "Made",
				edit.FieldPiece: rapid.SampledFrom(pieces).Draw(t, "piece"),
			},
		}
	case 1:
		return edit.OpTakeBlock{Was: edit.OpMakeBlock{Block: block()}}
	case 2:
		id := block()
		was := ""
		if b := s.Block(id); b != nil {
			was = edit.BlockValue(b, edit.FieldPiece)
		}
		return edit.OpEditBlock{
			Block:  id,
			Fields: change(edit.FieldPiece, was, rapid.SampledFrom(pieces).Draw(t, "piece")),
		}
	case 3, 4:
		return edit.OpPutPlacement{
			Placement: site.PlacementID(*next), Block: block(), Slot: slot(),
			Fields: map[edit.Field]string{
				edit.FieldWhere: rapid.SampledFrom([]string{"", "branch:1", "page:1|pattern:/a/*"}).Draw(t, "where"),
			},
		}
	case 5:
		return edit.OpTakePlacement{Placement: p.ID}
	case 6:
		field := rapid.SampledFrom(
			[]edit.Field{
				edit.FieldWhere,
				edit.FieldExcept,
				edit.FieldOn,
				edit.FieldLayout,
				edit.FieldAudience,
				edit.FieldLiveFrom,
				edit.FieldLiveUntil,
				edit.FieldKinds,
				edit.FieldNotKinds,
			},
		).Draw(
			t,
			"field",
		)
		return edit.OpEditPlacement{
			Placement: p.ID,
			Fields:    change(field, edit.PlacementValue(&p, field), placementValue(t, field)),
		}
	case 7:
		return edit.OpMovePlacement{Placement: p.ID, From: edit.Slot{Region: p.Region}, To: slot()}
	}
	return edit.OpEditSettings{
		Fields: change(
			edit.FieldLayout,
			s.Settings().Layout,
			rapid.SampledFrom([]string{"", "wide", "standard"}).Draw(t, "layout"),
		),
	}
}

// randomSetOp makes an operation on condition sets, or gives a placement one.
func randomSetOp(t *rapid.T, s *site.Site, fresh site.SetID, p *site.Placement) edit.Op {
	sets := s.ConditionSets()
	if len(sets) == 0 || rapid.IntRange(0, 4).Draw(t, "make a set") == 0 {
		return edit.OpMakeSet{Set: fresh, Fields: map[edit.Field]string{
			edit.FieldName: "Made", edit.FieldWhere: placementValue(t, edit.FieldWhere),
		}}
	}
	set := rapid.SampledFrom(sets).Draw(t, "set")
	number := strconv.FormatInt(int64(set.ID), 10)
	switch rapid.IntRange(0, 5).Draw(t, "of sets") {
	case 0:
		return edit.OpTakeSet{Was: edit.OpMakeSet{Set: set.ID}}
	case 1, 2:
		field := rapid.SampledFrom([]edit.Field{
			edit.FieldWhere, edit.FieldExcept, edit.FieldKinds, edit.FieldNotKinds,
		}).Draw(t, "field")
		return edit.OpEditSet{Set: set.ID, Fields: []edit.FieldChange{
			{Field: field, Old: edit.SetValue(&set, field), New: placementValue(t, field)},
		}}
	}
	return edit.OpEditPlacement{Placement: p.ID, Fields: []edit.FieldChange{{
		Field: edit.FieldSet, Old: edit.PlacementValue(p, edit.FieldSet),
		New: rapid.SampledFrom([]string{"", number, number}).Draw(t, "has"),
	}}}
}

func placementValue(t *rapid.T, field edit.Field) string {
	values := []string{"", "branch:1|page:1", "pattern:/**"}
	switch field {
	case edit.FieldOn:
		values = []string{"yes", "no"}
	case edit.FieldLayout:
		values = []string{"", "standard", "wide"}
	case edit.FieldAudience:
		values = []string{"", "signed-in", "staff", "operators"}
	case edit.FieldLiveFrom, edit.FieldLiveUntil:
		values = []string{"", Now.Add(-time.Hour).Format(time.RFC3339), Now.Add(3 * time.Hour).Format(time.RFC3339)}
	case edit.FieldKinds, edit.FieldNotKinds:
		values = []string{"", "page", "notice"}
	}
	return rapid.SampledFrom(values).Draw(t, "value")
}

// Empty is a site without pages, menus or blocks.
func Empty() *site.Site {
	b := site.NewBuilder(Settings())
	b.SetRoles(Roles())
	b.SetTheme(Theme())
	return b.Site()
}
