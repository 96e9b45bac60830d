package edit

import (
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/site"
)

// OpMakeSet makes a condition set that no place has; OpTakeSet takes one away that none has.
type OpMakeSet struct {
	Set    site.SetID       `json:"set"`
	Fields map[Field]string `json:"fields"`
}

func (OpMakeSet) name() string { return "make-set" }

func (OpMakeSet) Subject() site.PageID { return 0 }

func (o OpMakeSet) About(*site.Site) About { return About{"Condition set", o.Fields[FieldName]} }

func (OpMakeSet) Needs(*site.Site) []Need {
	return []Need{{Action: site.ActionPlace, On: site.AnyThing}}
}

func (o OpMakeSet) Inverse() Op { return OpTakeSet{o} }

func (o OpMakeSet) ties() ties {
	return ties{makes: []tie{setTie(o.Set)}, uses: setFields.named(o.Fields)}
}

func (o OpMakeSet) insist(*site.Site, int64) (Op, error) { return nil, errNoInsisting }

func (o OpMakeSet) apply(st *state) (Op, error) {
	if st.Peek().ConditionSet(o.Set) != nil {
		return nil, refuse("There is a condition set with the number %d already.", o.Set)
	}
	made := site.ConditionSet{ID: o.Set}
	if err := setFields.fill(st.Peek(), &made, o.Fields); err != nil {
		return nil, err
	}
	if made.Name == "" {
		return nil, refuse("A condition set needs a name.")
	}
	o.Fields = setFields.written(&made, site.ConditionSet{})
	st.SetConditionSets(append(slices.Clone(st.Peek().ConditionSets()), made))
	return o, nil
}

type OpTakeSet struct {
	Was OpMakeSet `json:"was"`
}

func (OpTakeSet) name() string { return "take-set" }

func (OpTakeSet) Subject() site.PageID { return 0 }

func (o OpTakeSet) About(s *site.Site) About { return aboutSet(s, o.Was.Set, o.Was.Fields[FieldName]) }

func (OpTakeSet) Needs(*site.Site) []Need {
	return []Need{{Action: site.ActionPlace, On: site.AnyThing}}
}

func (o OpTakeSet) Inverse() Op { return o.Was }

func (o OpTakeSet) ties() ties { return ties{uses: []tie{setTie(o.Was.Set)}} }

func (o OpTakeSet) insist(*site.Site, int64) (Op, error) {
	o.Was = OpMakeSet{Set: o.Was.Set}
	return o, nil
}

func (o OpTakeSet) apply(st *state) (Op, error) {
	set := st.Peek().ConditionSet(o.Was.Set)
	if set == nil {
		return nil, errSetGone()
	}
	if n := len(st.Peek().PlacementsWith(set.ID)); n > 0 {
		return nil, &Conflict{Sentence: fmt.Sprintf(
			"“%s” is the condition set of %s; give them conditions of their own first.", set.Name, placesWords(n),
		)}
	}
	is := OpMakeSet{set.ID, setFields.written(set, site.ConditionSet{})}
	if o.Was.Fields != nil && !maps.Equal(o.Was.Fields, is.Fields) {
		return nil, &Conflict{
			Mine: "taken away", Theirs: "changed",
			Sentence: fmt.Sprintf("The condition set “%s” was changed by %s.", set.Name, somebody),
		}
	}
	o.Was = is
	st.SetConditionSets(slices.DeleteFunc(
		slices.Clone(st.Peek().ConditionSets()), func(other site.ConditionSet) bool { return other.ID == is.Set },
	))
	return o, nil
}

func placesWords(n int) string {
	if n == 1 {
		return "one place"
	}
	return strconv.Itoa(n) + " places"
}

// OpEditSet sets fields of a condition set, and with them the conditions of every place that has it.
type OpEditSet struct {
	Set    site.SetID    `json:"set"`
	Fields []FieldChange `json:"fields"`
}

func (OpEditSet) name() string { return "edit-set" }

func (o OpEditSet) edits() []FieldChange { return o.Fields }

func (OpEditSet) Subject() site.PageID { return 0 }

func (o OpEditSet) About(s *site.Site) About { return aboutSet(s, o.Set, "") }

// Needs asks for the right on every place that has the set.
func (o OpEditSet) Needs(s *site.Site) []Need {
	var needed []Need
	for _, p := range s.PlacementsWith(o.Set) {
		need := standing(s, p.ID)
		for _, c := range o.Fields {
			if c.Field == FieldWhere {
				need.Or = both(need.Or, within(c.New))
			}
		}
		needed = with(needed, need)
	}
	if needed == nil {
		return []Need{{Action: site.ActionPlace, On: site.AnyThing}}
	}
	return needed
}

func (o OpEditSet) Inverse() Op { return OpEditSet{o.Set, turned(o.Fields)} }

func (o OpEditSet) ties() ties {
	thing := setTie(o.Set)
	return ties{uses: append(setFields.namedAnew(o.Fields), thing), sets: fieldTies(thing, o.Fields)}
}

func (o OpEditSet) insist(s *site.Site, _ int64) (Op, error) {
	set := s.ConditionSet(o.Set)
	if set == nil {
		return nil, errNoInsisting
	}
	o.Fields = setFields.onTop(set, o.Fields)
	return o, nil
}

func (o OpEditSet) apply(st *state) (Op, error) {
	all := slices.Clone(st.Peek().ConditionSets())
	at := slices.IndexFunc(all, func(c site.ConditionSet) bool { return c.ID == o.Set })
	if at < 0 {
		return nil, errSetGone()
	}
	name := all[at].Name
	var err error
	o.Fields, err = setFields.change(st.Peek(), &all[at], o.Fields, func(field Field, mine, theirs string) error {
		return &Conflict{
			Field: field, Mine: mine, Theirs: theirs,
			Sentence: fmt.Sprintf("The %s of the condition set “%s” was changed by %s.", field.Words(), name, somebody),
		}
	})
	if err != nil {
		return nil, err
	}
	placements := slices.Clone(st.Peek().Placements())
	for i := range placements {
		if placements[i].Set == o.Set {
			placements[i].Take(&all[at])
		}
	}
	st.SetConditionSets(all)
	st.SetBlocks(st.Peek().Blocks(), placements)
	return o, nil
}

// byHand gives the changes of a placement without those that come from its set, where it will have one.
func byHand(p *site.Placement, changes []FieldChange) []FieldChange {
	set := placementFields.value(p, FieldSet)
	for _, c := range changes {
		if c.Field == FieldSet {
			set = c.New
		}
	}
	if set == "" {
		return changes
	}
	return slices.DeleteFunc(slices.Clone(changes), func(c FieldChange) bool {
		return c.Derived && slices.Contains(onPages, c.Field)
	})
}

// followSet gives a placement that has a condition set the conditions of that, and notes them among its changes. Who
// asked for others by hand is told whose they are.
func followSet(s *site.Site, was, p *site.Placement, asked, changes []FieldChange) ([]FieldChange, error) {
	set := s.ConditionSet(p.Set)
	if set == nil {
		return changes, nil
	}
	if slices.ContainsFunc(asked, func(c FieldChange) bool { return slices.Contains(onPages, c.Field) }) {
		const said = "Where it stands is said by the condition set “%s”; edit that, or give the place its own."
		return nil, refuse(said, set.Name)
	}
	p.Take(set)
	changes = slices.DeleteFunc(changes, func(c FieldChange) bool { return slices.Contains(onPages, c.Field) })
	for _, field := range onPages {
		old, made := placementFields.value(was, field), placementFields.value(p, field)
		if old != made {
			changes = append(changes, FieldChange{Field: field, Old: old, New: made, Derived: true})
		}
	}
	return changes, nil
}

// withinSet gives the pages to which a condition set keeps places, as within does.
func withinSet(s *site.Site, number string) []Thing {
	id, err := strconv.ParseInt(number, 10, 64)
	set := s.ConditionSet(site.SetID(id))
	if err != nil || set == nil {
		return nil
	}
	return within(setFields.value(set, FieldWhere))
}

// setTies is the condition set that a field's text names; none for an empty one.
func setTies(number string) []tie {
	id, err := strconv.ParseInt(strings.TrimSpace(number), 10, 64)
	if err != nil {
		return nil
	}
	return []tie{setTie(site.SetID(id))}
}

func aboutSet(s *site.Site, id site.SetID, name string) About {
	if set := s.ConditionSet(id); set != nil {
		name = set.Name
	}
	return About{"Condition set", name}
}

func errSetGone() error { return &Conflict{Sentence: "The condition set is not there any more."} }
