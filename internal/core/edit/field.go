package edit

import (
	"slices"

	"vineladder/internal/core/site"
)

// Field names a field of a page. Values travel as strings in one canonical form, so forms, sheets, the log and the
// comparison of mine and theirs need no second one.
type Field string

// A FieldChange is a field with the value it is expected to have and the one it gets. Derived ones follow from another
// change of the same operation and are made anew when it is brought up to date.
type FieldChange struct {
	Field   Field  `json:"field"`
	Old     string `json:"old"`
	New     string `json:"new"`
	Derived bool   `json:"derived,omitempty"`
}

func turned(changes []FieldChange) []FieldChange {
	back := make([]FieldChange, 0, len(changes))
	for _, c := range slices.Backward(changes) {
		back = append(back, FieldChange{c.Field, c.New, c.Old, c.Derived})
	}
	return back
}

func turnedOne(c *FieldChange) *FieldChange {
	if c == nil {
		return nil
	}
	return &FieldChange{c.Field, c.New, c.Old, c.Derived}
}

// FieldsSet gives the fields that an operation sets, with what stood there; none for one that sets no fields.
func FieldsSet(op Op) []FieldChange {
	if setting, is := op.(interface{ edits() []FieldChange }); is {
		return setting.edits()
	}
	return nil
}

// OfMenu says whether an operation sets something of a menu or of its items as they are numbered.
func OfMenu(op Op, id site.MenuID) bool {
	switch o := op.(type) {
	case OpEditMenu:
		return o.Menu == id
	case OpEditEntry:
		return o.Menu == id
	}
	return false
}

// OfSet says whether an operation sets something of a condition set.
func OfSet(op Op, id site.SetID) bool {
	o, is := op.(OpEditSet)
	return is && o.Set == id
}

// OfBlock says whether an operation sets something of a block.
func OfBlock(op Op, id site.BlockID) bool {
	o, is := op.(OpEditBlock)
	return is && o.Block == id
}
