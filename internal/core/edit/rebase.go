package edit

import (
	"fmt"
	"slices"
	"time"

	"vineladder/internal/core/address"
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

// A Rebasing brings operations up to date on a newer Site (rules 9.4), one list after another: what still can be done
// is, the rest is held, and what builds on a held operation waits with it.
type Rebasing struct {
	Site *site.Site
	base *site.Site // what the draft begins from
	open map[site.PageID]bool
	now  time.Time
	made map[tie]Op // by what is there only if the held operation is done
	set  map[tie]Op // by the field or place that the held operation sets
}

// NewRebase starts on a Site.
func NewRebase(s *site.Site, now time.Time) *Rebasing {
	return &Rebasing{Site: s, base: s, open: map[site.PageID]bool{}, now: now, made: map[tie]Op{}, set: map[tie]Op{}}
}

// Add applies a step. The applied operations come back settled; one that no longer makes a difference is left out
// silently. What must hold of addresses is asked at the step's end: where two pages would have one, the operations of
// the step that bring that about are held, and those that only stand together with them.
func (r *Rebasing) Add(ops []Op) (applied []Op, held []Held) {
	why := make([]error, len(ops))
	for strict := false; ; {
		st, settled := r.try(ops, why, strict)
		st.deriveSegments()
		if r.holdClashing(st, ops, why) {
			continue
		}
		if !strict && st.keepsSpecials(r.Site) != nil {
			strict = true
			continue
		}
		for i, op := range ops {
			if why[i] != nil {
				held = append(held, Held{i, op, why[i]})
				continue
			}
			applied = append(applied, settled[i])
		}
		st.fillIn(applied)
		for _, op := range applied {
			noteOpen(r.open, op)
		}
		r.Site = st.Site()
		return applied, held
	}
}

// try does the operations of a step that are not held, one by one, and holds what can't be done. A strict one holds
// each operation that takes a page of the settings out of reach, where the step as a whole would.
func (r *Rebasing) try(ops []Op, why []error, strict bool) (*state, []Op) {
	st := newState(r.base, r.now, func() map[site.PageID]bool { return r.open })
	s, settled := r.Site, make([]Op, len(ops))
	for i, op := range ops {
		if why[i] == nil {
			why[i] = r.waits(op)
		} else {
			continue
		}
		if why[i] == nil {
			before := *st
			st.Builder = s.Builder()
			made, err := fresh(op).apply(st)
			if err == nil && strict {
				err = st.keepsSpecials(s)
			}
			if err == nil {
				s, settled[i] = st.Site(), made
				st.done(fresh(op), made)
				continue
			}
			*st, why[i] = before, overOp(err, op)
		}
		r.hold(op)
	}
	st.Builder = s.Builder()
	return st, settled
}

// holdClashing holds the operations after which two pages have one address, and says whether there are any.
func (r *Rebasing) holdClashing(st *state, ops []Op, why []error) (found bool) {
	for _, clash := range st.clashes() {
		at := lastAbout(st.Peek(), ops, why, clash)
		if why[at] != nil {
			continue // held for another clash
		}
		why[at], found = st.sayClash(clash), true
		for _, page := range []site.PageID{clash.One, clash.Two} {
			if on := r.heldAddress(page); on != nil {
				why[at] = &Waits{on}
			}
		}
		r.hold(ops[at])
	}
	return found
}

// heldAddress gives a held operation that sets where a page stands; nil if there is none.
func (r *Rebasing) heldAddress(page site.PageID) Op {
	for _, field := range append(PageFields(Addresses), fieldPlace) {
		if op, is := r.set[pageTie(page).of(field)]; is {
			return op
		}
	}
	return nil
}

// lastAbout finds the operation of a step that brought a clash about: the last one done that set the address of one of
// the two pages; else of a page above one; else, where a segment was derived anew since another became free, the last
// one done.
func lastAbout(s *site.Site, ops []Op, why []error, clash address.Clash) int {
	const other, above, self = 1, 2, 3
	last, best := len(ops)-1, 0
	for i, op := range ops {
		near, page := other, op.Subject()
		switch {
		case why[i] != nil:
			continue
		case setsAddress(op) && (page == clash.One || page == clash.Two):
			near = self
		case setsAddress(op) && (s.IsWithin(clash.One, page) || s.IsWithin(clash.Two, page)):
			near = above
		}
		if near >= best {
			last, best = i, near
		}
	}
	return last
}

// setsAddress says whether an operation can give pages another address.
func setsAddress(op Op) bool {
	switch o := op.(type) {
	case OpMake, OpMove, OpRestore:
		return true
	case OpEdit:
		return slices.ContainsFunc(o.Fields, func(c FieldChange) bool {
			return FieldHas(c.Field, Addresses)
		})
	}
	return false
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

// waits says which held operation another one builds on: one that would have made what it needs, or sets the same field
// or place (rules 9.4). Where nothing is held it costs nothing.
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

// Fresh strips what operations derived, as those of a publication that is taken back, so that a draft derives it as it
// does when its log is read again.
func Fresh(ops []Op) []Op {
	made := make([]Op, len(ops))
	for i, op := range ops {
		made[i] = fresh(op)
	}
	return made
}

// fresh strips what an operation derived, so that it is derived again where it is applied. A pin stays: it is what was
// asked for.
func fresh(op Op) Op {
	switch o := op.(type) {
	case OpMake:
		o.Fields = underived(o.Fields)
		return o
	case OpEdit:
		o.Fields = underived(o.Fields)
		return o
	case OpMove:
		if o.Segment, o.Keeps = nil, givenUp(o.Keeps); !o.Back {
			o.Was, o.Is = nil, nil
		}
		return o
	case OpBin:
		if !o.Back {
			o.Keeps = nil
		}
		return o
	case OpRestore:
		o.Keeps = givenUp(o.Keeps)
		return o
	}
	return op
}

// givenUp leaves the changes by which a page gives up what it kept: they are asked for, as when a move is taken back,
// and made only as far as they open nothing. What a page keeps is found anew.
func givenUp(changes []FieldChange) []FieldChange {
	return slices.DeleteFunc(slices.Clone(changes), func(c FieldChange) bool { return c.New != "" && c.New != "no" })
}

func underived(changes []FieldChange) []FieldChange {
	return slices.DeleteFunc(slices.Clone(changes), func(c FieldChange) bool { return c.Derived })
}
