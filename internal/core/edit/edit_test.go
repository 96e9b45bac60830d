package edit_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

func TestAnOperationAndItsInverseGiveTheSiteBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 25)
		next := site.PageID(1000)
		for range rapid.IntRange(1, 12).Draw(t, "ops") {
			before := testkit.Dump(s)
			made, settled, err := edit.Apply(s, testkit.RandomOp(t, s, &next), testkit.Now)
			if testkit.Dump(s) != before {
				t.Fatal("the Site given has changed")
			}
			if err != nil {
				continue
			}
			checkTree(t, made)
			data, err := edit.Encode(settled)
			require.NoError(t, err)
			decoded, err := edit.Decode(data)
			require.NoError(t, err)
			again, _, err := edit.Apply(s, decoded, testkit.Now)
			require.NoError(t, err, "what the log keeps can be done again")
			require.Equal(t, testkit.Dump(made), testkit.Dump(again))

			back, _, err := edit.Apply(made, settled.Inverse(), testkit.Now)
			require.NoError(t, err, "%#v", settled)
			if _, restored := settled.(edit.OpRestore); !restored { // where the old parent is gone, it comes back elsewhere
				require.Equal(t, ranksAside(s), ranksAside(back), "%#v", settled)
			}
			s = made
		}
	})
}

// ranksAside tells Sites apart by all but ranks: an inverse move names neighbours, so the rank it makes may differ.
func ranksAside(s *site.Site) string {
	var out strings.Builder
	b := s.Builder()
	s.Walk(s.Home(), func(p *site.Page) bool {
		q := *p
		q.Rank = ""
		if q.OwnAddress != "" && q.Segment == "" {
			t := *b.Peek().Page(p.ID)
			q = t
		}
		before, _ := s.Neighbours(p.ID)
		out.WriteString(strings.Join([]string{
			q.Label, q.Segment, edit.Value(&q, edit.FieldAudience), edit.Value(&q, edit.FieldStatus),
			edit.Value(
				&q,
				edit.FieldSegment,
			), edit.Value(&q, edit.FieldOwnAddress), edit.Value(&q, edit.FieldLiveFrom), q.Key,
		}, "|"))
		out.WriteString(" after ")
		if before != 0 {
			out.WriteString(s.Page(before).Key)
		}
		out.WriteString("\n")
		return true
	})
	return out.String()
}

// checkTree holds a Site to the invariants of rules 2: one root, no cycle, order by rank, counts that add up.
func checkTree(t require.TestingT, s *site.Site) {
	seen := 0
	s.Walk(s.Home(), func(p *site.Page) bool {
		seen++
		kids, below := s.Children(p.ID), 0
		for i, kid := range kids {
			require.Equal(t, p.ID, s.Page(kid).Parent)
			below += 1 + s.Below(kid)
			if i > 0 && p.Sort == site.SortManual {
				require.Less(t, s.Page(kids[i-1]).Rank, s.Page(kid).Rank)
			}
		}
		require.Equal(t, below, s.Below(p.ID))
		return true
	})
	require.Equal(t, s.Count(), seen)
	var windowed, binned []site.PageID
	for id := range site.PageID(1100) {
		p := s.Page(id)
		if p != nil && (!p.LiveFrom.IsZero() || !p.LiveUntil.IsZero()) {
			windowed = append(windowed, id)
		}
		if p != nil && p.Binned {
			binned = append(binned, id)
		}
	}
	require.ElementsMatch(t, windowed, s.Windowed())
	require.ElementsMatch(t, binned, s.Binned())
}

func TestOneMoveWritesOneRow(t *testing.T) {
	s := testkit.Outline(t, "Home\n  A\n    A1\n    A2\n  B\n  C\n  D")
	moved, op, err := edit.Apply(
		s,
		edit.OpMove{Page: testkit.Find(t, s, "D"), To: edit.Place{Parent: 1, After: testkit.Find(t, s, "A")}},
		testkit.Now,
	)
	require.NoError(t, err)
	assert.Len(t, site.Changes(s, moved), 1)
	assert.Equal(t, testkit.Find(t, s, "B"), op.(edit.OpMove).To.Before, "the settled place names both neighbours")
	before, after := moved.Neighbours(testkit.Find(t, s, "D"))
	assert.Equal(t, []string{"A", "B"}, []string{moved.Page(before).Label, moved.Page(after).Label})
}

func TestARankThatGrowsTooLongRenumbersItsRunAndNothingElse(t *testing.T) {
	s := testkit.Outline(t, "Home\n  A\n  B\n  C\n    C1")
	a, b, c := testkit.Find(t, s, "A"), testkit.Find(t, s, "B"), testkit.Find(t, s, "C")
	renumbered := false
	for i := range 1000 {
		page, after := b, c
		if i%2 == 1 {
			page, after = c, b
		}
		_ = after
		next, _, err := edit.Apply(s, edit.OpMove{Page: page, To: edit.Place{Parent: 1, After: a}}, testkit.Now)
		require.NoError(t, err)
		checkTree(t, next)
		for _, change := range site.Changes(s, next) {
			require.LessOrEqual(t, len(change.Is.Rank), site.RankLimit)
			renumbered = renumbered || change.Is.ID == a
		}
		s = next
	}
	assert.True(t, renumbered)
}

func TestRefusalsSayWhy(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings\n    Winter\n  Harbours")
	sailings, winter := testkit.Find(t, s, "Sailings"), testkit.Find(t, s, "Winter")
	set := func(page site.PageID, field edit.Field, value string) edit.Op {
		return edit.OpEdit{
			Page:   page,
			Fields: []edit.FieldChange{{Field: field, Old: edit.Value(s.Page(page), field), New: value}},
		}
	}
	for says, op := range map[string]edit.Op{
		"can't move into its own branch: “Winter” lies inside it": edit.OpMove{
			Page: sailings,
			To:   edit.Place{Parent: winter},
		},
		"The home page stays where it is":            edit.OpMove{Page: 1, To: edit.Place{Parent: winter}},
		"The home page can't be put in the bin":      edit.OpBin{Page: 1},
		"always live, listed":                        set(1, edit.FieldStatus, "offline"),
		"A page needs a label":                       set(winter, edit.FieldLabel, " \n "),
		"200 characters at most; this one has 10000": set(winter, edit.FieldLabel, strings.Repeat("x", 10_000)),
		"can hold small letters":                     set(winter, edit.FieldSegment, "Öl & Gas"),
		"There is no role “pirates”":                 set(winter, edit.FieldAudience, "pirates"),
		"is not a date":                              set(winter, edit.FieldLiveFrom, "tomorrow"),
		"not one of the choices":                     set(winter, edit.FieldStatus, "perhaps"),
		"in the bin any more":                        edit.OpRestore{Page: winter},
		"not there any more":                         edit.OpBin{Page: 99},
	} {
		_, _, err := edit.Apply(s, op, testkit.Now)
		assert.ErrorContains(t, err, says)
	}
	_, _, err := edit.Apply(s, edit.OpEdit{Page: winter, Fields: []edit.FieldChange{
		{
			Field: edit.FieldLiveFrom,
			New:   "2026-12-02T00:00:00Z",
		}, {Field: edit.FieldLiveUntil, New: "2026-12-01T00:00:00Z"},
	}}, testkit.Now)
	assert.ErrorContains(t, err, "end before it begins")
}

func TestOddLabelsArePages(t *testing.T) {
	s := testkit.Outline(t, "Home")
	for label, segment := range map[string]string{
		"مرفأ الجزر": "", "🚢⚓": "page", "?!…": "",
		"<script>alert(1)</script>": "script-alert-1-script", "two\nlines\x00": "two-lines",
	} {
		next, _, err := edit.Apply(
			s,
			edit.OpMake{
				Page:   50,
				Place:  edit.Place{Parent: 1},
				Fields: []edit.FieldChange{{Field: edit.FieldLabel, New: label}},
			},
			testkit.Now,
		)
		require.NoError(t, err, label)
		if segment != "" {
			assert.Equal(t, segment, next.Page(50).Segment)
		}
		assert.NotContains(t, next.Page(50).Label, "\n")
	}
}

func TestTheSegmentFollowsTheLabelUntilThePageWasOnline(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Fares\n  Prices | segment=costs\n  Notes | live_from=2027-01-01T00:00:00Z")
	s = edit.Settle(testkit.Outline(t, "Home"), s, testkit.Now.Add(-time.Hour))
	rename := func(s *site.Site, from, to string, now time.Time) *site.Page {
		id := testkit.Find(t, s, from)
		next, _, err := edit.Apply(
			s,
			edit.OpEdit{Page: id, Fields: []edit.FieldChange{{Field: edit.FieldLabel, Old: from, New: to}}},
			now,
		)
		require.NoError(t, err)
		return next.Page(id)
	}
	assert.Equal(t, "fares", rename(s, "Fares", "Tickets", testkit.Now).Segment, "was online: it stays")
	assert.Equal(t, "costs", rename(s, "Prices", "Tickets", testkit.Now).Segment, "typed: it stays")
	assert.Equal(t, "tickets", rename(s, "Notes", "Tickets", testkit.Now).Segment, "not online before 2027: it follows")
	assert.Equal(t, "notes", rename(s, "Notes", "Tickets", time.Date(2027, 2, 1, 0, 0, 0, 0, time.UTC)).Segment)
	assert.Equal(t, "prices", rename(testkit.Outline(t, "Home\n  Fares"), "Fares", "Prices", testkit.Now).Segment)
}

func TestSettleFixesWhenAPageIsFirstOnline(t *testing.T) {
	empty := testkit.Outline(t, "Home")
	s := edit.Settle(empty, testkit.Outline(t, "Home\n  A | status=offline\n    A1\n  B"), testkit.Now)
	a, a1 := testkit.Find(t, s, "A"), testkit.Find(t, s, "A1")
	assert.True(t, s.Page(a1).FirstOnline.IsZero(), "below an offline page nothing is online")
	assert.Equal(t, testkit.Now, s.Page(testkit.Find(t, s, "B")).FirstOnline)
	live, _, err := edit.Apply(
		s,
		edit.OpEdit{Page: a, Fields: []edit.FieldChange{{Field: edit.FieldStatus, Old: "offline", New: "live"}}},
		testkit.Now,
	)
	require.NoError(t, err)
	later := testkit.Now.Add(time.Hour)
	assert.Equal(t, later, edit.Settle(s, live, later).Page(a1).FirstOnline, "the branch comes with it")
}

func TestBinAndRestore(t *testing.T) {
	s := testkit.Outline(t, "Home\n  A\n    A1\n      A2\n  B\n  C")
	apply := func(op edit.Op) {
		next, _, err := edit.Apply(s, op, testkit.Now)
		require.NoError(t, err)
		s = next
	}
	a, a1, b := testkit.Find(t, s, "A"), testkit.Find(t, s, "A1"), testkit.Find(t, s, "B")
	apply(edit.OpBin{Page: b})
	apply(edit.OpRestore{Page: b})
	before, after := s.Neighbours(b)
	assert.Equal(t, []string{"A", "C"}, []string{s.Page(before).Label, s.Page(after).Label}, "back in its old place")
	apply(edit.OpBin{Page: a1})
	apply(edit.OpBin{Page: a})
	assert.ElementsMatch(t, []site.PageID{a, a1}, s.Binned(), "what was binned before stays a bin item of its own")
	assert.Equal(t, 3, s.Count())
	apply(edit.OpRestore{Page: a1})
	assert.Equal(t, site.PageID(1), s.Page(a1).Parent, "under the nearest ancestor that is still there")
	assert.Equal(t, 5, s.Count())
}

func TestSortRulesPinsAndTheOrderByHand(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Box\n    Zorn\n    Alpha\n    Mid\n    Beta\n  Other\n    X")
	box := testkit.Find(t, s, "Box")
	kids := func(s *site.Site) string {
		var labels []string
		for _, id := range s.Children(box) {
			labels = append(labels, s.Page(id).Label)
		}
		return strings.Join(labels, " ")
	}
	do := func(on *site.Site, op edit.Op) (*site.Site, edit.Op) {
		next, settled, err := edit.Apply(on, op, testkit.Now)
		require.NoError(t, err)
		return next, settled
	}
	find := func(label string) site.PageID { return testkit.Find(t, s, label) }
	byLabel, settled := do(
		s,
		edit.OpEdit{Page: box, Fields: []edit.FieldChange{{Field: edit.FieldSort, Old: "manual", New: "label"}}},
	)
	assert.Equal(t, "Alpha Beta Mid Zorn", kids(byLabel))
	back, _ := do(byLabel, settled.Inverse())
	assert.Equal(t, "Zorn Alpha Mid Beta", kids(back), "the hand-made order comes back with undo")

	// Switching to “by hand” keeps the order that stands: the order is written down first.
	byHand, settledAll, err := edit.ApplyAll(byLabel, edit.Sorting(byLabel, box, site.SortManual), testkit.Now)
	require.NoError(t, err)
	order := settledAll[0]
	assert.Equal(t, "Alpha Beta Mid Zorn", kids(byHand))
	again, _ := do(byHand, order.Inverse())
	assert.Equal(t, "Zorn Alpha Mid Beta", kids(again))

	// A drop at an end or among pins pins; between two that the rule orders it is refused, with the offer of “by hand”.
	pinned, move := do(byLabel, edit.OpMove{Page: find("Zorn"), To: edit.Place{Parent: box, Before: find("Alpha")}})
	assert.Equal(t, "Zorn Alpha Beta Mid", kids(pinned))
	assert.Equal(t, site.PinStart, pinned.Page(find("Zorn")).Pin)
	unpinned, _ := do(pinned, move.Inverse())
	assert.Equal(t, "Alpha Beta Mid Zorn", kids(unpinned))
	among, _ := do(
		pinned,
		edit.OpMove{Page: find("Mid"), To: edit.Place{Parent: box, After: find("Zorn"), Before: find("Alpha")}},
	)
	assert.Equal(t, "Zorn Mid Alpha Beta", kids(among))
	_, _, err = edit.Apply(
		pinned,
		edit.OpMove{Page: find("Zorn"), To: edit.Place{Parent: box, After: find("Alpha"), Before: find("Beta")}},
		testkit.Now,
	)
	assert.ErrorContains(t, err, "from A to Z")
	assert.ErrorContains(t, err, "“by hand”")
	last, _ := do(among, edit.OpMove{Page: find("Alpha"), To: edit.Place{Parent: box, After: find("Beta")}})
	assert.Equal(t, "Zorn Mid Beta Alpha", kids(last))
	assert.Equal(t, site.PinEnd, last.Page(find("Alpha")).Pin)

	// A pin belongs to a page and its parent.
	elsewhere, _ := do(last, edit.OpMove{Page: find("Alpha"), To: edit.Place{Parent: find("Other")}})
	assert.Equal(t, site.PinNone, elsewhere.Page(find("Alpha")).Pin)
	into, _ := do(elsewhere, edit.OpMove{Page: find("X"), To: edit.Place{Parent: box}})
	assert.Equal(t, "Zorn Mid Beta X", kids(into), "under a rule it goes where the rule puts it")
}

func TestManyAtOnce(t *testing.T) {
	s := testkit.Outline(t, "Home\n  A\n    A1\n    A2\n  B\n    B1\n  C")
	find := func(label string) site.PageID { return testkit.Find(t, s, label) }
	assert.Equal(
		t,
		[]site.PageID{find("A"), find("B1")},
		edit.Tops(s, []site.PageID{find("B1"), find("A2"), find("A"), 99}),
		"a page whose ancestor is chosen travels with it",
	)
	moved, _, err := edit.ApplyAll(
		s,
		edit.MoveMany(
			s,
			[]site.PageID{find("C"), find("A2"), find("B1")},
			edit.Place{Parent: find("A"), Before: find("A1")},
		),
		testkit.Now,
	)
	require.NoError(t, err)
	var order []string
	for _, id := range moved.Children(find("A")) {
		order = append(order, moved.Page(id).Label)
	}
	assert.Equal(t, "A2 B1 C A1", strings.Join(order, " "), "the tops keep their order")
	assert.Len(
		t,
		edit.SetMany(s, []site.PageID{1, find("A"), find("B")}, edit.FieldStatus, "offline"),
		2,
		"the home page stays live",
	)
	assert.Empty(
		t,
		edit.SetMany(s, []site.PageID{find("A")}, edit.FieldStatus, "live"),
		"what has the value already is left out",
	)
}

func TestCopies(t *testing.T) {
	s := testkit.Outline(
		t,
		"Home\n  A | audience=staff segment=typed own_address=/fixed\n    A1\n    A2 | listed=no\n  B\n    A",
	)
	find := func(label string) site.PageID { return testkit.Find(t, s, label) }
	c := edit.Copying{Selection: []site.PageID{2, 3}, Below: true, To: edit.Place{Parent: find("B")}}
	made := map[site.PageID]site.PageID{}
	for i, id := range c.Pages(s) {
		made[id] = site.PageID(100 + i)
	}
	copied, _, err := edit.ApplyAll(s, c.Ops(s, made, func(p *site.Page) string { return p.Text }), testkit.Now)
	require.NoError(t, err)
	top := copied.Page(100)
	assert.Equal(t, site.StatusOffline, top.Status)
	assert.Equal(t, site.Audience("staff"), top.Audience)
	assert.Empty(t, top.OwnAddress)
	assert.Equal(t, "typed", top.Segment)
	assert.Equal(t, 2, copied.Below(100))
	assert.False(t, copied.Page(102).Listed)
	twice := edit.Copying{Selection: []site.PageID{2}, To: edit.Place{Parent: 1}}
	copied, _, err = edit.ApplyAll(
		copied,
		twice.Ops(copied, map[site.PageID]site.PageID{2: 200}, func(p *site.Page) string { return p.Text }),
		testkit.Now,
	)
	require.NoError(t, err)
	assert.Equal(t, "typed-2", copied.Page(200).Segment, "segments are made unique")
	assert.Zero(t, copied.Below(200), "a single page comes without what is below")
}
