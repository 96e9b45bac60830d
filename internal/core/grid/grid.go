// Package grid is pages as a table: its columns, what stands in each cell as people read and type it, how what is typed
// or pasted is read, and the edits that come of it. All cells that were changed are one step of a draft.
package grid

import (
	"time"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// RowLimit bounds the pages that one table has; a question with more answers is shown in several.
const RowLimit = 1000

// A Column is what a table can say of each of its pages.
type Column struct {
	Key     string // of the field or the detail, or Position
	Name    string
	Kind    string   // key of the page type whose detail it is; "" for what every page has
	Options []Option // what can stand in a cell; nil: anything that reads
	Several bool     // more than one of them, with semicolons between
	Lines   bool     // a cell can have several lines

	write func(*site.Page) string
	read  func(*site.Page, string) (string, error)
}

// Position is the key of the column that says which of the pages beside it a page is, counted from 1.
const Position = "position"

// An Option is a value, and how people read it.
type Option struct{ Value, Words string }

// A Table shows pages of one Site.
type Table struct {
	Columns []Column

	site     *site.Site
	calendar typed.Calendar
	now      time.Time
	topics   topicNames
}

// Of gives a table of a Site with every column that it can have, at a moment; people are those who can look after
// pages, by owner.
func Of(s *site.Site, now time.Time, people []Option) *Table {
	t := &Table{site: s, calendar: typed.CalendarOf(s, now), now: now, topics: topicNames{site: s}}
	t.Columns = append(t.ofPages(people), t.ofDetails()...)
	return t
}

// Column finds one by its key; nil if there is none.
func (t *Table) Column(key string) *Column {
	for i := range t.Columns {
		if t.Columns[i].Key == key {
			return &t.Columns[i]
		}
	}
	return nil
}

// Text gives what stands in the cell of a page.
func (t *Table) Text(p *site.Page, c *Column) string { return c.write(p) }

// Needs is the right that an edit of the column needs on a page.
func (c *Column) Needs() site.Action {
	if c.Key == Position {
		return site.ActionArrange
	}
	return edit.OpEdit{Fields: []edit.FieldChange{{Field: edit.Field(c.Key)}}}.Needs(nil)[0].Action
}

// Wide says whether a column has sentences.
func (c *Column) Wide() bool {
	return c.Lines || c.Key == string(edit.FieldSummary) || c.Key == string(edit.FieldNote)
}

// Inner says whether a column is of what only who may read a page may see.
func (c *Column) Inner() bool {
	return edit.FieldHas(edit.Field(c.Key), edit.Inner) || edit.IsDetail(edit.Field(c.Key))
}

// Closed says why nobody types into the cell of a page whatever they may do; "" where they can.
func (t *Table) Closed(p *site.Page, c *Column) string {
	switch {
	case c.Kind != "" && c.Kind != p.Kind:
		return "Only pages of the type “" + t.site.Kind(c.Kind).Name + "” have it."
	case p.Parent == 0 && (c.Key == Position || edit.FixedOnHome(edit.Field(c.Key))):
		return "The home page is always live, listed and at “/”."
	case c.Key == Position && t.site.Page(p.Parent).Sort != site.SortManual:
		return "The pages in “" + t.site.Page(p.Parent).Label + "” stand by a rule."
	case c.Key == Position && p.Pin != site.PinNone:
		return "It is pinned at an end of the order."
	case c.Key == string(edit.FieldDate) && t.site.Kind(p.Kind).DateName == "":
		return "The type “" + t.site.Kind(p.Kind).Name + "” has no date."
	case c.Key == string(edit.FieldKind) && site.IsOwnKind(p.Kind):
		return "What it is stays as it was made."
	}
	return ""
}
