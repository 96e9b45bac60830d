package edit

import (
	"slices"

	"vineladder/internal/core/site"
)

// A Wording is a field of a page that says something in words of its own.
type Wording struct {
	Field Field
	Value string
	Name  string // of the field, for people
	Rich  bool   // the value is the hash of a text
}

// Wordings gives what a page says in words, its label first; empty fields are left out.
func Wordings(s *site.Site, p *site.Page) []Wording {
	all := []Wording{
		{FieldLabel, p.Label, "label", false},
		{FieldTitle, p.Title, "title", false},
		{FieldSummary, p.Summary, "summary", false},
		{FieldText, p.Text, "text", true},
	}
	for _, d := range s.Details(p.Kind) {
		switch d.Type {
		case site.DetailLine, site.DetailText, site.DetailRich:
			field := DetailField(d.Key)
			all = append(all, Wording{field, Value(p, field), d.Label, d.Type == site.DetailRich})
		}
	}
	return slices.DeleteFunc(all, func(w Wording) bool { return w.Value == "" })
}

// ChangeOf gives what an operation makes of a field, if it sets it.
func ChangeOf(op Op, field Field) (FieldChange, bool) {
	var fields []FieldChange
	switch o := op.(type) {
	case OpMake:
		fields = o.Fields
	case OpEdit:
		fields = o.Fields
	}
	at := slices.IndexFunc(fields, func(c FieldChange) bool { return c.Field == field })
	if at < 0 {
		return FieldChange{}, false
	}
	return fields[at], true
}
