package edit

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// Position gives the neighbours of something that goes to a typed position among its siblings, counted from 1; zero
// ones are the ends. It may be among the siblings already, where it does not count.
func Position[ID comparable](siblings []ID, self ID, typed string) (after, before ID, err error) {
	siblings = slices.DeleteFunc(slices.Clone(siblings), func(id ID) bool { return id == self })
	position, wrong := strconv.Atoi(strings.TrimSpace(typed))
	if wrong != nil || position < 1 || position > len(siblings)+1 {
		return after, before, refuse("A position here is a number from 1 to %d.", len(siblings)+1)
	}
	if position > 1 {
		after = siblings[position-2]
	}
	if position <= len(siblings) {
		before = siblings[position-1]
	}
	return after, before, nil
}

// Kin answers for things that stand in an order below one another: pages of the tree, or items of a menu.
type Kin[ID comparable] struct {
	Above func(ID) ID          // the parent
	Below func(parent ID) []ID // its children, in order
	Name  func(ID) string
	// Out gives what something comes to stand after that leaves a parent: this itself, or what makes it; false at the top.
	Out func(parent ID) (after ID, can bool)
}

// A Shift is one of several things that go elsewhere: where it stands once those before it have gone. Zero neighbours
// are the ends.
type Shift[ID comparable] struct{ ID, Parent, After, Before ID }

// Shifts gives what is to be done so that things go a step some way, or, without a way, to a typed position.
func Shifts[ID comparable](k Kin[ID], chosen []ID, way, position string) ([]Shift[ID], error) {
	if way == "" {
		return Positions(k, chosen, position)
	}
	return Steps(k, chosen, way)
}

// Steps gives what is to be done so that things go one step up, down, in or out, none of which lies below another.
// Those beside each other go together. Where one can't, none goes, and the refusal says which and why.
func Steps[ID comparable](k Kin[ID], chosen []ID, way string) ([]Shift[ID], error) {
	s := shiftingOf(k, chosen)
	step := map[string]func(parent ID, chosen []ID) error{
		"up":   func(parent ID, chosen []ID) error { return s.along(parent, chosen, -1, "first") },
		"down": func(parent ID, chosen []ID) error { return s.along(parent, reversed(chosen), 1, "last") },
		"in":   s.in,
		"out":  s.out,
	}[way]
	if step == nil {
		return nil, refuse("A step goes up, down, in or out.")
	}
	err := s.each(step)
	return s.shifts, err
}

// Positions gives what is to be done so that things stand at a typed position among their siblings, counted from 1: the
// first of each family there, the others after it.
func Positions[ID comparable](k Kin[ID], chosen []ID, typed string) ([]Shift[ID], error) {
	s := shiftingOf(k, chosen)
	err := s.each(func(parent ID, chosen []ID) error {
		rest := slices.DeleteFunc(slices.Clone(s.below(parent)), func(id ID) bool { return s.chosen[id] })
		var none ID
		after, _, err := Position(rest, none, typed)
		for _, id := range chosen {
			s.put(id, parent, after)
			after = id
		}
		return err
	})
	return s.shifts, err
}

// A shifting moves things one after another, and knows how all stand meanwhile.
type shifting[ID comparable] struct {
	Kin[ID]
	chosen  map[ID]bool
	parents []ID // of the chosen, each once
	order   map[ID][]ID
	shifts  []Shift[ID]
}

func shiftingOf[ID comparable](k Kin[ID], chosen []ID) *shifting[ID] {
	s := &shifting[ID]{Kin: k, chosen: map[ID]bool{}, order: map[ID][]ID{}}
	for _, id := range chosen {
		s.chosen[id] = true
		if parent := k.Above(id); !slices.Contains(s.parents, parent) {
			s.parents = append(s.parents, parent)
		}
	}
	return s
}

// each does something with the chosen of each parent, in their order, and stops where that is refused.
func (s *shifting[ID]) each(do func(parent ID, chosen []ID) error) error {
	for _, parent := range s.parents {
		chosen := slices.DeleteFunc(slices.Clone(s.Below(parent)), func(id ID) bool { return !s.chosen[id] })
		if err := do(parent, chosen); err != nil {
			s.shifts = nil
			return err
		}
	}
	return nil
}

// below gives what stands below a parent by now.
func (s *shifting[ID]) below(parent ID) []ID {
	if _, known := s.order[parent]; !known {
		s.order[parent] = slices.Clone(s.Below(parent))
	}
	return s.order[parent]
}

// put has a thing stand below a parent after another, or first after none.
func (s *shifting[ID]) put(id, parent, after ID) {
	from := s.Above(id)
	s.order[from] = slices.DeleteFunc(s.below(from), func(other ID) bool { return other == id })
	at := slices.Index(s.below(parent), after) + 1
	made := Shift[ID]{ID: id, Parent: parent, After: after}
	if at < len(s.order[parent]) {
		made.Before = s.order[parent][at]
	}
	s.order[parent] = slices.Insert(s.order[parent], at, id)
	s.shifts = append(s.shifts, made)
}

// along moves things by one among their siblings, the foremost first.
func (s *shifting[ID]) along(parent ID, chosen []ID, by int, end string) error {
	for _, id := range chosen {
		all := s.below(parent)
		to := slices.Index(all, id) + by
		if to < 0 || to >= len(all) || s.chosen[all[to]] {
			return refuse("“%s” is the %s %s already.", s.Name(id), end, s.inside(parent))
		}
		others := slices.DeleteFunc(slices.Clone(all), func(other ID) bool { return other == id })
		var after ID
		if to > 0 {
			after = others[to-1]
		}
		s.put(id, parent, after)
	}
	return nil
}

// inside names where things stand.
func (s *shifting[ID]) inside(parent ID) string {
	var top ID
	if parent == top {
		return "here"
	}
	return fmt.Sprintf("in “%s”", s.Name(parent))
}

func (s *shifting[ID]) in(parent ID, _ []ID) error {
	var none, into ID
	for _, id := range s.Below(parent) {
		switch {
		case !s.chosen[id]:
			into = id
		case into == none:
			return refuse("“%s” has nothing before it to go into.", s.Name(id))
		default:
			after := none
			if inside := s.below(into); len(inside) > 0 {
				after = inside[len(inside)-1]
			}
			s.put(id, into, after)
		}
	}
	return nil
}

func (s *shifting[ID]) out(parent ID, chosen []ID) error {
	after, can := s.Out(parent)
	if !can {
		return refuse("“%s” is at the top level already.", s.Name(chosen[0]))
	}
	above := s.Above(after)
	for _, id := range chosen {
		s.put(id, above, after)
		after = id
	}
	return nil
}

func reversed[ID any](of []ID) []ID {
	of = slices.Clone(of)
	slices.Reverse(of)
	return of
}
