package edit

import (
	"errors"
	"slices"
	"strings"

	"vineladder/internal/core/site"
)

// A Conflict is an operation whose presumption no longer holds: somebody else changed the same thing (rules 9.4).
type Conflict struct {
	Page     site.PageID
	About    site.PageID // the page that was changed, where it is another one
	Field    Field       // empty where it is not about one field
	Mine     string
	Theirs   string
	Sentence string

	op Op // that could not be done
}

// somebody stands in the sentence of a conflict until it is known who it was.
const somebody = "somebody else"

func (c *Conflict) Error() string { return c.Sentence }

// Said gives the sentence with who it was, as in "Greta Holm, today at 14:02" or "you".
func (c *Conflict) Said(who string) string { return strings.Replace(c.Sentence, somebody, who, 1) }

// NamesSomebody says whether the sentence speaks of who changed something.
func (c *Conflict) NamesSomebody() bool { return strings.Contains(c.Sentence, somebody) }

// Over gives the operation that could not be done; nil if the conflict came before there was one.
func (c *Conflict) Over() Op { return c.op }

// overOp notes with a conflict the operation that met it.
func overOp(err error, op Op) error {
	var conflict *Conflict
	if errors.As(err, &conflict) {
		met := *conflict
		met.op = op
		return &met
	}
	return err
}

// IsDoneBy says whether an operation is one that the conflict comes from: it changed the field, or the place, or took
// the thing away.
func (c *Conflict) IsDoneBy(other Op) bool {
	if c.About != 0 {
		return other.Subject() == c.About
	}
	if c.op == nil {
		return false
	}
	if c.Field == "" {
		things := append(uses(c.op), placesOf(sets(c.op))...)
		return slices.ContainsFunc(
			append(uses(other), placesOf(sets(other))...),
			func(t tie) bool { return slices.Contains(things, t) },
		)
	}
	fields := sets(c.op)
	return slices.ContainsFunc(
		sets(other),
		func(t tie) bool { return t.field == c.Field && slices.Contains(fields, t) },
	)
}

func placesOf(ties []tie) []tie {
	return slices.DeleteFunc(slices.Clone(ties), func(t tie) bool { return t.field != fieldPlace })
}
