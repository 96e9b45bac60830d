package edit

import "vineladder/internal/core/site"

// Forget gives an operation without what it says of pages whose words are gone for good (rules 2.9), and whether it
// said something of them. heard is told the words that it said and that sentences can repeat.
func Forget(op Op, gone func(site.PageID) bool, heard func(words string)) (Op, bool) {
	switch o := op.(type) {
	case OpMake:
		if gone(o.Page) {
			o.Fields = forgotten(o.Fields, heard)
			return o, true
		}
	case OpUnmake:
		if gone(o.Made.Page) {
			o.Made.Fields = forgotten(o.Made.Fields, heard)
			return o, true
		}
	case OpEdit:
		if gone(o.Page) {
			o.Fields = forgotten(o.Fields, heard)
			return o, true
		}
	}
	return op, false
}

// forgotten gives changes with nothing where a page's words were.
func forgotten(changes []FieldChange, heard func(words string)) []FieldChange {
	left := make([]FieldChange, len(changes))
	for i, c := range changes {
		if FieldHas(c.Field, Purged) || IsDetail(c.Field) {
			for _, words := range []string{c.Old, c.New} {
				if repeated(c.Field, words) {
					heard(words)
				}
			}
			c.Old, c.New = "", ""
		}
		left[i] = c
	}
	return left
}

// repeated says whether sentences can repeat what stands in a field so that it is known by that. A short detail is one
// that others have as well.
func repeated(field Field, words string) bool {
	const telling = 20
	switch field {
	case FieldLabel, FieldTitle, FieldSummary, FieldScopeNote, FieldOtherLabels:
		return words != ""
	}
	return IsDetail(field) && len(words) > telling
}
