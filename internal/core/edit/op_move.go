package edit

import (
	"fmt"

	"vineladder/internal/core/site"
)

// OpMove takes a branch to another place (rules 2.6).
type OpMove struct {
	Page site.PageID `json:"page"`
	From Place       `json:"from"`
	To   Place       `json:"to"`
	// Segment is set where the automatic segment had to change among the new siblings.
	Segment *FieldChange `json:"segment,omitempty"`
	// Pin is set where the move pins the page under a sort rule, or takes a pin away (rules 2.3).
	Pin *FieldChange `json:"pin,omitempty"`
	// Keeps is the audience and concealment that the page keeps, where its new place would open it.
	Keeps []FieldChange `json:"keeps,omitempty"`
	// Takes lets the new place say who is admitted. What it said then is kept, and must still hold wherever the
	// move is done again.
	Takes  bool       `json:"takes,omitempty"`
	Chosen *Admission `json:"chosen,omitempty"`
	// Was and Is say who is admitted before and after, where that differs. An inverse goes back to what was, as
	// long as both still hold.
	Was  *Admission `json:"was,omitempty"`
	Is   *Admission `json:"is,omitempty"`
	Back bool       `json:"back,omitempty"`
}

func (OpMove) name() string { return "move" }

func (o OpMove) Subject() site.PageID { return o.Page }

func (o OpMove) About(s *site.Site) About { return aboutPage(s, o.Page) }

func (o OpMove) Needs(*site.Site) []Need {
	needed := []Need{
		{Action: site.ActionArrange, On: site.PageThing(o.Page)},
		{Action: site.ActionArrange, On: site.PageThing(o.To.Parent)},
	}
	if o.Takes {
		needed = append(needed, Need{Action: site.ActionAdmit, On: site.PageThing(o.Page)})
	}
	return needed
}

func (o OpMove) Inverse() Op {
	return OpMove{
		Page: o.Page, From: o.To, To: o.From, Segment: turnedOne(o.Segment), Pin: turnedOne(o.Pin), Keeps: turned(o.Keeps),
		Was: o.Is, Is: o.Was, Back: true,
	}
}

func (o OpMove) ties() ties {
	return ties{
		uses: []tie{pageTie(o.Page), pageTie(o.To.Parent)},
		sets: []tie{pageTie(o.Page).of(fieldPlace)},
	}
}

func (o OpMove) insist(s *site.Site, _ int64) (Op, error) {
	page := s.Page(o.Page)
	if page == nil {
		return nil, errNoInsisting
	}
	o.From, o.Chosen = Place{Parent: page.Parent}, nil
	return o, nil
}

func (o OpMove) apply(st *state) (Op, error) {
	was, err := st.page(o.Page)
	if err != nil {
		return nil, err
	}
	s := st.Peek()
	target, err := st.page(o.To.Parent)
	switch {
	case was.Parent == 0:
		return nil, refuse("The home page stays where it is.")
	case err != nil:
		return nil, err
	case s.IsWithin(o.To.Parent, o.Page):
		return nil, refuse("“%s” can't move into its own branch: “%s” lies inside it.", was.Label, target.Label)
	case o.From.Parent != 0 && o.From.Parent != was.Parent:
		return nil, &Conflict{
			Page: o.Page, Mine: s.Page(o.To.Parent).Label, Theirs: s.Page(was.Parent).Label,
			Sentence: fmt.Sprintf(
				"“%s” was moved by somebody else; it now stands in “%s”.",
				was.Label,
				s.Page(was.Parent).Label,
			),
		}
	}
	if level := s.Level(o.To.Parent) + 1; level+s.Below(o.Page) > LevelsLimit && level+height(s, o.Page) > LevelsLimit {
		return nil, refuse(
			"“%s” would reach more than %d levels deep there; a tree has no more.",
			was.Label,
			LevelsLimit,
		)
	}
	settled := OpMove{Page: o.Page, From: PlaceOf(s, o.Page), To: o.To, Back: o.Back}
	p := *was
	p.Parent = o.To.Parent
	if err := st.checkSort(&p); err != nil {
		return nil, err
	}
	if p.Pin, err = st.pinAt(was, target, o); err != nil {
		return nil, err
	}
	if p.Pin != was.Pin {
		settled.Pin = &FieldChange{FieldPin, string(was.Pin), string(p.Pin), true}
	}
	if p.Parent != was.Parent {
		if err := st.moved(&p, o, &settled); err != nil {
			return nil, err
		}
		if settled.Segment, err = st.fitSegment(was, &p, o.Segment); err != nil {
			return nil, err
		}
	}
	if err := st.rank(&p, &settled.To); err != nil {
		return nil, err
	}
	if o.Back && p.Parent != was.Parent {
		st.back = append(st.back, p.ID)
	}
	// Where the rule says where a page stands, its neighbours don't.
	if target.Sort != site.SortManual && p.Pin == site.PinNone {
		settled.To = Place{Parent: target.ID}
	}
	if s.Page(was.Parent).Sort != site.SortManual && was.Pin == site.PinNone {
		settled.From = Place{Parent: was.Parent}
	}
	st.put(&p)
	return settled, nil
}

// LevelsLimit is the number of levels that a tree can have below the home page.
const LevelsLimit = 60

// height is the number of levels below a page.
func height(s *site.Site, id site.PageID) int {
	deepest := 0
	for _, kid := range s.Children(id) {
		deepest = max(deepest, 1+height(s, kid))
	}
	return deepest
}

// fitSegment keeps the segment among new siblings. An automatic one that was never online is derived at the step's end.
func (st *state) fitSegment(was, p *site.Page, wanted *FieldChange) (*FieldChange, error) {
	value := Value(p, FieldSegment)
	free := p.Follows(st.now)
	switch {
	case wanted != nil && wanted.Old == value && free:
		value = wanted.New
	case free:
		value = "~" + p.Segment
	}
	if err := setSegment(st.Peek(), p, value); err != nil {
		return nil, err
	}
	return &FieldChange{FieldSegment, Value(was, FieldSegment), Value(p, FieldSegment), true}, nil
}
