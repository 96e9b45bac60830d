package edit_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/piece"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// FuzzOperations: what is no operation is refused, and what is one is written and read as the same, and applied or
// refused in words.
func FuzzOperations(f *testing.F) {
	s := testkit.Outline(f, "Home\n  Sailings\n    Fares\n  Contact")
	for _, op := range []edit.Op{
		edit.OpEdit{Page: 2, Fields: []edit.FieldChange{{Field: edit.FieldLabel, Old: "Sailings", New: "Boats"}}},
		edit.OpMove{Page: 3, To: edit.Place{Parent: 1}},
		edit.OpBin{Page: 2},
		edit.OpOrder{Page: 1, Children: []site.PageID{4, 2}},
		edit.OpMakeBlock{Block: 9, Fields: map[edit.Field]string{edit.FieldName: "B", edit.FieldPiece: "name"}},
		edit.OpEditSettings{Fields: []edit.FieldChange{{Field: edit.FieldZone, Old: "UTC", New: "Europe/Oslo"}}},
		edit.OpMakeMenu{
			Menu: 4, Key: "more", Name: "More",
			Entries: []edit.EntryForm{{ID: 8, Fields: map[edit.Field]string{edit.FieldShows: "page:2"}}},
		},
	} {
		data, err := edit.Encode(op)
		require.NoError(f, err)
		f.Add(string(data))
	}
	f.Add(`{"op":"edit","v":1,"with":{"page":2,"fields":null}}`)
	f.Add(`{"op":"put-entries","v":1,"with":{"gap":{"menu":1},"entries":[]}}`)
	f.Fuzz(func(t *testing.T, data string) {
		op, err := edit.Decode([]byte(data))
		if err != nil {
			return
		}
		written, err := edit.Encode(op)
		require.NoError(t, err)
		again, err := edit.Decode(written)
		require.NoError(t, err)
		assert.Equal(t, op, again)
		next, settled, err := edit.Apply(s, op, testkit.Now)
		if err != nil {
			assert.NotEmpty(t, err.Error())
			return
		}
		back, _, err := edit.Apply(next, settled.Inverse(), testkit.Now)
		require.NoError(t, err, "what was done can be undone")
		assert.Equal(t, s.Count(), back.Count())
	})
}

// FuzzPieces: what a block shows is read and written as the same.
func FuzzPieces(f *testing.F) {
	s := testkit.Outline(f, "Home\n  Sailings")
	for _, seed := range []string{
		"name", "account", "breadcrumb", "children", "text:abc", "image:pier.jpg:The pier: old",
		"menu:1:2:0:trail:0:trail", "menu:1:1:1:whole:0:all", "menu:1:1:1:entry:2:all",
	} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, written string) {
		shows, err := piece.Parse(s, written)
		if err != nil {
			return
		}
		again, err := piece.Parse(s, piece.Text(shows))
		require.NoError(t, err)
		assert.Equal(t, shows, again)
	})
}

// FuzzSegments: whatever a label is, the segment that is made of it is one that may be typed, or there is none.
func FuzzSegments(f *testing.F) {
	for _, seed := range []string{"Fares", "R&D", "Öyra — the isle", "日本", "a_b", "...", "ﬀ", "É", "\u202eabc"} {
		f.Add(seed)
	}
	s := testkit.Outline(f, "Home")
	f.Fuzz(func(t *testing.T, label string) {
		next, _, err := edit.Apply(
			s,
			edit.OpMake{
				Page:   9,
				Place:  edit.Place{Parent: 1},
				Fields: []edit.FieldChange{{Field: edit.FieldLabel, New: label}},
			},
			testkit.Now,
		)
		if err != nil {
			return
		}
		next = edit.Settle(s, next, testkit.Now)
		segment := next.Page(9).Segment
		require.NotEmpty(t, segment)
		_, _, err = edit.Apply(
			next,
			edit.OpEdit{
				Page: 9,
				Fields: []edit.FieldChange{
					{
						Field: edit.FieldSegment,
						Old:   edit.Value(next.Page(9), edit.FieldSegment),
						New:   "x" + segment[1:],
					},
				},
			},
			testkit.Now,
		)
		assert.NoError(t, err, "%q", segment)
	})
}
