package edit

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
)

// OpPutPlacement puts a block into a region; OpTakePlacement takes it out there.
type OpPutPlacement struct {
	Placement site.PlacementID `json:"placement"`
	Block     site.BlockID     `json:"block"`
	Slot      Slot             `json:"slot"`
	Fields    map[Field]string `json:"fields,omitempty"`
}

func (OpPutPlacement) name() string { return "put-placement" }

func (OpPutPlacement) Subject() site.PageID { return 0 }

func (o OpPutPlacement) About(s *site.Site) About { return aboutPlace(s, o.Placement, o.Block) }

func (o OpPutPlacement) Needs(s *site.Site) []Need {
	need := Need{Action: site.ActionPlace, On: site.RegionThing(o.Slot.Region), Or: within(o.Fields[FieldWhere])}
	if set := o.Fields[FieldSet]; set != "" {
		need.Or = both(need.Or, withinSet(s, set))
	}
	return withAudience(need, o.Fields[FieldAudience] != "")
}

func (o OpPutPlacement) Inverse() Op { return OpTakePlacement{o.Placement, o} }

func (o OpPutPlacement) ties() ties {
	return ties{
		makes: []tie{placementTie(o.Placement)},
		uses:  append(placementFields.named(o.Fields), append(setTies(o.Fields[FieldSet]), blockTie(o.Block))...),
	}
}

func (o OpPutPlacement) insist(*site.Site, int64) (Op, error) { return nil, errNoInsisting }

func (o OpPutPlacement) apply(st *state) (Op, error) {
	if st.Peek().Placement(o.Placement) != nil {
		return nil, refuse("There is a place with the number %d already.", o.Placement)
	}
	if _, err := st.block(o.Block); err != nil {
		return nil, err
	}
	p := site.Placement{ID: o.Placement, Block: o.Block}
	if err := placementFields.fill(st.Peek(), &p, o.Fields); err != nil {
		return nil, err
	}
	if set := st.Peek().ConditionSet(p.Set); set != nil {
		p.Take(set)
	}
	if err := checkPlacement(st.Peek(), &p, o.Slot.Region); err != nil {
		return nil, err
	}
	o.Fields = placementFields.written(&p, site.Placement{})
	return o, st.putAt(slices.Clone(st.Peek().Placements()), p, &o.Slot)
}

type OpTakePlacement struct {
	Placement site.PlacementID `json:"placement"`
	Was       OpPutPlacement   `json:"was"`
}

func (OpTakePlacement) name() string { return "take-placement" }

func (OpTakePlacement) Subject() site.PageID { return 0 }

func (o OpTakePlacement) About(s *site.Site) About { return aboutPlace(s, o.Placement, o.Was.Block) }

func (o OpTakePlacement) Needs(s *site.Site) []Need {
	return []Need{standing(s, o.Placement)}
}

func (o OpTakePlacement) Inverse() Op { return o.Was }

func (o OpTakePlacement) ties() ties { return ties{uses: []tie{placementTie(o.Placement)}} }

func (o OpTakePlacement) insist(*site.Site, int64) (Op, error) {
	o.Was = OpPutPlacement{}
	return o, nil
}

func (o OpTakePlacement) apply(st *state) (Op, error) {
	p, err := st.placement(o.Placement)
	if err != nil {
		return nil, err
	}
	is := OpPutPlacement{p.ID, p.Block, SlotOf(st.Peek(), &p), placementFields.written(&p, site.Placement{})}
	if o.Was.Placement != 0 && (o.Was.Slot.Region != is.Slot.Region || !maps.Equal(o.Was.Fields, is.Fields)) {
		return nil, &Conflict{
			Mine: "taken out", Theirs: "changed, or in another region",
			Sentence: fmt.Sprintf(
				"Somebody else changed the place of “%s”, or when it shows.",
				st.Peek().Block(p.Block).Name,
			),
		}
	}
	o.Was = is
	st.SetBlocks(st.Peek().Blocks(), without(st.Peek().Placements(), p.ID))
	return o, nil
}

// OpEditPlacement sets the conditions of a placement, and whether it is switched on.
type OpEditPlacement struct {
	Placement site.PlacementID `json:"placement"`
	Fields    []FieldChange    `json:"fields"`
}

func (OpEditPlacement) name() string { return "edit-placement" }

func (o OpEditPlacement) edits() []FieldChange { return o.Fields }

func (OpEditPlacement) Subject() site.PageID { return 0 }

func (o OpEditPlacement) About(s *site.Site) About { return aboutPlace(s, o.Placement, 0) }

func (o OpEditPlacement) Needs(s *site.Site) []Need {
	need := standing(s, o.Placement)
	for _, c := range o.Fields {
		if c.Field == FieldWhere {
			need.Or = both(need.Or, within(c.New))
		}
		if c.Field == FieldSet && c.New != "" {
			need.Or = both(need.Or, withinSet(s, c.New))
		}
	}
	needed := needsOf(need.On, site.ActionPlace, placementFields, o.Fields)
	for i := range needed {
		needed[i].Or = need.Or
	}
	return needed
}

func (o OpEditPlacement) Inverse() Op { return OpEditPlacement{o.Placement, turned(o.Fields)} }

func (o OpEditPlacement) ties() ties {
	thing := placementTie(o.Placement)
	uses := append(placementFields.namedAnew(o.Fields), thing)
	for _, c := range o.Fields {
		if c.Field == FieldSet {
			uses = append(uses, setTies(c.New)...)
		}
	}
	return ties{uses: uses, sets: fieldTies(thing, o.Fields)}
}

func (o OpEditPlacement) insist(s *site.Site, _ int64) (Op, error) {
	p := s.Placement(o.Placement)
	if p == nil {
		return nil, errNoInsisting
	}
	o.Fields = placementFields.onTop(p, o.Fields)
	return o, nil
}

func (o OpEditPlacement) apply(st *state) (Op, error) {
	p, err := st.placement(o.Placement)
	if err != nil {
		return nil, err
	}
	name, was, asked := st.Peek().Block(p.Block).Name, p, byHand(&p, o.Fields)
	o.Fields, err = placementFields.change(st.Peek(), &p, asked, func(field Field, mine, theirs string) error {
		return &Conflict{
			Field:    field,
			Mine:     mine,
			Theirs:   theirs,
			Sentence: fmt.Sprintf("The %s of “%s” at this place was changed by somebody else.", field.Words(), name),
		}
	})
	if err == nil {
		o.Fields, err = followSet(st.Peek(), &was, &p, asked, o.Fields)
	}
	if err == nil {
		err = checkPlacement(st.Peek(), &p, p.Region)
	}
	if err != nil {
		return nil, err
	}
	placements := slices.Clone(st.Peek().Placements())
	placements[slices.IndexFunc(placements, func(other site.Placement) bool { return other.ID == p.ID })] = p
	st.SetBlocks(st.Peek().Blocks(), placements)
	return o, nil
}

// OpMovePlacement takes a placement to another slot, in its region or another one.
type OpMovePlacement struct {
	Placement site.PlacementID `json:"placement"`
	From      Slot             `json:"from"`
	To        Slot             `json:"to"`
}

func (OpMovePlacement) name() string { return "move-placement" }

func (OpMovePlacement) Subject() site.PageID { return 0 }

func (o OpMovePlacement) About(s *site.Site) About { return aboutPlace(s, o.Placement, 0) }

func (o OpMovePlacement) Needs(s *site.Site) []Need {
	from := standing(s, o.Placement)
	return []Need{from, {Action: site.ActionPlace, On: site.RegionThing(o.To.Region), Or: from.Or}}
}

func (o OpMovePlacement) Inverse() Op { return OpMovePlacement{o.Placement, o.To, o.From} }

func (o OpMovePlacement) ties() ties {
	return ties{uses: []tie{placementTie(o.Placement)}, sets: []tie{placementTie(o.Placement).of(fieldPlace)}}
}

func (o OpMovePlacement) insist(*site.Site, int64) (Op, error) { o.From = Slot{}; return o, nil }

func (o OpMovePlacement) apply(st *state) (Op, error) {
	p, err := st.placement(o.Placement)
	switch {
	case err != nil:
		return nil, err
	case o.From.Region != "" && o.From.Region != p.Region:
		return nil, &Conflict{
			Mine:     "moved",
			Theirs:   "moved elsewhere",
			Sentence: "The block was moved to another region by somebody else.",
		}
	case o.To.After == p.ID || o.To.Before == p.ID:
		return nil, refuse("A block can't stand beside itself.")
	}
	if err := checkPlacement(st.Peek(), &p, o.To.Region); err != nil {
		return nil, err
	}
	o.From = SlotOf(st.Peek(), &p)
	return o, st.putAt(without(st.Peek().Placements(), p.ID), p, &o.To)
}

// A Slot is a place among the placements of a region, named by neighbours.
type Slot struct {
	Region string           `json:"region"`
	After  site.PlacementID `json:"after,omitempty"`
	Before site.PlacementID `json:"before,omitempty"`
}

// SlotOf gives the slot in which a placement stands.
func SlotOf(s *site.Site, p *site.Placement) Slot {
	slot := Slot{Region: p.Region}
	ids := region.In(s, p.Region)
	at := slices.Index(ids, p.ID)
	if at > 0 {
		slot.After = ids[at-1]
	}
	if at+1 < len(ids) {
		slot.Before = ids[at+1]
	}
	return slot
}

func (st *state) placement(id site.PlacementID) (site.Placement, error) {
	if p := st.Peek().Placement(id); p != nil {
		return *p, nil
	}
	return site.Placement{}, &Conflict{Sentence: "The block does not stand there any more."}
}

// putAt puts a placement into a slot and settles the slot's neighbours.
func (st *state) putAt(placements []site.Placement, p site.Placement, slot *Slot) error {
	theme := st.Peek().Theme()
	if theme.Region(slot.Region) == nil || slot.Region == site.ContentRegion {
		return refuse("The theme has no region “%s” in which blocks can stand.", slot.Region)
	}
	p.Region = slot.Region
	var beside []site.PlacementID
	for _, other := range placements {
		if other.Region == slot.Region {
			beside = append(beside, other.ID)
		}
	}
	settleGap(beside, &slot.After, &slot.Before)
	at := len(placements)
	if slot.Before != 0 {
		at = slices.IndexFunc(placements, func(other site.Placement) bool { return other.ID == slot.Before })
	}
	placements = slices.Insert(placements, at, p)
	slices.SortStableFunc(placements, func(a, b site.Placement) int { return strings.Compare(a.Region, b.Region) })
	st.SetBlocks(st.Peek().Blocks(), placements)
	return nil
}

func checkPlacement(s *site.Site, p *site.Placement, at string) error {
	switch l := s.Layout(p.Layout); {
	case l != nil && !l.Has(at):
		return refuse("The layout “%s” has no such region.", l.Name)
	case p.Window().IsBackwards():
		return refuse("The block would go before it comes: the end must be after the beginning.")
	}
	return nil
}

func without(placements []site.Placement, id site.PlacementID) []site.Placement {
	return slices.DeleteFunc(slices.Clone(placements), func(p site.Placement) bool { return p.ID == id })
}
