package edit

import (
	"fmt"
	"slices"

	"vineladder/internal/core/address"
	"vineladder/internal/core/site"
)

// page finds a page that is in the tree.
func (st *state) page(id site.PageID) (*site.Page, error) {
	s := st.Peek()
	if p := s.Page(id); p != nil && s.InTree(id) {
		return p, nil
	}
	if p := s.Page(id); p != nil {
		return nil, &Conflict{Page: id, Sentence: fmt.Sprintf("“%s” is in the bin.", p.Label)}
	}
	return nil, &Conflict{Page: id, Sentence: "The page is not there any more."}
}

func (o OpMake) apply(st *state) (Op, error) {
	s := st.Peek()
	if s.Page(o.Page) != nil {
		return nil, refuse("There is a page with the number %d already.", o.Page)
	}
	if _, err := st.page(o.Place.Parent); err != nil && o.Place.Parent != 0 {
		return nil, err
	}
	if o.Place.Parent == 0 && s.Home() != 0 {
		return nil, refuse("A site has one home page.")
	}
	p := &site.Page{
		ID: o.Page, Key: o.Key, Parent: o.Place.Parent, Kind: "page", Status: site.StatusOffline, Listed: true,
		Sort: site.SortManual, SegmentFollows: true,
	}
	if p.Key == "" {
		p.Key = fmt.Sprintf("p%d", o.Page)
	}
	if p.Parent == 0 {
		p.Status, p.SegmentFollows = site.StatusLive, false
	}
	var segment *FieldChange
	for i, c := range o.Fields {
		if c.Field == FieldSegment {
			segment = &o.Fields[i]
			continue
		}
		if err := st.set(p, c); err != nil {
			return nil, err
		}
	}
	if p.Label == "" {
		return nil, refuse("A page needs a label: a few words that name it in menus.")
	}
	if err := checkWindow(p); err != nil {
		return nil, err
	}
	if p.Parent != 0 {
		if s.Level(p.Parent)+1 > LevelsLimit {
			return nil, refuse(
				"“%s” would stand %d levels deep; a tree has at most %d levels.",
				p.Label,
				s.Level(p.Parent)+1,
				LevelsLimit,
			)
		}
		o.Fields = slices.Clone(o.Fields)
		if segment == nil {
			o.Fields = append(o.Fields, FieldChange{Field: FieldSegment})
			segment = &o.Fields[len(o.Fields)-1]
		}
		if err := setSegment(s, p, segment.New); err != nil {
			return nil, err
		}
		for i, c := range o.Fields {
			if c.Field == FieldSegment {
				o.Fields[i].New, o.Fields[i].Derived = Value(p, FieldSegment), c.Derived || isOpen(c.New)
			}
		}
		if err := st.rank(p, &o.Place); err != nil {
			return nil, err
		}
	}
	st.put(p)
	return o, nil
}

func (o OpUnmake) apply(st *state) (Op, error) {
	if _, err := st.page(o.Made.Page); err != nil {
		return nil, err
	}
	if len(st.Peek().Children(o.Made.Page)) > 0 {
		return nil, &Conflict{Page: o.Made.Page, Sentence: "There are pages inside it by now."}
	}
	st.leaves(o.Made.Page)
	st.Remove(o.Made.Page)
	return o, nil
}

// set changes one field of a page that is being edited.
func (st *state) set(p *site.Page, c FieldChange) error {
	if p.Parent == 0 && fixedOnHome(c.Field) {
		return refuse("The home page is always live, listed and at “/”.")
	}
	return pageTable.set(st.Peek(), p, c.Field, c.New)
}

// binnedPage finds a page for an edit of where its addresses lead, which only binned ones have.
func (st *state) binnedPage(id site.PageID) (*site.Page, error) {
	p := st.Peek().Page(id)
	switch {
	case p == nil || p.Purged:
		return nil, &Conflict{Page: id, Sentence: "The page is not there any more."}
	case !p.Binned:
		return nil, &Conflict{Page: id, Sentence: fmt.Sprintf("“%s” is not in the bin any more.", p.Label)}
	}
	return p, nil
}

func (o OpEdit) apply(st *state) (Op, error) {
	find := st.page
	if len(o.Fields) == 1 && o.Fields[0].Field == FieldLeadsTo {
		find = st.binnedPage
	}
	was, err := find(o.Page)
	if err != nil {
		return nil, err
	}
	p := *was
	settled := OpEdit{Page: o.Page}
	for _, c := range o.Fields {
		stands := Value(&p, c.Field)
		if err := st.set(&p, c); err != nil {
			return nil, err
		}
		made := Value(&p, c.Field)
		if stands == made {
			continue
		}
		if c.Old != stands && !(c.Field == FieldSegment && isDerived(c.Old) && isDerived(stands)) {
			return nil, &Conflict{
				Page: o.Page, Field: c.Field, Mine: made, Theirs: stands,
				Sentence: fmt.Sprintf("The %s of “%s” was changed by somebody else.", c.Field.Words(), was.Label),
			}
		}
		if c.Field == FieldSegment && isOpen(c.New) {
			made = "~"
		}
		settled.Fields = append(settled.Fields, FieldChange{c.Field, stands, made, c.Derived})
	}
	if derived := st.followLabel(was, &p); derived != nil {
		settled.Fields = append(settled.Fields, *derived)
	}
	if err := checkWindow(&p); err != nil {
		return nil, err
	}
	if len(settled.Fields) == 0 {
		return settled, nil // all is as it should be already
	}
	st.put(&p)
	return settled, nil
}

// LevelsLimit is the number of levels that a tree can have below the home page.
const LevelsLimit = 60

// checkWindow refuses a page that would end before it begins.
func checkWindow(p *site.Page) error {
	if p.Window().IsBackwards() {
		return refuse("“%s” would end before it begins: the end must be after the beginning.", p.Label)
	}
	return nil
}

// height is the number of levels below a page.
func height(s *site.Site, id site.PageID) int {
	deepest := 0
	for _, kid := range s.Children(id) {
		deepest = max(deepest, 1+height(s, kid))
	}
	return deepest
}

// followLabel gives a page the segment of its new label, unless somebody set one or the page has been online (rules
// 3.2).
func (st *state) followLabel(was, p *site.Page) *FieldChange {
	if was.Label == p.Label || !p.Follows(st.now) || was.Segment != p.Segment || p.Parent == 0 {
		return nil
	}
	old := Value(p, FieldSegment)
	p.Segment = address.Segment(p.Label)
	return &FieldChange{FieldSegment, old, Value(p, FieldSegment), true}
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

func (o OpBin) apply(st *state) (Op, error) {
	was, err := st.page(o.Page)
	if err != nil {
		return nil, err
	}
	if was.Parent == 0 {
		return nil, refuse("The home page can't be put in the bin.")
	}
	if changed := changedSince(st.Peek(), o.Page, o.Seen); changed != nil {
		return nil, &Conflict{
			Page:   o.Page,
			Mine:   "in the bin",
			Theirs: fmt.Sprintf("“%s” changed", changed.Label),
			About:  changed.ID,
			Sentence: fmt.Sprintf(
				"“%s” can't go in the bin unseen: “%s” in it was changed by somebody else since.",
				was.Label,
				changed.Label,
			),
		}
	}
	settled := OpBin{Page: o.Page, Seen: o.Seen, From: PlaceOf(st.Peek(), o.Page), Back: o.Back}
	p := *was
	settled.Keeps = st.keepInBin(&p, o)
	p.Binned = true
	st.leaves(p.ID)
	st.Put(&p)
	return settled, nil
}

// changedSince finds a page of a branch that was published after a revision.
func changedSince(s *site.Site, top site.PageID, revision int64) (changed *site.Page) {
	s.Walk(top, func(p *site.Page) bool {
		if p.Revision > revision {
			changed = p
		}
		return changed == nil
	})
	return changed
}

func (o OpRestore) apply(st *state) (Op, error) {
	s := st.Peek()
	was := s.Page(o.Page)
	if was != nil && was.Purged {
		return nil, &Conflict{Page: o.Page, Sentence: "The bin has been emptied of this page; it can't come back."}
	}
	if was == nil || !was.Binned {
		return nil, &Conflict{Page: o.Page, Sentence: "The page is not in the bin any more."}
	}
	p := *was
	p.Binned = false
	for !s.InTree(p.Parent) {
		p.Parent = s.Page(p.Parent).Parent
	}
	settled := OpRestore{
		Page:  o.Page,
		Seen:  o.Seen,
		To:    Place{Parent: p.Parent},
		Keeps: st.keepClosed(&p, admissionOf(s, o.Page), o.Keeps),
	}
	var err error
	if settled.Segment, err = st.fitSegment(was, &p, o.Segment); err != nil {
		return nil, err
	}
	if p.Parent != was.Parent || st.rankTaken(&p) {
		place := Place{Parent: p.Parent, After: o.To.After, Before: o.To.Before}
		if err := st.rank(&p, &place); err != nil {
			return nil, err
		}
	}
	st.put(&p)
	st.back = append(st.back, p.ID)
	settled.To = PlaceOf(st.Peek(), p.ID)
	return settled, nil
}
