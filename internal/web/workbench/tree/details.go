package tree

import (
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/detail"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
	"vineladder/internal/web/workbench/desk"
)

// A detailField is a detail of a page's type on the sheet of the page.
type detailField struct {
	site.Detail
	ID      string
	Value   string       // in its canonical form
	Typed   string       // as it stands in the field
	Moment  *desk.Moment // of a day or a moment
	Options []desk.Option
	Toggles []toggle
	Page    *site.Page // that is chosen
	File    string     // that is chosen
	Lacks   bool       // it is needed, and not there
	Unread  bool       // what the page has is none of the detail's values
}

// A toggle is one of several choices.
type toggle struct {
	Words, New string
	On         bool
}

// Is says what the field is, for the template.
func (f detailField) Is(kind string) bool { return string(f.Type) == kind }

// Note is what stands small behind the label.
func (f detailField) Note() string {
	var notes []string
	for _, note := range []string{f.Unit, f.Help} {
		if note != "" {
			notes = append(notes, note)
		}
	}
	if f.Shows == site.DetailEditors {
		notes = append(notes, "for editors only")
	}
	return strings.Join(notes, "; ")
}

// detailsOn gives the fields of the details that a page's type asks for.
func detailsOn(d *desk.Desk, p *site.Page) []detailField {
	values := p.Values.All()
	var fields []detailField
	for _, of := range d.Site.Details(p.Kind) {
		value := values[of.Key]
		f := detailField{
			Detail: of, ID: "f-" + strings.ReplaceAll(of.Key, ".", "-"), Value: value, Typed: value,
			Unread: value != "" && !detail.Reads(d.Site, of, value),
		}
		f.Lacks = of.Required && (value == "" || f.Unread)
		f.dress(d)
		fields = append(fields, f)
	}
	return fields
}

// dress adds what the field of each sort needs besides its value.
func (f *detailField) dress(d *desk.Desk) {
	c := d.Calendar()
	switch f.Type {
	case site.DetailDate:
		m := d.Day(f.ID, edit.Field(f.Key), f.Label, f.Value)
		f.Moment = &m
	case site.DetailMoment:
		at, _ := typed.ParseMoment(f.Value)
		m := d.MomentOf(f.ID, edit.Field(f.Key), f.Label, at)
		f.Moment = &m
	case site.DetailDates:
		from, until, _ := strings.Cut(f.Value, "/")
		f.Typed = strings.TrimSpace(c.WriteDay(from) + " – " + c.WriteDay(until))
		if f.Value == "" {
			f.Typed = ""
		}
	case site.DetailChoice:
		f.Options = desk.Options("", "none")
		for _, word := range f.ChoiceList() {
			f.Options = append(f.Options, desk.Options(word, word)...)
		}
		if f.Value != "" && !slices.Contains(f.ChoiceList(), f.Value) {
			f.Options = append(f.Options, desk.Options(f.Value, f.Value+" (no choice any more)")...)
		}
	case site.DetailChoices:
		f.toggles()
	case site.DetailPage:
		id, _ := strconv.ParseInt(strings.TrimPrefix(f.Value, "page:"), 10, 64)
		f.Page = d.Site.Page(site.PageID(id))
	case site.DetailFile:
		f.File = f.Value
	case site.DetailPicture:
		f.File, f.Typed, _ = strings.Cut(f.Value, "\n")
	}
}

func (f *detailField) toggles() {
	chosen := strings.FieldsFunc(f.Value, func(r rune) bool { return r == '\n' })
	offered := f.ChoiceList()
	for _, word := range chosen {
		if !slices.Contains(offered, word) {
			offered = append(offered, word)
		}
	}
	for _, word := range offered {
		next := slices.DeleteFunc(slices.Clone(chosen), func(other string) bool { return other == word })
		on := len(next) < len(chosen)
		if !on {
			next = append(next, word)
		}
		f.Toggles = append(f.Toggles, toggle{word, strings.Join(next, "\n"), on})
	}
}
