package edit

import (
	"slices"
	"strings"
	"time"

	"vineladder/internal/core/address"
	"vineladder/internal/core/site"
)

// Apply makes a Site with an operation done, and the operation settled. The error is a *Refusal where the rules forbid
// it and a *Conflict where something it presumes does not hold; the Site given is unchanged either way. now decides
// whether a page has been online before (rules 3.2).
func Apply(s *site.Site, op Op, now time.Time) (*site.Site, Op, error) {
	next, settled, err := ApplyAll(s, []Op{op}, now)
	if err != nil {
		return s, op, err
	}
	return next, settled[0], nil
}

// ApplyAll applies a step, the operations one after another, all or nothing. Addresses are looked at when all are done,
// so that two pages may exchange theirs (rules 3.3).
func ApplyAll(s *site.Site, ops []Op, now time.Time) (*site.Site, []Op, error) {
	return ApplyNext(s, s, nil, ops, now)
}

// ApplyNext applies a step to a draft that began from base and stands at s by earlier steps: segments that were left to
// be derived are derived anew where the step changes what is free (rules 3.2).
func ApplyNext(base, s *site.Site, earlier [][]Op, ops []Op, now time.Time) (*site.Site, []Op, error) {
	st := newState(base, now, func() map[site.PageID]bool { return openIn(earlier) })
	st.Builder = s.Builder()
	settled := make([]Op, len(ops))
	for i, op := range ops {
		made, err := op.apply(st)
		if err != nil {
			return s, ops, overOp(err, op)
		}
		st.done(op, made)
		settled[i] = made
	}
	st.deriveSegments()
	if clashes := st.clashes(); len(clashes) > 0 {
		return s, ops, st.sayClash(clashes[0])
	}
	if err := st.keepsSpecials(s); err != nil {
		return s, ops, err
	}
	st.fillIn(settled)
	return st.Site(), settled, nil
}

// state is a Site in the making, at the moment of the edit.
type state struct {
	*site.Builder
	now     time.Time
	base    *site.Site                  // what the draft began from
	open    map[site.PageID]bool        // whether a page's segment is left to be derived, as the last operation on it says
	earlier func() map[site.PageID]bool // the same of the draft's steps before this one; nil once it was asked
	touched []site.PageID               // pages whose address the step may have changed
	back    []site.PageID               // pages that came back from the bin
	parents []site.PageID               // pages whose children have changed segments
}

func newState(base *site.Site, now time.Time, earlier func() map[site.PageID]bool) *state {
	return &state{now: now, base: base, open: map[site.PageID]bool{}, earlier: earlier}
}

// put is Put for a page whose address changes with the step.
func (st *state) put(p *site.Page) {
	st.leaves(p.ID)
	st.touched, st.parents = append(st.touched, p.ID), append(st.parents, p.Parent)
	st.freesAndTakes(p)
	st.Put(p)
}

// freesAndTakes notes the pages right below which a page leaves or takes an address that was typed for it.
func (st *state) freesAndTakes(p *site.Page) {
	for _, path := range differing(fixedOf(st.Peek().Page(p.ID)), fixedOf(p)) {
		above := path[:max(1, strings.LastIndexByte(path, '/'))]
		if found := address.Resolve(st.Peek(), above, st.now); found.Page != 0 {
			st.parents = append(st.parents, found.Page)
		}
	}
}

// fixedOf gives the addresses that were typed for a page.
func fixedOf(p *site.Page) []string {
	switch {
	case p == nil || p.Binned:
		return nil
	case p.OwnAddress != "":
		return append([]string{p.OwnAddress}, p.ShortAddresses...)
	}
	return p.ShortAddresses
}

// differing gives what stands in only one of two lists.
func differing(was, is []string) []string {
	only := func(list, other []string) []string {
		return slices.DeleteFunc(slices.Clone(list), func(x string) bool { return slices.Contains(other, x) })
	}
	return append(only(was, is), only(is, was)...)
}

// leaves notes that a page gives up the segment that it has.
func (st *state) leaves(id site.PageID) {
	if was := st.Peek().Page(id); was != nil {
		st.parents = append(st.parents, was.Parent)
	}
}

// isOpen says whether a typed segment leaves it to the label.
func isOpen(segment string) bool { return segment == "" || segment == "~" }

// isDerived says whether a segment in its written form follows the label.
func isDerived(segment string) bool { return strings.HasPrefix(segment, "~") }

// openIn says of each page whether the steps of a draft leave its segment to be derived.
func openIn(steps [][]Op) map[site.PageID]bool {
	open := map[site.PageID]bool{}
	for _, ops := range steps {
		for _, op := range ops {
			noteOpen(open, op)
		}
	}
	return open
}

// noteOpen keeps whether a settled operation left a page's segment to be derived.
func noteOpen(open map[site.PageID]bool, op Op) {
	switch o := op.(type) {
	case OpMake:
		noteOpenFields(open, o.Page, o.Fields)
	case OpEdit:
		noteOpenFields(open, o.Page, o.Fields)
	case OpMove:
		if o.From.Parent != o.To.Parent {
			open[o.Page] = true
		}
	case OpRestore:
		open[o.Page] = o.Segment != nil
	}
}

func noteOpenFields(open map[site.PageID]bool, page site.PageID, changes []FieldChange) {
	for _, c := range changes {
		switch {
		case c.Field == FieldSegment:
			open[page] = isOpen(c.New) || c.Derived
			return
		case c.Field == FieldLabel:
			open[page] = true
		}
	}
}

// done notes an operation and what it came out as. Derived values that were handed in, as an inverse does, are what
// shall come out.
func (st *state) done(op, made Op) {
	noteOpen(st.open, made)
	given := false
	switch o := op.(type) {
	case OpMake:
		given = derives(o.Fields)
	case OpEdit:
		given = derives(o.Fields)
	case OpMove:
		given = o.Segment != nil || o.Back // going back it keeps its segment, as one that is restored does
	case OpRestore:
		given = true // it keeps its segment if that is free, which the step's end says
	}
	if given {
		st.open[op.Subject()] = false
	}
}

func derives(changes []FieldChange) bool {
	return slices.ContainsFunc(changes, func(c FieldChange) bool { return c.Field == FieldSegment && c.Derived })
}

// deriveSegments settles the segments that are left to be derived, among the children of every page that lost or gained
// one: in order of their numbers, so that the order of the edits makes no difference (rules 3.2).
func (st *state) deriveSegments() {
	for _, id := range st.back {
		if p := st.Peek().Page(id); p != nil && len(st.Peek().Namesakes(p.Parent, p.Segment)) > 1 {
			st.open[id] = true
		}
	}
	slices.Sort(st.parents)
	st.parents = slices.Compact(st.parents)
	for _, parent := range st.parents {
		if waiting := st.underived(parent); len(waiting) > 0 {
			st.deriveAmong(parent, waiting)
		}
	}
}

// underived gives the children of a page whose segments the draft leaves to be derived, by number.
func (st *state) underived(parent site.PageID) []site.PageID {
	var waiting []site.PageID
	s := st.Peek()
	for _, kid := range s.Children(parent) {
		if p := s.Page(kid); p.SegmentFollows && p != st.base.Page(kid) && p.Follows(st.now) {
			waiting = append(waiting, kid)
		}
	}
	if len(waiting) == 0 {
		return nil
	}
	st.readEarlier()
	waiting = slices.DeleteFunc(waiting, func(id site.PageID) bool { return !st.open[id] })
	slices.Sort(waiting)
	return waiting
}

// readEarlier notes what the steps before this one left to be derived; what this one says stands.
func (st *state) readEarlier() {
	if st.earlier == nil {
		return
	}
	for page, is := range st.earlier() {
		if _, said := st.open[page]; !said {
			st.open[page] = is
		}
	}
	st.earlier = nil
}

func (st *state) deriveAmong(parent site.PageID, waiting []site.PageID) {
	pending := make(map[site.PageID]bool, len(waiting))
	for _, id := range waiting {
		pending[id] = true
	}
	for _, id := range waiting {
		p := *st.Peek().Page(id)
		was := p.Segment
		inTheWay := func(other site.PageID) bool { return !pending[other] }
		p.Segment = address.FreeSegment(st.Peek(), &p, st.wanted(&p), inTheWay)
		delete(pending, id)
		if p.Segment != was {
			st.touched = append(st.touched, id)
			st.Put(&p)
		}
	}
}

// wanted is the segment that a page has if it is free: that of its label, or the one it began with if the draft leaves
// label and place.
func (st *state) wanted(p *site.Page) string {
	if was := st.base.Page(p.ID); was != nil && was.Label == p.Label && was.Parent == p.Parent && was.SegmentFollows {
		return was.Segment
	}
	if slices.Contains(st.back, p.ID) {
		return p.Segment
	}
	return address.Segment(p.Label)
}

// fillIn writes what was derived into the operations of the step, so that their inverses are exact: into the last one
// of each page.
func (st *state) fillIn(settled []Op) {
	seen := map[site.PageID]bool{}
	s := st.Peek()
	for i, op := range slices.Backward(settled) {
		p := s.Page(op.Subject())
		if p == nil || seen[p.ID] {
			continue
		}
		is := Value(p, FieldSegment)
		switch o := op.(type) {
		case OpMake:
			o.Fields, seen[p.ID] = filledIn(o.Fields, is), true
			settled[i] = o
		case OpEdit:
			o.Fields = filledIn(o.Fields, is)
			seen[p.ID] = slices.ContainsFunc(o.Fields, func(c FieldChange) bool { return c.Field == FieldSegment })
			settled[i] = o
		case OpMove:
			o.Segment, seen[p.ID] = filledInOne(o.Segment, is), o.Segment != nil
			settled[i] = o
		case OpRestore:
			o.Segment, seen[p.ID] = filledInOne(o.Segment, is), true
			settled[i] = o
		}
	}
}

func filledIn(changes []FieldChange, segment string) []FieldChange {
	at := slices.IndexFunc(changes, func(c FieldChange) bool { return c.Field == FieldSegment && c.Derived })
	if at < 0 {
		return changes
	}
	changes = slices.Clone(changes)
	if changes[at].New = segment; changes[at].Old == segment {
		return slices.Delete(changes, at, at+1)
	}
	return changes
}

func filledInOne(change *FieldChange, segment string) *FieldChange {
	if change == nil || change.Old == segment {
		return nil
	}
	return &FieldChange{FieldSegment, change.Old, segment, true}
}

// clashes gives the addresses that would lead to two pages after the step (rules 3.3).
func (st *state) clashes() []address.Clash {
	var clashes []address.Clash
	s := st.Peek()
	slices.Sort(st.touched)
	for _, id := range slices.Compact(st.touched) {
		p := s.Page(id)
		if p == nil || p.Binned {
			continue
		}
		if p.Parent != 0 {
			for _, other := range s.Namesakes(p.Parent, p.Segment) {
				if other != id {
					clashes = append(
						clashes,
						address.Clash{Address: address.Of(s, other), One: other, Two: id, Siblings: true},
					)
				}
			}
		}
		if clash := address.FindClash(s, id); clash != nil {
			clashes = append(clashes, *clash)
		}
	}
	for _, id := range st.back {
		if clash := address.FindClashBelow(s, id); clash != nil {
			clashes = append(clashes, *clash)
		}
	}
	return clashes
}

func (st *state) sayClash(clash address.Clash) error {
	one, two := st.Peek().Page(clash.One).Label, st.Peek().Page(clash.Two).Label
	if clash.Siblings {
		const taken = "“%s” already has the address %s; choose another last part for “%s”."
		return refuse(taken, one, clash.Address, two)
	}
	return refuse("Two pages would have the address %s: “%s” and “%s”.", clash.Address, one, two)
}
