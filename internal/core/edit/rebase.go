package edit

import (
	"fmt"
	"slices"
	"time"

	"vineladder/internal/core/site"
)

// Held is an operation that waits: what it presumes no longer holds, or it builds on one that waits.
type Held struct {
	Index int // in the list that was added
	Op    Op
	Why   error // a *Conflict, a *Refusal, or a *Waits
}

// Waits is the reason of an operation that builds on one that is held: the decision about that one decides it too.
type Waits struct{ On Op }

func (w *Waits) Error() string {
	return fmt.Sprintf("This waits for the decision about an edit before it (%s).", w.On.name())
}

// A Rebasing brings operations up to date on a newer Site (rules 9.4), one list after another: what still can be done is, the
// rest is held, and what builds on a held operation waits with it.
type Rebasing struct {
	Site *site.Site
	now  time.Time
	made map[tie]Op // by what is there only if the held operation is done
	set  map[tie]Op // by the field or place that the held operation sets
}

// NewRebase starts on a Site.
func NewRebase(s *site.Site, now time.Time) *Rebasing {
	return &Rebasing{Site: s, now: now, made: map[tie]Op{}, set: map[tie]Op{}}
}

// Add applies operations. The applied ones come back settled; one that no longer makes a difference is left out silently.
func (r *Rebasing) Add(ops []Op) (applied []Op, held []Held) {
	for i, op := range ops {
		err := r.waits(op)
		if err == nil {
			var settled Op
			var next *site.Site
			if next, settled, err = Apply(r.Site, fresh(op), r.now); err == nil {
				r.Site, applied = next, append(applied, settled)
				continue
			}
		}
		held = append(held, Held{i, op, err})
		r.hold(op)
	}
	return applied, held
}

// hold remembers what others may wait for. The first operation held for a tie is the one to decide.
func (r *Rebasing) hold(op Op) {
	keep := func(all map[tie]Op, ties []tie) {
		for _, t := range ties {
			if _, known := all[t]; !known {
				all[t] = op
			}
		}
	}
	keep(r.made, makes(op))
	keep(r.set, sets(op))
}

// waits says which held operation another one builds on: one that would have made what it needs, or sets the same field or place
// (rules 9.4). Where nothing is held it costs nothing.
func (r *Rebasing) waits(op Op) error {
	for _, on := range []struct {
		held map[tie]Op
		ties func(Op) []tie
	}{{r.made, uses}, {r.set, sets}} {
		if len(on.held) == 0 {
			continue
		}
		for _, t := range on.ties(op) {
			if held, waits := on.held[t]; waits {
				return &Waits{held}
			}
		}
	}
	return nil
}

// fresh strips what an operation derived, so that it is derived again where it is applied. A pin stays: it is what was asked for.
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
