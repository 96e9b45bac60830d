package grid

import (
	"strings"
	"time"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// isDays says whether what stands in a column is days or moments.
func (t *Table) isDays(key string) bool {
	switch edit.Field(key) {
	case edit.FieldDate, edit.FieldLiveFrom, edit.FieldLiveUntil:
		return true
	}
	d := t.site.Detail(key)
	return d != nil && (d.Type == site.DetailDate || d.Type == site.DetailMoment)
}

// swapped is the calendar of people who write day and month the other way round.
func (t *Table) swapped() typed.Calendar {
	other := t.calendar
	if other.Order = site.DatesMonthDay; t.calendar.Order != site.DatesDayMonth {
		other.Order = site.DatesDayMonth
	}
	return other
}

// otherOrder finds the columns in which a day was typed that can only be meant with day and month the other way round:
// what reads both ways there was not meant as the site has it.
func (t *Table) otherOrder(cells []Cell) map[string]bool {
	other := map[string]bool{}
	for _, c := range cells {
		if c.Text == c.Was || !t.isDays(c.Column) {
			continue
		}
		_, wrong := t.calendar.Read(c.Text, false)
		_, right := t.swapped().Read(c.Text, false)
		if wrong != nil && right == nil {
			other[c.Column] = true
		}
	}
	return other
}

// ambiguous refuses what reads as two days, one for each order of day and month.
func (t *Table) ambiguous(text string) error {
	one, wrong := t.calendar.Read(text, false)
	two, err := t.swapped().Read(text, false)
	switch {
	case wrong != nil && err == nil:
		return typed.Refuse("“%s” has day and month the other way round; this site writes %s.", text, t.dayWords(two))
	case wrong != nil || err != nil || one.Equal(two):
		return nil
	}
	const both = "“%s” can be %s or %s: other days in this column have day and month the other way round."
	return typed.Refuse(both, text, one.In(t.calendar.Zone).Format("2 January 2006"),
		two.In(t.calendar.Zone).Format("2 January 2006"))
}

// Turned writes the days of the columns in which day and month were typed the other way round as the site has them.
// What does not read so stays.
func (t *Table) Turned(cells []Cell) []Cell {
	turned, other := make([]Cell, len(cells)), t.otherOrder(cells)
	for i, c := range cells {
		at, err := t.swapped().Read(c.Text, false)
		if err == nil && !at.IsZero() && other[c.Column] {
			if c.Text = t.calendar.Write(at); strings.HasSuffix(c.Text, " 00:00") {
				c.Text = t.dayWords(at)
			}
		}
		turned[i] = c
	}
	return turned
}

// dayWords writes a day as the site has it.
func (t *Table) dayWords(at time.Time) string {
	day, _, _ := strings.Cut(t.calendar.Write(at), " ")
	return day
}
