package edit

import (
	"slices"

	"vineladder/internal/core/site"
)

// CanInsist says whether a held operation can be done all the same, on what others published: where its conflict is
// about a field's value, a place, or what was taken away while others changed it.
func CanInsist(held Held) bool {
	conflict, ok := held.Why.(*Conflict)
	return ok && (conflict.Field != "" || conflict.Theirs != "")
}

// Insist gives a held operation with what it presumes made true again on a Site: an edit takes today's values as the
// old ones, a move today's place, what takes something away has seen what others changed.
func Insist(s *site.Site, op Op, revision int64) (Op, error) { return op.insist(s, revision) }

// errNoInsisting refuses what has nothing to insist on.
var errNoInsisting = refuse(
	"This edit can't be brought forward; leave it out and do it again as things are now.",
)

// onTop gives changes that start from the values of now.
func (f family[Thing]) onTop(t *Thing, changes []FieldChange) []FieldChange {
	changes = slices.Clone(changes)
	for i, c := range changes {
		changes[i].Old = f.value(t, c.Field)
	}
	return changes
}
