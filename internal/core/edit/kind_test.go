package edit_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// typed is a site with page types that ask for details, and a page that has some.
func typed(t testing.TB) *site.Site {
	b := testkit.Outline(t, "Home\n  Pier | kind=harbour\n  Office").Builder()
	b.SetKinds([]site.Kind{
		{Key: "page", Name: "Page"}, {Key: "harbour", Name: "Harbour"}, {Key: "notice", Name: "Notice"},
	})
	b.SetDetails([]site.Detail{
		{Key: "harbour.depth", Label: "Depth", Type: site.DetailNumber, Rank: "a0", Shows: site.DetailBoth},
		{
			Key: "harbour.fuel", Label: "Fuel", Type: site.DetailChoice, Choices: "diesel\npetrol", Rank: "a1",
			Shows: site.DetailBoth,
		},
		{Key: "notice.until", Label: "Until", Type: site.DetailDate, Rank: "a0", Shows: site.DetailBoth},
	})
	p := *b.Peek().Page(2)
	p.Values = site.ValuesOf(map[string]string{"harbour.depth": "4.5", "harbour.fuel": "petrol"})
	b.Put(&p)
	return b.Site()
}

func setting(page site.PageID, field edit.Field, old, is string) edit.Op {
	return edit.OpEdit{Page: page, Fields: []edit.FieldChange{{Field: field, Old: old, New: is}}}
}

// randomTypeOp draws an operation on page types, details or values; it may be refused.
func randomTypeOp(t *rapid.T, s *site.Site, next *int) edit.Op {
	*next++
	kind := func() string {
		keys := []string{"harbour", "gone"}
		for _, k := range s.Kinds() {
			keys = append(keys, k.Key)
		}
		return rapid.SampledFrom(keys).Draw(t, "kind")
	}
	key := func() string {
		keys := []string{"harbour.depth", "harbour.fuel", "harbour.gone"}
		for _, d := range s.AllDetails() {
			keys = append(keys, d.Key)
		}
		return rapid.SampledFrom(keys).Draw(t, "detail")
	}
	switch rapid.IntRange(0, 7).Draw(t, "op") {
	case 0:
		return edit.OpMakeKind{
			Kind: fmt.Sprint("made-", *next), After: kind(), Fields: map[edit.Field]string{edit.FieldName: "Made"},
		}
	case 1:
		return edit.OpTakeKind{Was: edit.OpMakeKind{Kind: kind()}}
	case 2:
		k := s.Kind(kind())
		return edit.OpEditKind{Kind: k.Key, Fields: []edit.FieldChange{
			{Field: edit.FieldDateName, Old: k.DateName, New: rapid.SampledFrom([]string{"", "Since"}).Draw(t, "date")},
		}}
	case 3:
		of := rapid.SampledFrom([]string{"line", "number", "choice"}).Draw(t, "type")
		return edit.OpMakeDetail{Detail: fmt.Sprintf("%s.made-%d", kind(), *next), Fields: map[edit.Field]string{
			edit.FieldLabel: "Made", edit.FieldType: of, edit.FieldChoices: "diesel",
		}}
	case 4:
		return edit.OpTakeDetail{Was: edit.OpMakeDetail{Detail: key()}}
	case 5:
		d, k := site.Detail{}, key()
		if there := s.Detail(k); there != nil {
			d = *there
		}
		return edit.OpEditDetail{Detail: k, Fields: []edit.FieldChange{
			{Field: edit.FieldRank, Old: d.Rank, New: rapid.SampledFrom([]string{"a0", "a1", "a1V", "a7"}).Draw(t, "rank")},
		}}
	case 6:
		p := s.Page(rapid.SampledFrom([]site.PageID{2, 3}).Draw(t, "page"))
		return setting(p.ID, edit.FieldKind, p.Kind, kind())
	}
	p, k := s.Page(rapid.SampledFrom([]site.PageID{2, 3}).Draw(t, "page")), key()
	value := rapid.SampledFrom([]string{"", "4.5", "diesel"}).Draw(t, "value")
	return setting(p.ID, edit.DetailField(k), p.Values.Get(k), value)
}

// Whatever is done to page types and their details is undone exactly, step by step back to the beginning; what is
// written as JSON does the same; and the details of a type stand in one order.
func TestPageTypesComeBackAsTheyWere(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		s, next := typed(t), 0
		sites, done := []*site.Site{s}, []edit.Op{}
		for range rapid.IntRange(1, 12).Draw(rt, "edits") {
			made, settled, err := edit.Apply(s, randomTypeOp(rt, s, &next), testkit.Now)
			if err != nil {
				continue
			}
			data, err := edit.Encode(settled)
			require.NoError(rt, err)
			read, err := edit.Decode(data)
			require.NoError(rt, err)
			again, _, err := edit.Apply(s, read, testkit.Now)
			require.NoError(rt, err)
			sameTypes(rt, made, again)
			s = made
			sites, done = append(sites, s), append(done, settled)
			for _, k := range s.Kinds() {
				require.True(rt, slices.IsSortedFunc(s.Details(k.Key), func(a, b site.Detail) int {
					return slices.Compare([]string{a.Rank, a.Key}, []string{b.Rank, b.Key})
				}))
			}
		}
		for i, op := range slices.Backward(done) {
			back, _, err := edit.Apply(s, op.Inverse(), testkit.Now)
			require.NoError(rt, err, "undo %#v", op)
			s = back
			sameTypes(rt, sites[i], s)
		}
	})
}

func sameTypes(t require.TestingT, want, is *site.Site) {
	require.Equal(t, want.Kinds(), is.Kinds())
	require.Equal(t, want.AllDetails(), is.AllDetails())
	for id := site.PageID(1); id <= 3; id++ {
		require.Equal(t, want.Page(id).Values, is.Page(id).Values)
		require.Equal(t, want.Page(id).Kind, is.Page(id).Kind)
	}
}

// A value that another draft's publication has left without its detail is held as a conflict that names it, and so is
// a page of a type that is gone; what was there stays and comes back with the detail.
func TestWhatIsFilledWhileItsDetailGoesIsHeld(t *testing.T) {
	s := typed(t)
	gone, _, err := edit.Apply(s, edit.OpTakeDetail{Was: edit.OpMakeDetail{Detail: "harbour.depth"}}, testkit.Now)
	require.NoError(t, err)
	_, _, err = edit.Apply(gone, setting(2, "harbour.depth", "4.5", "5"), testkit.Now)
	var conflict *edit.Conflict
	require.ErrorAs(t, err, &conflict)
	assert.Equal(t, "The detail “depth” was taken away by somebody else.", conflict.Sentence)
	assert.Equal(t, "4.5", gone.Page(2).Values.Get("harbour.depth"))

	typeless, _, err := edit.Apply(s, edit.OpTakeKind{Was: edit.OpMakeKind{Kind: "notice"}}, testkit.Now)
	require.ErrorContains(t, err, "has details; take them away first")
	require.Same(t, s, typeless)
	bare, _, err := edit.ApplyAll(s, []edit.Op{
		edit.OpTakeDetail{Was: edit.OpMakeDetail{Detail: "notice.until"}},
		edit.OpTakeKind{Was: edit.OpMakeKind{Kind: "notice"}},
	}, testkit.Now)
	require.NoError(t, err)
	_, _, err = edit.Apply(bare, setting(3, edit.FieldKind, "page", "notice"), testkit.Now)
	require.ErrorAs(t, err, &conflict)
	assert.Equal(t, "There is no page type “notice”.", conflict.Sentence)
}

// A page takes values of its own type alone, and only what the type offers; a choice that is offered no more stays
// where it stands.
func TestAPageTakesWhatItsTypeOffers(t *testing.T) {
	s := typed(t)
	for want, op := range map[string]edit.Op{
		"“Until” is a detail of the page type “Notice”; “Pier” is of the type “Harbour”.": setting(2, "notice.until", "",
			"2026-11-24"),
		"“coal” is none of the choices of “Fuel”.": setting(2, "harbour.fuel", "petrol", "coal"),
		"The page type “Harbour” can't go: 1 page is of it, those in the bin included.": edit.OpTakeKind{
			Was: edit.OpMakeKind{Kind: "harbour"},
		},
		"The page type “Page” belongs to the program and stays.": edit.OpTakeKind{Was: edit.OpMakeKind{Kind: "page"}},
	} {
		_, _, err := edit.Apply(s, op, testkit.Now)
		assert.EqualError(t, err, want)
	}
	fewer, _, err := edit.Apply(s, edit.OpEditDetail{Detail: "harbour.fuel", Fields: []edit.FieldChange{
		{Field: edit.FieldChoices, Old: "diesel\npetrol", New: "diesel"},
	}}, testkit.Now)
	require.NoError(t, err)
	assert.Equal(t, "petrol", fewer.Page(2).Values.Get("harbour.fuel"))
	same, _, err := edit.Apply(fewer, setting(2, "harbour.fuel", "petrol", "petrol"), testkit.Now)
	require.NoError(t, err)
	back, _, err := edit.Apply(same, setting(2, "harbour.fuel", "petrol", "diesel"), testkit.Now)
	require.NoError(t, err)
	_, _, err = edit.Apply(back, setting(2, "harbour.fuel", "diesel", "petrol"), testkit.Now)
	assert.EqualError(t, err, "“petrol” is none of the choices of “Fuel”.")
}

// Two who fill different details of one page don't meet; two who fill the same one do.
func TestTwoWhoFillOnePageMeetAtOneDetail(t *testing.T) {
	s := typed(t)
	theirs, _, err := edit.Apply(s, setting(2, "harbour.depth", "4.5", "5"), testkit.Now)
	require.NoError(t, err)
	both, _, err := edit.Apply(theirs, setting(2, "harbour.fuel", "petrol", "diesel"), testkit.Now)
	require.NoError(t, err)
	assert.Equal(t, map[string]string{"harbour.depth": "5", "harbour.fuel": "diesel"}, both.Page(2).Values.All())
	_, _, err = edit.Apply(theirs, setting(2, "harbour.depth", "4.5", "6"), testkit.Now)
	assert.EqualError(t, err, "The depth of “Pier” was changed by somebody else.")
}
