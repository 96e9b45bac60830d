package edit_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

func fieldEdit(s *site.Site, page site.PageID, field edit.Field, value string) edit.Op {
	return edit.OpEdit{
		Page:   page,
		Fields: []edit.FieldChange{{Field: field, Old: edit.Value(s.Page(page), field), New: value}},
	}
}

func TestAStepIsOneChange(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Fares\n  Routes\n  Piers\n    North\n    Fares")
	fares, routes, piers, below := site.PageID(2), site.PageID(3), site.PageID(4), site.PageID(6)
	swap := []edit.Op{fieldEdit(s, fares, edit.FieldSegment, "routes"), fieldEdit(s, routes, edit.FieldSegment, "fares")}
	for _, ops := range [][]edit.Op{swap, {swap[1], swap[0]}} {
		next, settled, err := edit.ApplyAll(s, ops, testkit.Now)
		require.NoError(t, err)
		assert.Equal(t, []string{"/routes", "/fares"}, []string{address.Of(next, fares), address.Of(next, routes)})
		back, _, err := edit.ApplyAll(next, []edit.Op{settled[1].Inverse(), settled[0].Inverse()}, testkit.Now)
		require.NoError(t, err, "and back")
		assert.Equal(t, "/fares", address.Of(back, fares))
	}
	_, _, err := edit.ApplyAll(s, swap[:1], testkit.Now)
	assert.ErrorContains(t, err, "“Routes” already has the address /routes; choose another last part for “Fares”.")

	takes := []edit.Op{edit.OpMove{Page: below, To: edit.Place{Parent: 1}}, edit.OpBin{Page: fares}}
	next, _, err := edit.ApplyAll(s, takes, testkit.Now)
	require.NoError(t, err, "a page takes what another leaves later in the step")
	assert.Equal(t, "/fares", address.Of(next, below))
	own := []edit.Op{fieldEdit(s, piers, edit.FieldOwnAddress, "/fares"), fieldEdit(s, fares, edit.FieldSegment, "prices")}
	next, _, err = edit.ApplyAll(s, own, testkit.Now)
	require.NoError(t, err)
	assert.Equal(t, "/fares", address.Of(next, piers))
}

// Two that exchange addresses stand only together: when somebody else has changed one, the other waits for the
// decision.
func TestWhatStandsOnlyTogetherWaitsTogether(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Fares | segment=fares\n  Routes | segment=routes\n  Piers")
	swap := []edit.Op{
		fieldEdit(s, 2, edit.FieldSegment, "routes"),
		fieldEdit(s, 3, edit.FieldSegment, "fares"),
		fieldEdit(s, 4, edit.FieldLabel, "Harbours"),
	}
	theirs, _, err := edit.Apply(
		s,
		edit.OpEdit{Page: 2, Fields: []edit.FieldChange{{Field: edit.FieldOwnAddress, New: "/harbour-fares"}}},
		testkit.Now,
	)
	require.NoError(t, err)
	r := edit.NewRebase(theirs, testkit.Now)
	_, held := r.Add(swap)
	assert.Empty(t, held)

	theirs, _, err = edit.ApplyAll(s, []edit.Op{
		edit.OpMake{Page: 9, Place: edit.Place{Parent: 1}, Fields: []edit.FieldChange{{Field: edit.FieldLabel, New: "Mail"}}},
		fieldEdit(s, 3, edit.FieldSegment, "lines"),
	}, testkit.Now)
	require.NoError(t, err)
	r = edit.NewRebase(theirs, testkit.Now)
	applied, held := r.Add(swap)
	require.Len(t, held, 1, "only the changed one: nothing stands in the way of the other")
	assert.Len(t, applied, 2)

	taken, _, err := edit.ApplyAll(
		s,
		[]edit.Op{fieldEdit(s, 4, edit.FieldSegment, "berths"), fieldEdit(s, 2, edit.FieldSegment, "piers")},
		testkit.Now,
	)
	require.NoError(t, err)
	r = edit.NewRebase(taken, testkit.Now)
	_, held = r.Add(swap)
	require.Len(t, held, 1, "its own conflict")

	stays, _, err := edit.Apply(
		s,
		edit.OpEdit{Page: 2, Fields: []edit.FieldChange{{Field: edit.FieldLabel, Old: "Fares", New: "Prices"}}},
		testkit.Now,
	)
	require.NoError(t, err)
	held = nil
	r = edit.NewRebase(stays, testkit.Now)
	stale := edit.OpEdit{
		Page: 2,
		Fields: []edit.FieldChange{
			{Field: edit.FieldLabel, Old: "Fares", New: "Costs"},
			{Field: edit.FieldSegment, Old: "fares", New: "routes"},
		},
	}
	_, held = r.Add([]edit.Op{stale, swap[1]})
	require.Len(t, held, 2, "the other would have the address that this one keeps")
	var waits *edit.Waits
	assert.ErrorAs(t, held[1].Why, &waits)
}

// namesAt writes where the pages are, without their order.
func namesAt(s *site.Site) string {
	var lines []string
	s.Walk(s.Home(), func(p *site.Page) bool {
		lines = append(lines, fmt.Sprintf("%d %s %s", p.ID, p.Label, address.Of(s, p.ID)))
		return true
	})
	slices.Sort(lines)
	return strings.Join(lines, "\n")
}

// drawChanges draws at most one edit for each of some pages, all of which can stand together but for their addresses.
func drawChanges(t *rapid.T, s *site.Site) []edit.Op {
	var ops []edit.Op
	var leaves, tops []site.PageID
	s.Walk(s.Home(), func(p *site.Page) bool {
		if p.Parent != 0 && len(s.Children(p.ID)) == 0 {
			leaves = append(leaves, p.ID)
		} else {
			tops = append(tops, p.ID)
		}
		return true
	})
	names := rapid.SampledFrom([]string{"Fares", "Winter", "Summer", "Prices", "Files"})
	for i := range rapid.IntRange(1, 3).Draw(t, "makes") {
		ops = append(ops, edit.OpMake{
			Page: site.PageID(500 + i), Place: edit.Place{Parent: rapid.SampledFrom(tops).Draw(t, "in")},
			Fields: []edit.FieldChange{{Field: edit.FieldLabel, New: names.Draw(t, "label")}},
		})
	}
	for _, page := range leaves {
		switch rapid.IntRange(0, 5).Draw(t, "what") {
		case 0:
			ops = append(ops, fieldEdit(s, page, edit.FieldLabel, names.Draw(t, "label")))
		case 1:
			ops = append(
				ops,
				fieldEdit(
					s,
					page,
					edit.FieldSegment,
					rapid.SampledFrom([]string{"fares", "winter", "summer", "~"}).Draw(t, "segment"),
				),
			)
		case 2:
			ops = append(ops, edit.OpMove{Page: page, To: edit.Place{Parent: rapid.SampledFrom(tops).Draw(t, "to")}})
		}
	}
	return ops
}

// What a step makes of addresses, and whether it can be done, does not hang on the order of its edits. Brought up to
// date it is the same, and what a draft derives is the same whether its steps are done one by one or read from its log.
func TestTheOrderOfAStepMakesNoDifference(t *testing.T) {
	done := 0
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 9)
		ops := drawChanges(t, s)
		next, _, err := edit.ApplyAll(s, ops, testkit.Now)
		other, _, otherErr := edit.ApplyAll(s, rapid.Permutation(ops).Draw(t, "order"), testkit.Now)
		require.Equal(t, err == nil, otherErr == nil, "%v, %v", err, otherErr)
		r := edit.NewRebase(s, testkit.Now)
		_, held := r.Add(ops)
		require.Equal(t, err == nil, len(held) == 0, "%v", err)
		clear := map[string]site.PageID{}
		r.Site.Walk(r.Site.Home(), func(p *site.Page) bool {
			at := address.Of(r.Site, p.ID)
			require.Zero(t, clear[at], "what is left when some are held has no clash: %s", at)
			clear[at] = p.ID
			return true
		})
		if err != nil {
			return
		}
		done++
		require.Equal(t, namesAt(next), namesAt(other))
		require.Equal(t, namesAt(next), namesAt(r.Site))
	})
	require.Positive(t, done)
}

func TestADraftDerivesTheSameStepByStepAndFromItsLog(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		base := testkit.Random(t, 9)
		s, log := base, [][]edit.Op(nil)
		for range rapid.IntRange(1, 4).Draw(t, "steps") {
			ops := drawChanges(t, s)
			for i, op := range ops {
				if made, is := op.(edit.OpMake); is {
					made.Page += site.PageID(10 * len(log))
					ops[i] = made
				}
			}
			next, settled, err := edit.ApplyNext(base, s, log, ops, testkit.Now)
			if err == nil {
				s, log = next, append(log, settled)
			}
		}
		r := edit.NewRebase(base, testkit.Now)
		for _, ops := range log {
			_, held := r.Add(ops)
			require.Empty(t, held)
		}
		require.Equal(t, namesAt(s), namesAt(r.Site))
	})
}
