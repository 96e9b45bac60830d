package edit

import (
	"time"

	"vineladder/internal/core/site"
)

// A table says of each field of a thing how it is read and written in its canonical form. Fields are set in the table's
// order.
type table[T any] []column[T]

type column[T any] struct {
	field Field
	read  func(*T) string
	write func(*site.Site, *T, string) error
}

func (t table[T]) column(field Field) (column[T], error) {
	for _, c := range t {
		if c.field == field {
			return c, nil
		}
	}
	return column[T]{}, refuse("There is no field “%s”.", field)
}

// value reads one field; "" if there is none of that name.
func (t table[T]) value(thing *T, field Field) string {
	c, err := t.column(field)
	if err != nil {
		return ""
	}
	return c.read(thing)
}

// set writes one field.
func (t table[T]) set(s *site.Site, thing *T, field Field, value string) error {
	c, err := t.column(field)
	if err != nil {
		return err
	}
	return c.write(s, thing, value)
}

// fields names every field.
func (t table[T]) fields() []Field {
	var fields []Field
	for _, c := range t {
		fields = append(fields, c.field)
	}
	return fields
}

// written gives the fields that are not as in an empty thing.
func (t table[T]) written(thing *T, empty T) map[Field]string {
	fields := map[Field]string{}
	for _, c := range t {
		if value := c.read(thing); value != c.read(&empty) {
			fields[c.field] = value
		}
	}
	return fields
}

// fill sets the fields of a thing that is made.
func (t table[T]) fill(s *site.Site, thing *T, fields map[Field]string) error {
	for field := range fields {
		if _, err := t.column(field); err != nil {
			return err
		}
	}
	for _, c := range t {
		if value, set := fields[c.field]; set {
			if err := c.write(s, thing, value); err != nil {
				return err
			}
		}
	}
	return nil
}

// change sets fields that were expected to have their old values, and gives those that differ, as they were and as they
// are. clash makes the conflict of a field that somebody else has changed.
func (t table[T]) change(
	s *site.Site,
	thing *T,
	fields []FieldChange,
	clash func(field Field, mine, theirs string) error,
) ([]FieldChange, error) {
	var settled []FieldChange
	for _, f := range fields {
		c, err := t.column(f.Field)
		if err != nil {
			return nil, err
		}
		was := c.read(thing)
		if err := c.write(s, thing, f.New); err != nil {
			return nil, err
		}
		made := c.read(thing)
		switch {
		case made == was:
			continue
		case f.Old != was:
			return nil, clash(f.Field, made, was)
		}
		settled = append(settled, FieldChange{Field: f.Field, Old: was, New: made})
	}
	return settled, nil
}

// words is a column of one line of text.
func words[T any](field Field, what string, limit int, of func(*T) *string) column[T] {
	return column[T]{field, func(t *T) string { return *of(t) }, func(_ *site.Site, t *T, value string) (err error) {
		*of(t), err = oneLine(value, what, limit)
		return err
	}}
}

// flag is a column of "yes" and "no".
func flag[T any](field Field, of func(*T) *bool) column[T] {
	return column[T]{
		field,
		func(t *T) string { return yes(*of(t)) },
		func(_ *site.Site, t *T, value string) (err error) {
			*of(t), err = parseYes(value)
			return err
		},
	}
}

// flagOff is a column of which "no" is kept as true.
func flagOff[T any](field Field, of func(*T) *bool) column[T] {
	return column[T]{field, func(t *T) string { return yes(!*of(t)) }, func(_ *site.Site, t *T, value string) error {
		on, err := parseYes(value)
		*of(t) = !on
		return err
	}}
}

// instant is a column of a moment, or none.
func instant[T any](field Field, of func(*T) *time.Time) column[T] {
	return column[T]{
		field,
		func(t *T) string { return moment(*of(t)) },
		func(_ *site.Site, t *T, value string) (err error) {
			*of(t), err = parseMoment(value)
			return err
		},
	}
}

// audience is a column of who may see a thing.
func audience[T any](of func(*T) *site.Audience) column[T] {
	return column[T]{
		FieldAudience,
		func(t *T) string { return string(*of(t)) },
		func(s *site.Site, t *T, value string) (err error) {
			*of(t), err = ParseAudience(s, value)
			return err
		},
	}
}

// choice is a column of one of a few words.
func choice[T any, V ~string](field Field, of func(*T) *V, allowed ...V) column[T] {
	return column[T]{
		field,
		func(t *T) string { return string(*of(t)) },
		func(_ *site.Site, t *T, value string) (err error) {
			*of(t), err = oneOf(value, allowed...)
			return err
		},
	}
}

// layout is a column of a layout's key, or none. One that the theme does not have is refused.
func layout[T any](field Field, of func(*T) *string) column[T] {
	return column[T]{field, func(t *T) string { return *of(t) }, func(s *site.Site, t *T, value string) error {
		if value != "" && s.Layout(value) == nil {
			return refuse("The theme has no layout “%s”.", value)
		}
		*of(t) = value
		return nil
	}}
}

// Fields names every field of each family of things that operations edit, as each family's own list has them.
func Fields() map[string][]Field {
	return map[string][]Field{
		"page": pageTable.fields(), "item": entryTable.fields(), "menu": menuTable.fields(), "block": blockTable.fields(),
		"place": placementTable.fields(), "settings": settingsTable.fields(), "kind": kindTable.fields(),
	}
}
