package edit_test

import (
	"errors"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// rebase brings one list up to date.
func rebase(s *site.Site, ops []edit.Op, now time.Time) (*site.Site, []edit.Op, []edit.Held) {
	r := edit.NewRebase(s, now)
	applied, held := r.Add(ops)
	return r.Site, applied, held
}

func TestConflicts(t *testing.T) {
	s := testkit.Outline(t, "Home\n  A\n    A1\n  B")
	a, b := testkit.Find(t, s, "A"), testkit.Find(t, s, "B")
	label := edit.OpEdit{Page: a, Fields: []edit.FieldChange{{Field: edit.FieldLabel, Old: "A", New: "Mine"}}}
	theirs, _, err := edit.Apply(
		s,
		edit.OpEdit{Page: a, Fields: []edit.FieldChange{{Field: edit.FieldLabel, Old: "A", New: "Theirs"}}},
		testkit.Now,
	)
	require.NoError(t, err)
	var conflict *edit.Conflict
	_, applied, held := rebase(theirs, []edit.Op{label, edit.OpMove{Page: b, To: edit.Place{Parent: a}}}, testkit.Now)
	require.Len(t, held, 1)
	require.True(t, errors.As(held[0].Why, &conflict))
	assert.Equal(t, []string{"Mine", "Theirs"}, []string{conflict.Mine, conflict.Theirs})
	assert.Len(t, applied, 1, "what does not build on it goes on")

	same, _, err := edit.Apply(
		s,
		edit.OpEdit{Page: a, Fields: []edit.FieldChange{{Field: edit.FieldLabel, Old: "A", New: "Mine"}}},
		testkit.Now,
	)
	require.NoError(t, err)
	rebased, applied, held := rebase(same, []edit.Op{label}, testkit.Now)
	assert.Empty(t, held, "the same new value is no conflict")
	assert.Empty(t, applied[0].(edit.OpEdit).Fields)
	assert.Equal(t, "Mine", rebased.Page(a).Label)

	p := *s.Page(testkit.Find(t, s, "A1"))
	p.Revision = 7
	published := s.Builder()
	published.Put(&p)
	_, _, held = rebase(published.Site(), []edit.Op{edit.OpBin{Page: a, Seen: 6}}, testkit.Now)
	require.Len(t, held, 1)
	assert.ErrorContains(t, held[0].Why, "“A1”")

	gone, _, err := edit.ApplyAll(s, []edit.Op{edit.OpBin{Page: a}}, testkit.Now)
	require.NoError(t, err)
	moved, _, held := rebase(
		gone,
		[]edit.Op{
			edit.OpMake{
				Page:   90,
				Place:  edit.Place{Parent: 1, After: a},
				Fields: []edit.FieldChange{{Field: edit.FieldLabel, New: "New"}},
			},
		},
		testkit.Now,
	)
	assert.Empty(t, held)
	before, _ := moved.Neighbours(90)
	assert.Equal(t, b, before, "a neighbour that is gone: last")
}

// Drafts that share no (thing, field) and no (parent, gap) are independent and commute (rules 9.4).
func TestRebasingIndependentDraftsCommutes(t *testing.T) {
	cases, real := 0, 0
	defer func() { assert.Greater(t, 2*real, cases, "%d of %d cases have edits on both sides", real, cases) }()
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 20)
		// What would not be independent of the other draft is not drawn into this one.
		draw := func(next site.PageID, other []edit.Op) (ops []edit.Op) {
			draft, want := s, rapid.IntRange(1, 3).Draw(t, "ops")
			for tries := 0; tries < 60 && len(ops) < want; tries++ {
				made, settled, err := edit.Apply(draft, testkit.RandomOp(t, draft, &next), testkit.Now)
				if err == nil && independent(s, other, append(slices.Clip(ops), settled)) {
					draft, ops = made, append(ops, settled)
				}
			}
			return ops
		}
		mine := draw(1000, nil)
		theirs := draw(2000, mine)
		if cases++; len(mine) == 0 || len(theirs) == 0 {
			return
		}
		real++
		in := func(first, second []edit.Op) (*site.Site, int) {
			one, _, held := rebase(s, first, testkit.Now)
			both, _, more := rebase(one, second, testkit.Now)
			return both, len(held) + len(more)
		}
		ours, heldOurs := in(mine, theirs)
		turned, heldTurned := in(theirs, mine)
		if heldOurs != heldTurned || heldOurs == 0 && ranksAside(ours) != ranksAside(turned) {
			t.Fatalf("%#v\n%#v\n%s\n%s", mine, theirs, ranksAside(ours), ranksAside(turned))
		}
	})
}

// independent says whether two lists of operations touch no page, no parent and no fixed address in common.
func independent(s *site.Site, a, b []edit.Op) bool {
	touched := func(ops []edit.Op) map[site.PageID]bool {
		pages := map[site.PageID]bool{}
		add := func(ids ...site.PageID) {
			for _, id := range ids {
				pages[id] = true
			}
		}
		for _, op := range ops {
			add(op.Subject())
			if p := s.Page(op.Subject()); p != nil {
				add(p.Parent)
				s.Walk(p.ID, func(below *site.Page) bool { add(below.ID); return true })
			}
			switch o := op.(type) {
			case edit.OpMake:
				add(o.Place.Parent)
			case edit.OpMove:
				add(o.From.Parent, o.To.Parent)
			case edit.OpRestore:
				add(o.To.Parent)
			case edit.OpEdit:
				for _, c := range o.Fields {
					if c.Field == edit.FieldOwnAddress {
						return nil
					}
				}
			}
		}
		return pages
	}
	mine, theirs := touched(a), touched(b)
	if mine == nil || theirs == nil {
		return false
	}
	for id := range mine {
		if theirs[id] {
			return false
		}
	}
	return true
}

// What is not a page conflicts, waits and is insisted on by the same rules (rules 9.4).
func TestConflictsAwayFromPages(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings\n  Contact")
	sailings := testkit.Find(t, s, "Sailings")
	put := func(id, below site.EntryID, shows, label string) edit.Op {
		return edit.OpPutEntries{
			Gap: edit.Gap{Menu: 1, Parent: below},
			Entries: []edit.EntryForm{
				{ID: id, Fields: map[edit.Field]string{edit.FieldShows: shows, edit.FieldLabel: label}},
			},
		}
	}
	change := func(field edit.Field, old, to string) []edit.FieldChange {
		return []edit.FieldChange{{Field: field, Old: old, New: to}}
	}
	stands, _, err := edit.ApplyAll(s, []edit.Op{
		put(20, 0, "heading", "Links"), put(21, 20, "page:1", ""),
		edit.OpMakeMenu{Menu: 7, Name: "Other"},
		edit.OpMakeBlock{
			Block:  30,
			Fields: map[edit.Field]string{edit.FieldName: "Rota", edit.FieldPiece: "menu:7:1:0:trail:0:all"},
		},
		edit.OpPutPlacement{Placement: 40, Block: 30, Slot: edit.Slot{Region: "side"}},
	}, testkit.Now)
	require.NoError(t, err)
	for name, c := range map[string]struct {
		mine, theirs []edit.Op
		held         []string // of mine, in order: “conflict” or “waits”
		insist       bool     // on the first
	}{
		"one label twice": {
			[]edit.Op{edit.OpEditEntry{Entry: 20, Fields: change(edit.FieldLabel, "Links", "Mine")}},
			[]edit.Op{edit.OpEditEntry{Entry: 20, Fields: change(edit.FieldLabel, "Links", "Theirs")}},
			[]string{"conflict"},
			true,
		},
		"what follows on one field waits": {
			[]edit.Op{
				edit.OpEditEntry{Entry: 20, Fields: change(edit.FieldLabel, "Links", "A")},
				edit.OpEditEntry{Entry: 20, Fields: change(edit.FieldLabel, "A", "B")},
				edit.OpEditEntry{
					Entry:  20,
					Fields: change(edit.FieldOn, "yes", "no"),
				},
			},
			[]edit.Op{edit.OpEditEntry{Entry: 20, Fields: change(edit.FieldLabel, "Links", "Theirs")}},
			[]string{"conflict", "waits"},
			true,
		},
		"an item below one that is gone, and what is done to it": {
			[]edit.Op{
				put(50, 20, "page:1", "New"),
				edit.OpEditEntry{Entry: 50, Fields: change(edit.FieldLabel, "New", "Newer")},
				put(51, 50, "page:1", ""),
			},
			[]edit.Op{edit.OpTakeEntry{Entry: 20}},
			[]string{"conflict", "waits", "waits"},
			false,
		},
		"taken out here, filled there": {
			[]edit.Op{edit.OpTakeEntry{Entry: 20}},
			[]edit.Op{put(60, 20, "page:1", "")},
			[]string{"conflict"},
			true,
		},
		"taken out here, renamed there": {
			[]edit.Op{edit.OpTakeEntry{Entry: 20}},
			[]edit.Op{edit.OpEditEntry{Entry: 21, Fields: change(edit.FieldLabel, "", "Theirs")}},
			[]string{"conflict"},
			true,
		},
		"moved twice": {
			[]edit.Op{edit.OpMoveEntry{Entry: 21, To: edit.Gap{Menu: 1}}, edit.OpMoveEntry{Entry: 21, To: edit.Gap{Menu: 7}}},
			[]edit.Op{edit.OpMoveEntry{Entry: 21, To: edit.Gap{Menu: 7}}},
			[]string{"conflict", "waits"},
			true,
		},
		"conditions of one place": {
			[]edit.Op{edit.OpEditPlacement{Placement: 40, Fields: change(edit.FieldWhere, "", "branch:1")}},
			[]edit.Op{edit.OpEditPlacement{Placement: 40, Fields: change(edit.FieldWhere, "", "page:1")}},
			[]string{"conflict"},
			true,
		},
		"a place taken out here, conditioned there": {
			[]edit.Op{edit.OpTakePlacement{Placement: 40}, edit.OpTakeBlock{Was: edit.OpMakeBlock{Block: 30}}},
			[]edit.Op{edit.OpEditPlacement{Placement: 40, Fields: change(edit.FieldAudience, "", "staff")}},
			[]string{"conflict", "conflict"},
			true,
		},
		"a block renamed twice": {
			[]edit.Op{edit.OpEditBlock{Block: 30, Fields: change(edit.FieldName, "Rota", "Mine")}},
			[]edit.Op{edit.OpEditBlock{Block: 30, Fields: change(edit.FieldName, "Rota",
				"Theirs")}},
			[]string{"conflict"},
			true,
		},
		"a block that is gone, with its new place": {
			[]edit.Op{
				edit.OpEditBlock{Block: 30, Fields: change(edit.FieldTitle, "", "Title")},
				edit.OpPutPlacement{
					Placement: 41, Block: 30,
					Slot: edit.Slot{Region: "header"},
				},
				edit.OpMovePlacement{Placement: 41, To: edit.Slot{Region: "side"}},
			},
			[]edit.Op{edit.OpTakePlacement{Placement: 40}, edit.OpTakeBlock{Was: edit.OpMakeBlock{Block: 30}}},
			[]string{"conflict", "conflict", "waits"},
			false,
		},
		"a menu renamed twice": {
			[]edit.Op{edit.OpEditMenu{Menu: 7, Fields: change(edit.FieldName, "Other", "Mine")}},
			[]edit.Op{edit.OpEditMenu{Menu: 7, Fields: change(edit.FieldName, "Other", "Theirs")}},
			[]string{"conflict"},
			true,
		},
		"a setting twice": {
			[]edit.Op{edit.OpEditSettings{Fields: change(edit.FieldNotFoundPage, "", "1")}},
			[]edit.Op{edit.OpEditSettings{Fields: change(edit.FieldNotFoundPage, "", "2")}},
			[]string{"conflict"},
			true,
		},
		"an item to a page that others binned, made by a page that waits": {
			[]edit.Op{
				edit.OpMake{Page: 90, Place: edit.Place{Parent: sailings}, Fields: change(edit.FieldLabel, "", "New")},
				put(70, 0, "page:90", ""),
				edit.OpEditPlacement{Placement: 40, Fields: change(edit.FieldWhere, "", "branch:90")},
			},
			[]edit.Op{edit.OpBin{Page: sailings}},
			[]string{"conflict", "waits", "waits"},
			false,
		},
	} {
		t.Run(name, func(t *testing.T) {
			draft, mine := stands, []edit.Op{}
			for _, op := range c.mine {
				next, settled, err := edit.Apply(draft, op, testkit.Now)
				require.NoError(t, err)
				draft, mine = next, append(mine, settled)
			}
			theirs, _, err := edit.ApplyAll(stands, c.theirs, testkit.Now)
			require.NoError(t, err)
			_, _, held := rebase(theirs, mine, testkit.Now)
			var sorts []string
			for _, h := range held {
				if _, waits := h.Why.(*edit.Waits); waits {
					sorts = append(sorts, "waits")
				} else {
					sorts = append(sorts, "conflict")
				}
			}
			require.Equal(t, c.held, sorts)
			require.Equal(t, c.insist, edit.CanInsist(held[0]), "%#v", held[0].Why)
			if !c.insist {
				return
			}
			insisted, err := edit.Insist(theirs, held[0].Op, 9)
			require.NoError(t, err)
			mine[held[0].Index] = insisted
			_, _, after := rebase(theirs, mine, testkit.Now)
			assert.Empty(t, after, "what waited goes on")
		})
	}
}

// What is published apart takes along what it needs and what needs it, and nothing else.
func TestAlong(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Two\n  Three\n  Four\n  Five\n  Six")
	set := func(page site.PageID, field edit.Field) edit.Op {
		return edit.OpEdit{Page: page, Fields: []edit.FieldChange{{Field: field}}}
	}
	put := func(id, below site.EntryID, page string) edit.Op {
		return edit.OpPutEntries{
			Gap:     edit.Gap{Menu: 1, Parent: below},
			Entries: []edit.EntryForm{{ID: id, Fields: map[edit.Field]string{edit.FieldShows: page}}},
		}
	}
	steps := [][]edit.Op{
		{edit.OpMake{Page: 90, Place: edit.Place{Parent: 1}}},
		{set(2, edit.FieldLabel)},
		{edit.OpMake{Page: 91, Place: edit.Place{Parent: 90}}},
		{set(91, edit.FieldStatus)},
		{set(3, edit.FieldLabel)},
		{put(50, 0, "page:3")},
		{edit.OpEditEntry{Entry: 50, Fields: []edit.FieldChange{{Field: edit.FieldLabel}}}},
		{set(2, edit.FieldListed), set(4, edit.FieldListed)},
		{set(4, edit.FieldListed)},
		{edit.OpMove{Page: 5, To: edit.Place{Parent: 6}}},
	}
	for page, want := range map[site.PageID][]int{
		91: {0, 2, 3},
		90: {0, 2, 3},
		3:  {4, 5, 6},
		2:  {1, 7, 8},
		4:  {7, 8}, // the label of another page stays
		5:  {9},
		6:  nil,
		77: nil,
	} {
		assert.Equal(t, want, edit.Along(s, steps, page, testkit.Now), "page %d", page)
	}
}

// Whatever goes along can be done first, and what is left can be done with it and without it.
func TestAlongLeavesTwoWholeDrafts(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 12)
		next, draft := site.PageID(1000), s
		var steps [][]edit.Op
		for range rapid.IntRange(1, 8).Draw(t, "steps") {
			if made, settled, err := edit.Apply(draft, testkit.RandomOp(t, draft, &next), testkit.Now); err == nil {
				draft, steps = made, append(steps, []edit.Op{settled})
			}
		}
		if len(steps) == 0 {
			return
		}
		page := rapid.SampledFrom(steps).Draw(t, "of")[0].Subject()
		along := edit.Along(s, steps, page, testkit.Now)
		if len(along) == 0 {
			t.Fatalf("the step about page %d does not go with it", page)
		}
		var apart, rest []edit.Op
		for i, step := range steps {
			if slices.Contains(along, i) {
				apart = append(apart, step...)
			} else {
				rest = append(rest, step...)
			}
		}
		for _, halves := range [][][]edit.Op{{apart, rest}, {rest, nil}} {
			first, _, held := rebase(s, halves[0], testkit.Now)
			_, _, more := rebase(first, halves[1], testkit.Now)
			for _, h := range append(held, more...) {
				t.Fatalf("%d: %v\n%#v\napart %#v\nrest %#v", page, h.Why, h.Op, apart, rest)
			}
		}
	})
}
