package edit

import (
	"slices"
	"time"

	"vineladder/internal/core/site"
)

// Held is an operation that waits: what it presumes no longer holds, or it builds on one that waits.
type Held struct {
	Index int // in the list that was rebased
	Op    Op
	Why   error
}

// Rebase brings operations up to date on a newer Site (rules 9.4): it applies what still can be and holds the rest. The
// applied ones come back settled; an operation that no longer makes a difference is left out silently.
func Rebase(s *site.Site, ops []Op, now time.Time) (*site.Site, []Op, []Held) {
	var applied []Op
	var held []Held
	for i, op := range ops {
		next, settled, err := Apply(s, fresh(op), now)
		if err != nil {
			held = append(held, Held{i, op, err})
			continue
		}
		s, applied = next, append(applied, settled)
	}
	return s, applied, held
}

// fresh strips what an operation derived, so that it is derived again where it is applied.
func fresh(op Op) Op {
	switch o := op.(type) {
	case Make:
		o.Fields = underived(o.Fields)
		return o
	case Edit:
		o.Fields = underived(o.Fields)
		return o
	case Move:
		o.Segment = nil
		return o
	}
	return op
}

func underived(changes []FieldChange) []FieldChange {
	return slices.DeleteFunc(slices.Clone(changes), func(c FieldChange) bool { return c.Derived })
}
