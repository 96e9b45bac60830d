package desk

import (
	"cmp"
	"net/http"
	"strings"
	"time"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// Calendar is how moments are typed at this desk.
func (d *Desk) Calendar() typed.Calendar { return typed.CalendarOf(d.Site, d.Now) }

// A Moment is a field in which a moment is typed freely, with what it is in words beside it.
type Moment struct {
	ID, Name   string
	Label      string
	Hint       string
	Old, Value string
	Words      string
	Example    string
	End        bool
	Locked     bool
}

// Window gives the two fields of a window: ids begin with the prefix, labels are those of its beginning and end.
func (d *Desk) Window(prefix, from, until string, begins, ends time.Time) []Moment {
	return []Moment{
		d.moment(prefix+"-from", edit.FieldLiveFrom, from, begins),
		d.moment(prefix+"-until", edit.FieldLiveUntil, until, ends),
	}
}

// EmptyWindow gives the two fields with which the window of a selection is set.
func (d *Desk) EmptyWindow() []Moment {
	fields := d.Window("w", "From", "Until", time.Time{}, time.Time{})
	fields[0].Hint, fields[1].Hint = "empty: from the start", "empty: without an end"
	return fields
}

// TypedWindow reads a first and a last moment as a form has them, by the fields that keep them.
func TypedWindow(s *site.Site, now time.Time, form func(string) string) (map[edit.Field]string, error) {
	calendar := typed.CalendarOf(s, now)
	from, err := calendar.Read(form(string(edit.FieldLiveFrom)), false)
	if err != nil {
		return nil, err
	}
	until, err := calendar.Read(form(string(edit.FieldLiveUntil)), true)
	return map[edit.Field]string{
		edit.FieldLiveFrom: typed.Moment(from), edit.FieldLiveUntil: typed.Moment(until),
	}, err
}

// PlanField is that in which a draft is told when it is published.
func (d *Desk) PlanField() Moment {
	m := d.moment("d-plan", "", "Publish at", d.Draft.Planned)
	m.Name = "moment"
	return m
}

// AtTyped is the moment of the lens as its field has it; "" for now.
func (d *Desk) AtTyped() string {
	if d.At == "" {
		return ""
	}
	return d.Calendar().Write(d.Lens.At)
}

func (d *Desk) moment(id string, field edit.Field, label string, at time.Time) Moment {
	c := d.Calendar()
	m := Moment{
		ID: id, Name: string(field), Label: label, Old: typed.Moment(at), Value: c.Write(at),
		Words: MomentWords(d.Site, at), Example: c.Example(), End: field == edit.FieldLiveUntil,
	}
	if !m.End {
		m.Hint = d.Site.Settings().Zone.String()
	}
	return m
}

// MomentOf is a field for a day and a time.
func (d *Desk) MomentOf(id string, field edit.Field, label string, at time.Time) Moment {
	return d.moment(id, field, label, at)
}

// Day is a field for a day without a time, kept as 2026-11-24.
func (d *Desk) Day(id string, field edit.Field, label, day string) Moment {
	c := d.Calendar()
	m := Moment{ID: id, Name: string(field), Label: label, Old: day, Value: c.WriteDay(day)}
	m.Example, _, _ = strings.Cut(c.Example(), " ")
	if at, err := time.Parse(time.DateOnly, day); err == nil {
		m.Words = at.Format("Monday 2 January 2006")
	}
	return m
}

// lock gives the field as it is where it can't be changed.
func lock(locked bool, m Moment) Moment {
	m.Locked = locked
	return m
}

// MomentWords reads a moment out, with its day of the week; "" for none.
func MomentWords(s *site.Site, at time.Time) string {
	if at.IsZero() {
		return ""
	}
	at = at.In(s.Settings().Zone)
	words := at.Format("Monday 2 January 2006, 15:04")
	if before := at.Add(-time.Minute); at.Hour() == 0 && at.Minute() == 0 {
		words += ", the end of " + before.Format("Monday 2 January")
	}
	return words
}

// ReadMoment reads what was typed into the canonical form; an end without a time is that of its day.
func (d *Desk) ReadMoment(text string, end bool) (string, error) {
	at, err := d.Calendar().Read(text, end)
	return typed.Moment(at), err
}

// WithMoment gives the form of a field; a moment or day in it is read as people of the site type it.
func WithMoment(r *http.Request, d *Desk) (func(string) string, error) {
	value, err := r.FormValue("new"), error(nil)
	switch field := edit.Field(r.FormValue("field")); field {
	case edit.FieldLiveFrom, edit.FieldLiveUntil:
		value, err = d.ReadMoment(value, field == edit.FieldLiveUntil)
	case edit.FieldDate:
		value, err = d.Calendar().ReadDay(value)
	default:
		of := d.Site.Detail(string(field))
		if of == nil {
			return r.FormValue, nil
		}
		value, err = d.readDetail(*of, value)
	}
	return With(r.FormValue, "new", value), err
}

// readDetail reads the value of a detail as people of the site type it.
func (d *Desk) readDetail(of site.Detail, value string) (string, error) {
	c := d.Calendar()
	switch of.Type {
	case site.DetailDate:
		return c.ReadDay(value)
	case site.DetailMoment:
		return d.ReadMoment(value, false)
	case site.DetailDates:
		return c.ReadDays(value)
	}
	return value, nil
}

// readMoment says how what is typed into a field is read, before it is left; of the lens also how the address writes
// it.
func (s *Server) readMoment(w http.ResponseWriter, r *http.Request, d *Desk) error {
	at, err := d.Calendar().Read(r.FormValue("moment"), r.FormValue("end") == "end")
	if err != nil {
		return err
	}
	s.Say(
		w,
		http.StatusOK,
		Reply{Facts: &TryFacts{Place: cmp.Or(MomentWords(d.Site, at), "no moment")}, At: lensMoment(d.Site, at)},
	)
	return nil
}

// lensMoment writes the moment of the lens as the address of a screen has it.
func lensMoment(s *site.Site, t time.Time) string {
	if t.IsZero() {
		return ""
	}
	return t.In(s.Settings().Zone).Format(lensLayout)
}

const lensLayout = "2006-01-02T15:04"
