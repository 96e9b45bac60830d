package edit

import (
	"errors"
	"iter"
	"slices"
	"strings"

	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// A Column says all about one field of a thing: what is so of the field, how it is read and set, and the canonical
// form in which its values travel.
type Column[Thing, Value any] struct {
	Fact
	Get  func(*Thing) Value
	Set  func(*site.Site, *Thing, Value) error // refuses what the thing can't have
	Form Form[Value]
}

// A Form is the one way in which values are written, and read back. Reading refuses what can't be meant.
type Form[Value any] struct {
	Write func(Value) string
	Read  func(*site.Site, string) (Value, error)
}

// A Fact is what is so of a field, whatever its value.
type Fact struct {
	Field Field
	Words string      // its name on screens; "": the key is the word
	Needs site.Action // to change it; "": what the thing needs
	// Apart stands between the members of a field whose values are sets, to which two people can add, and from which
	// they can take; "": it is none.
	Apart string
	Traits
}

// Traits are what a field is in for. What a new field is not said to be, it is not.
type Traits uint

const (
	Copied    Traits = 1 << iota // a copy of the thing keeps it (rules 2.8)
	Purged                       // it goes when the bin is emptied (rules 2.9)
	InSheet                      // it is a column of the structure sheet, under its key
	HomeFixed                    // the home page has it as it is (rules 2.1)
	Addresses                    // it can give the page, or one below, another address
	Placing                      // it can have the page answer elsewhere, or to others, or not
	Ordering                     // it can have the page stand elsewhere among its siblings, or be called otherwise
	Laying                       // it can give the page, or one below, another layout
	Naming                       // its text names pages or menus, as in “page:12”
	Choosing                     // its text is the number of a page
	Inner                        // only whom the page admits reads it in the workbench, and so changes it (rules 8.1)
	ForMany                      // it can be set for a selection
)

// Has says whether a field has all of some traits.
func (t Traits) Has(traits Traits) bool { return t&traits == traits }

// field is a column whose type of values is left aside.
type field[Thing any] interface {
	fact() Fact
	read(*Thing) string
	write(*site.Site, *Thing, string) error
}

func (c Column[Thing, Value]) fact() Fact { return c.Fact }

func (c Column[Thing, Value]) read(t *Thing) string { return c.Form.Write(c.Get(t)) }

func (c Column[Thing, Value]) write(s *site.Site, t *Thing, text string) error {
	value, err := c.Form.Read(s, text)
	var missing *typed.Missing
	if errors.As(err, &missing) {
		return &Conflict{Page: missing.Page, Sentence: missing.Sentence}
	}
	if err != nil {
		return err
	}
	return c.Set(s, t, value)
}

// at is a column of a value that a thing can have as it is.
func at[Thing, Value any](fact Fact, form Form[Value], of func(*Thing) *Value) field[Thing] {
	return Column[Thing, Value]{
		Fact: fact,
		Get:  func(t *Thing) Value { return *of(t) },
		Set:  func(_ *site.Site, t *Thing, value Value) error { *of(t) = value; return nil },
		Form: form,
	}
}

// A family is the list of all fields that a thing has. They are set in its order.
type family[Thing any] []field[Thing]

// parts is a field that holds others, which the site says.
type parts[Thing any] interface {
	part(Field) (field[Thing], bool)
}

// column finds the column of a field.
func (f family[Thing]) column(of Field) (field[Thing], error) {
	for _, c := range f {
		if c.fact().Field == of {
			return c, nil
		}
		if whole, is := c.(parts[Thing]); is {
			if part, found := whole.part(of); found {
				return part, nil
			}
		}
	}
	return nil, refuse("There is no field “%s”.", of)
}

// value reads one field; "" if there is none of that name.
func (f family[Thing]) value(t *Thing, of Field) string {
	c, err := f.column(of)
	if err != nil {
		return ""
	}
	return c.read(t)
}

// set writes one field.
func (f family[Thing]) set(s *site.Site, t *Thing, of Field, value string) error {
	c, err := f.column(of)
	if err != nil {
		return err
	}
	return c.write(s, t, value)
}

// facts says of each field what is so of it.
func (f family[Thing]) facts() []Fact {
	facts := make([]Fact, len(f))
	for i, c := range f {
		facts[i] = c.fact()
	}
	return facts
}

// with names the fields that have some traits.
func (f family[Thing]) with(traits Traits) []Field {
	var fields []Field
	for _, c := range f {
		if fact := c.fact(); fact.Has(traits) {
			fields = append(fields, fact.Field)
		}
	}
	return fields
}

// differ says whether two things differ in a field that has some traits.
func (f family[Thing]) differ(a, b *Thing, traits Traits) bool {
	return slices.ContainsFunc(f, func(c field[Thing]) bool {
		return c.fact().Has(traits) && c.read(a) != c.read(b)
	})
}

// written gives the fields that are not as in an empty thing.
func (f family[Thing]) written(t *Thing, empty Thing) map[Field]string {
	fields := map[Field]string{}
	for _, c := range f {
		if value := c.read(t); value != c.read(&empty) {
			fields[c.fact().Field] = value
		}
	}
	return fields
}

// fill sets the fields of a thing that is made.
func (f family[Thing]) fill(s *site.Site, t *Thing, fields map[Field]string) error {
	for of := range fields {
		if _, err := f.column(of); err != nil {
			return err
		}
	}
	for _, c := range f {
		if value, set := fields[c.fact().Field]; set {
			if err := c.write(s, t, value); err != nil {
				return err
			}
		}
	}
	return nil
}

// change sets fields that were expected to have their old values, and gives those that differ, as they were and as they
// are. clash makes the conflict of a field that somebody else has changed.
func (f family[Thing]) change(
	s *site.Site, t *Thing, fields []FieldChange, clash func(of Field, mine, theirs string) error,
) ([]FieldChange, error) {
	var settled []FieldChange
	for _, change := range fields {
		c, err := f.column(change.Field)
		if err != nil {
			return nil, err
		}
		was := c.read(t)
		if err := c.write(s, t, change.New); err != nil {
			return nil, err
		}
		made := c.read(t)
		switch {
		case made == was:
			continue
		case change.Old != was:
			return nil, clash(change.Field, made, was)
		}
		settled = append(settled, FieldChange{Field: change.Field, Old: was, New: made})
	}
	return settled, nil
}

// Facts says what is so of each field of each family of things that operations edit, as each family's own list has
// them.
func Facts() map[string][]Fact {
	return map[string][]Fact{
		"page": pageFields.facts(), "item": entryFields.facts(), "menu": menuFields.facts(), "block": blockFields.facts(),
		"place": placementFields.facts(), "set": setFields.facts(), "settings": settingsFields.facts(),
		"kind": kindFields.facts(), "detail": detailFields.facts(), "role": roleFields.facts(),
	}
}

// Fields names every field of each family.
func Fields() map[string][]Field {
	named := map[string][]Field{}
	for family, facts := range Facts() {
		for _, fact := range facts {
			named[family] = append(named[family], fact.Field)
		}
	}
	return named
}

// facts gives the fact of a field in each family that has it.
func (of Field) facts() iter.Seq[Fact] {
	return func(yield func(Fact) bool) {
		for _, facts := range Facts() {
			for _, fact := range facts {
				if fact.Field == of && !yield(fact) {
					return
				}
			}
		}
	}
}

// Words gives the name of a field as the screens say it: the key, where that is the word itself.
func (of Field) Words() string {
	for fact := range of.facts() {
		if fact.Words != "" {
			return fact.Words
		}
	}
	if _, is := LineOf(of); is {
		return "line"
	}
	if _, own, is := strings.Cut(string(of), "."); is { // of a detail
		return strings.ReplaceAll(own, "-", " ")
	}
	return string(of)
}
