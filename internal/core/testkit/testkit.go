// Package testkit makes sites for tests: from an outline, or at random.
package testkit

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// Now is the moment at which tests stand.
var Now = time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC)

// Settings of a test site.
func Settings() site.Settings {
	return site.Settings{Name: "Test", Language: "en", Zone: time.UTC}
}

// Roles of a test site: masters include staff.
func Roles() []site.Role {
	return []site.Role{{Key: "staff", Name: "staff"}, {Key: "masters", Name: "harbour masters", Includes: []string{"staff"}},
		{Key: "operators", Name: "operators"}}
}

// Menu gives a main menu that follows the tree, with a header and a side block.
func Menu(self site.Self) ([]site.Menu, []site.MenuBlock) {
	menus := []site.Menu{{ID: 1, Key: "main", Name: "Main menu", Entries: []site.Entry{{ID: 1, Shows: site.ToBranch{Root: 1, Self: self}}}}}
	blocks := []site.MenuBlock{
		{ID: 1, Key: "header", Name: "Header", Title: "Main", Menu: 1, Window: site.Window{First: 1, Levels: 2, From: site.FromWhole, Unfold: site.UnfoldAll}},
		{ID: 2, Key: "side", Name: "Side menu", Title: "Section", Menu: 1, Window: site.Window{First: 2, From: site.FromTrail, Unfold: site.UnfoldTrail}},
	}
	return menus, blocks
}

// Outline makes a site of live, listed pages from labels indented by two spaces; the first line is the home page. Words
// after "|" set fields, as in "Fares | status=offline listed=no".
func Outline(t testing.TB, text string) *site.Site {
	b := site.NewBuilder(Settings())
	b.SetRoles(Roles())
	b.SetMenus(Menu(site.SelfNot))
	s := b.Site()
	var above []site.PageID
	for i, line := range strings.Split(strings.Trim(text, "\n"), "\n") {
		level := (len(line) - len(strings.TrimLeft(line, " "))) / 2
		label, with, _ := strings.Cut(strings.TrimSpace(line), "|")
		op := edit.Make{Page: site.PageID(i + 1), Fields: []edit.FieldChange{{Field: edit.Label, New: strings.TrimSpace(label)}}}
		if level > 0 {
			op.Place.Parent = above[level-1]
			if !strings.Contains(with, "status=") {
				with += " status=live"
			}
		}
		for _, set := range strings.Fields(with) {
			field, value, _ := strings.Cut(set, "=")
			op.Fields = append(op.Fields, edit.FieldChange{Field: edit.Field(field), New: value})
		}
		above = append(above[:level], op.Page)
		var err error
		s, _, err = edit.Apply(s, op, Now)
		require.NoError(t, err, line)
	}
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
	b.SetMenus(Menu(rapid.SampledFrom([]site.Self{site.SelfNot, site.SelfAbove, site.SelfBeside}).Draw(t, "self")))
	s := b.Site()
	count := rapid.IntRange(1, n).Draw(t, "pages")
	for id := range count {
		op := edit.Make{Page: site.PageID(id + 1), Fields: []edit.FieldChange{{Field: edit.Label, New: label(t)}}}
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
	return rapid.SampledFrom([]string{"Fares", "Winter", "Summer", "Øyra", "North pier", "Notices", "fares", "Åsgarth", "!"}).Draw(t, "label")
}

func fields(t *rapid.T) []edit.FieldChange {
	var changes []edit.FieldChange
	for _, field := range []edit.Field{edit.Status, edit.Listed, edit.Audience, edit.LiveFrom, edit.LiveUntil} {
		if rapid.IntRange(0, 2).Draw(t, "set") > 0 || field == edit.Status {
			changes = append(changes, edit.FieldChange{Field: field, New: value(t, field)})
		}
	}
	return changes
}

func value(t *rapid.T, field edit.Field) string {
	hour := func(h int) string { return Now.Add(time.Duration(h) * time.Hour).Format(time.RFC3339) }
	choices := map[edit.Field][]string{
		edit.Label:      {label(t)},
		edit.Title:      {"", "A long name"},
		edit.Status:     {"live", "live", "live", "offline"},
		edit.Listed:     {"yes", "yes", "no"},
		edit.Audience:   {"", "", "", "everyone", "signed-in", "staff", "masters|operators"},
		edit.LiveFrom:   {"", "", "", hour(-2), hour(1)},
		edit.LiveUntil:  {"", "", "", hour(3), hour(2)},
		edit.Segment:    {"", "typed", "fares"},
		edit.OwnAddress: {"", "", "/fixed", "/fares/winter"},
		edit.Sort:       {"manual", "label", "newest", "date", "date-down"},
		edit.Pin:        {"", "start", "end"},
		edit.Date:       {"", "2026-01-31", "2025-06-01"},
	}
	return rapid.SampledFrom(choices[field]).Draw(t, string(field))
}

// RandomOp draws an operation on a site; it may well be one that is refused.
func RandomOp(t *rapid.T, s *site.Site, next *site.PageID) edit.Op {
	pages := ids(s)
	page := rapid.SampledFrom(pages).Draw(t, "page")
	place := edit.Place{Parent: rapid.SampledFrom(pages).Draw(t, "into")}
	if kids := s.Children(place.Parent); len(kids) > 0 && rapid.Bool().Draw(t, "beside") {
		place.Before = rapid.SampledFrom(kids).Draw(t, "before")
	}
	switch rapid.SampledFrom([]string{"make", "edit", "edit", "edit", "move", "move", "bin", "restore", "order"}).Draw(t, "op") {
	case "make":
		*next++
		return edit.Make{Page: *next, Place: place, Fields: append([]edit.FieldChange{{Field: edit.Label, New: label(t)}}, fields(t)...)}
	case "edit":
		field := rapid.SampledFrom([]edit.Field{edit.Label, edit.Title, edit.Status, edit.Listed, edit.Audience,
			edit.LiveFrom, edit.LiveUntil, edit.Segment, edit.OwnAddress, edit.Sort, edit.Pin, edit.Date}).Draw(t, "field")
		return edit.Edit{Page: page, Fields: []edit.FieldChange{{Field: field, Old: edit.Value(s.Page(page), field), New: value(t, field)}}}
	case "move":
		return edit.Move{Page: page, To: place}
	case "bin":
		return edit.Bin{Page: page}
	case "order":
		return edit.Order{Page: place.Parent, Children: rapid.Permutation(s.Children(place.Parent)).Draw(t, "order")}
	}
	if binned := s.Binned(); len(binned) > 0 {
		page = rapid.SampledFrom(binned).Draw(t, "binned")
	}
	return edit.Restore{Page: page}
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
			e.Shows = site.Heading{}
		case 1:
			e.Shows = site.ToWeb{Address: "https://tides.example/"}
		case 2:
			if !used[page] {
				e.Shows = site.ToBranch{Root: page, Depth: rapid.IntRange(0, 2).Draw(t, "depth"), Self: rapid.SampledFrom([]site.Self{site.SelfNot, site.SelfAbove, site.SelfBeside}).Draw(t, "self")}
				used[page] = true
				break
			}
			fallthrough
		default:
			e.Shows = site.ToPage{Page: page}
		}
		if id > 0 && rapid.Bool().Draw(t, "inside") {
			e.Parent = site.EntryID(rapid.IntRange(1, id).Draw(t, "parent"))
			if _, generated := m.Entry(e.Parent).Shows.(site.ToBranch); generated {
				e.Parent = 0
			}
		}
		e.Off = rapid.IntRange(0, 5).Draw(t, "off") == 0
		e.Audience = rapid.SampledFrom([]site.Audience{"", "", "signed-in", "staff"}).Draw(t, "audience")
		m.Entries = append(m.Entries, e)
	}
	return m
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
		gap.Parent = rapid.SampledFrom(to.Entries).Draw(t, "parent").ID
	} else if len(to.Entries) > 0 {
		gap.Before = to.Entries[0].ID
	}
	shows := fmt.Sprintf("page:%d", rapid.SampledFrom(ids(s)).Draw(t, "page"))
	switch rapid.SampledFrom([]string{"put", "take", "edit", "edit", "move", "move", "rename"}).Draw(t, "menu op") {
	case "put":
		*next++
		return edit.PutEntries{Gap: gap, Entries: []edit.EntryForm{{ID: *next, Fields: map[edit.Field]string{edit.Shows: shows}}}}
	case "take":
		return edit.TakeEntry{Entry: entry}
	case "move":
		return edit.MoveEntry{Entry: entry, To: gap}
	case "rename":
		return edit.RenameMenu{Menu: m.ID, Old: m.Name, New: "Renamed"}
	}
	field := rapid.SampledFrom([]edit.Field{edit.On, edit.Label, edit.Audience, edit.Shows}).Draw(t, "field")
	value := map[edit.Field]string{edit.On: "no", edit.Label: "Other", edit.Audience: "staff", edit.Shows: shows}[field]
	old := ""
	if e := m.Entry(entry); e != nil {
		old = edit.EntryValue(e, field)
	}
	return edit.EditEntry{Entry: entry, Fields: []edit.FieldChange{{Field: field, Old: old, New: value}}}
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
	return []reach.Lens{{At: Now}, {Visitor: reach.Visitor{SignedIn: true}, At: Now},
		{Visitor: reach.Visitor{SignedIn: true, Roles: []string{"staff"}}, At: Now},
		{Visitor: reach.Visitor{SignedIn: true, Roles: []string{"masters", "staff"}}, At: Now.Add(90 * time.Minute)}}
}
