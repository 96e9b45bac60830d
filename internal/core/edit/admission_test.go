package edit_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

func TestMovingNeverOpens(t *testing.T) {
	s := testkit.Outline(
		t,
		"Home\n  Handbook | audience=staff\n    Expenses\n    Open | audience=everyone\n  Masters | audience=masters "+
			"conceal=yes\n    Keys\n  News",
	)
	var handbook, expenses, open, masters, keys, news site.PageID = 2, 3, 4, 5, 6, 7
	move := func(page, into site.PageID) (*site.Site, edit.Op) {
		next, op, err := edit.Apply(s, edit.OpMove{Page: page, To: edit.Place{Parent: into}}, testkit.Now)
		require.NoError(t, err)
		return next, op
	}
	next, op := move(expenses, news)
	assert.Equal(t, site.Audience("staff"), next.Page(expenses).Audience, "it keeps what it had from above")
	assert.Equal(t, site.Audience("staff"), kept(op))
	next, _ = move(expenses, masters)
	assert.Empty(t, next.Page(expenses).Audience, "masters are staff: the new place admits nobody new")
	next, _ = move(keys, handbook)
	assert.Equal(t, site.Audience("masters"), next.Page(keys).Audience, "staff need not be masters")
	assert.True(t, next.Page(keys).Conceal)
	next, _ = move(open, news)
	assert.Equal(t, site.AudienceEveryone, next.Page(open).Audience)
	next, op = move(news, handbook)
	assert.Empty(t, next.Page(news).Audience)
	back, _, err := edit.Apply(next, op.Inverse(), testkit.Now)
	require.NoError(t, err)
	assert.Empty(t, back.Page(news).Audience, "going back gives it what it had")
	closed, _, err := edit.Apply(
		next,
		edit.OpEdit{Page: 1, Fields: []edit.FieldChange{{Field: edit.FieldAudience, New: "signed-in"}}},
		testkit.Now,
	)
	require.NoError(t, err)
	back, _, err = edit.Apply(closed, op.Inverse(), testkit.Now)
	require.NoError(t, err)
	assert.Equal(
		t,
		site.Audience("staff"),
		back.Page(news).Audience,
		"an audience was changed on the path since: it keeps what it has",
	)

	gone, _, err := edit.ApplyAll(
		s,
		[]edit.Op{edit.OpBin{Page: expenses}, edit.OpBin{Page: handbook}, edit.OpRestore{Page: expenses}},
		testkit.Now,
	)
	require.NoError(t, err)
	assert.Equal(t, site.PageID(1), gone.Page(expenses).Parent)
	assert.Equal(t, site.Audience("staff"), gone.Page(expenses).Audience, "restored where its closed parent is gone")
	copying := edit.Copying{Selection: []site.PageID{expenses}, To: edit.Place{Parent: news}}
	ops := copying.Ops(s, map[site.PageID]site.PageID{expenses: 90}, func(*site.Page) string { return "" })
	assert.NotContains(t, rights(s, ops[0]), site.ActionAdmit, "closing needs no right to admit")
	next, _, err = edit.ApplyAll(s, ops, testkit.Now)
	require.NoError(t, err)
	assert.Equal(t, site.Audience("staff"), next.Page(90).Audience)
	assert.Contains(
		t,
		rights(
			s,
			edit.OpMake{
				Page:   91,
				Place:  edit.Place{Parent: handbook},
				Fields: []edit.FieldChange{{Field: edit.FieldAudience, New: "everyone"}},
			},
		),
		site.ActionAdmit,
	)
}

// kept gives the audience that an operation had a page keep; "" for none.
func kept(op edit.Op) site.Audience {
	var changes []edit.FieldChange
	switch o := op.(type) {
	case edit.OpMove:
		changes = o.Keeps
	case edit.OpRestore:
		changes = o.Keeps
	}
	for _, c := range changes {
		if c.Field == edit.FieldAudience {
			return site.Audience(c.New)
		}
	}
	return ""
}

// admitted gives which of all visitors a page admits, by the path on which it stands, in the tree or in the bin.
func admitted(s *site.Site, id site.PageID) []bool {
	var all []bool
	for _, lens := range testkit.Lenses() {
		all = append(all, reach.AdmittedBefore(s, id, lens))
	}
	return all
}

// isWithin says whether everybody in a list is in another.
func isWithin(some, all []bool) bool {
	for i := range some {
		if some[i] && !all[i] {
			return false
		}
	}
	return true
}

// No sequence of operations by somebody who may not admit, done in a draft and brought up to date over what others
// publish, admits anybody to a page who was not admitted.
func TestNobodyIsLetInWithoutTheRight(t *testing.T) {
	moved := 0
	rapid.Check(t, func(t *rapid.T) {
		base := testkit.Random(t, 9)
		s, next := base, site.PageID(500)
		var log [][]edit.Op
		for range rapid.IntRange(1, 6).Draw(t, "steps") {
			op := testkit.RandomOp(t, s, &next)
			if slices.Contains(rights(s, op), site.ActionAdmit) {
				continue
			}
			made, settled, err := edit.ApplyNext(base, s, log, edit.Fresh([]edit.Op{op}), testkit.Now)
			if err != nil {
				continue
			}
			if kept(settled[0]) != "" {
				moved++
			}
			s, log = made, append(log, settled)
		}
		holds := func(from, to *site.Site) {
			for id := site.PageID(1); id <= 9; id++ {
				if from.Page(id) != nil && to.Page(id) != nil {
					require.True(t, isWithin(admitted(to, id), admitted(from, id)), "page %d", id)
				}
			}
		}
		holds(base, s)
		theirs := base
		for range rapid.IntRange(0, 4).Draw(t, "theirs") {
			next += 100
			if made, _, err := edit.Apply(theirs, testkit.RandomOp(t, theirs, &next), testkit.Now); err == nil {
				theirs = made
			}
		}
		r := edit.NewRebase(theirs, testkit.Now)
		for _, ops := range log {
			r.Add(ops) // what can't be done any more is held, and admits nobody
		}
		holds(theirs, r.Site)
	})
	require.Positive(t, moved)
}

// Who may admit can have the new place say who sees a page. That is a choice of what the place says then: where it says
// something else when the move is done again, the move waits.
func TestAMoveCanTakeWhatItsNewPlaceSays(t *testing.T) {
	s := testkit.Outline(
		t,
		"Home\n  Handbook | audience=staff conceal=yes\n    Expenses\n  News\n  Masters | audience=masters",
	)
	expenses, news, masters := site.PageID(3), site.PageID(4), site.PageID(5)
	op := edit.OpMove{Page: expenses, To: edit.Place{Parent: news}, Takes: true}
	assert.Equal(t, []site.Action{site.ActionArrange, site.ActionArrange, site.ActionAdmit}, rights(s, op))
	next, settled, err := edit.Apply(s, op, testkit.Now)
	require.NoError(t, err)
	assert.Empty(t, next.Page(expenses).Audience)
	assert.Equal(t, []bool{true, true, true, true}, admitted(next, expenses), "everyone, as News")
	back, _, err := edit.Apply(next, settled.Inverse(), testkit.Now)
	require.NoError(t, err)
	assert.Equal(t, testkit.Dump(s), testkit.Dump(back), "undone it is as it was")

	theirs, _, err := edit.Apply(
		s,
		edit.OpEdit{Page: news, Fields: []edit.FieldChange{{Field: edit.FieldAudience, New: "signed-in"}}},
		testkit.Now,
	)
	require.NoError(t, err)
	_, _, err = edit.Apply(theirs, settled, testkit.Now)
	var conflict *edit.Conflict
	require.ErrorAs(t, err, &conflict)
	assert.Equal(
		t,
		"Who sees the pages in “News” was changed by somebody else; “Expenses” was to take that over.",
		conflict.Sentence,
	)
	insisted, err := edit.Insist(theirs, settled, 7)
	require.NoError(t, err)
	next, _, err = edit.Apply(theirs, insisted, testkit.Now)
	require.NoError(t, err)
	assert.Empty(t, next.Page(expenses).Audience)
	_, settled, err = edit.Apply(
		s,
		edit.OpMove{Page: expenses, To: edit.Place{Parent: masters}, Takes: true},
		testkit.Now,
	)
	require.NoError(t, err)
	assert.Equal(t, site.Audience("masters"), settled.(edit.OpMove).Chosen.Audience)
}

// What a page keeps is found anew when a draft is brought up to date, and told.
func TestWhatAPageKeepsAnewIsTold(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Handbook | audience=staff\n    Expenses\n  News")
	_, settled, err := edit.Apply(s, edit.OpMove{Page: 3, To: edit.Place{Parent: 4}}, testkit.Now)
	require.NoError(t, err)
	same := edit.NewRebase(s, testkit.Now)
	applied, _ := same.Add([]edit.Op{settled})
	assert.Empty(t, edit.KeptAnew([]edit.Op{settled}, applied))
	theirs, _, err := edit.Apply(
		s,
		edit.OpEdit{Page: 2, Fields: []edit.FieldChange{{Field: edit.FieldAudience, Old: "staff", New: "masters"}}},
		testkit.Now,
	)
	require.NoError(t, err)
	anew := edit.NewRebase(theirs, testkit.Now)
	applied, held := anew.Add([]edit.Op{settled})
	require.Empty(t, held)
	assert.Equal(t, []site.PageID{3}, edit.KeptAnew([]edit.Op{settled}, applied))
	assert.Equal(t, site.Audience("masters"), anew.Site.Page(3).Audience)
}

// rights are those that an operation asks for, on whatever.
func rights(s *site.Site, op edit.Op) []site.Action {
	var actions []site.Action
	for _, need := range op.Needs(s) {
		actions = append(actions, need.Action)
	}
	return actions
}
