package site_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/ask"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// A file is used by whatever shows or links it, while that is in the tree; the question finds the others.
func TestFilesThatNothingUses(t *testing.T) {
	plain := testkit.Outline(t, "Home\n  Sailings\n  Fares")
	apply := func(s *site.Site, ops ...edit.Op) *site.Site {
		next, _, err := edit.ApplyAll(s, ops, testkit.Now)
		require.NoError(t, err)
		return next
	}
	plain.Texts().Know("linked", []site.PageID{21})
	above, place := edit.FilesPlace(plain, 20)
	s := apply(plain, append(above, edit.MakeFile(21, place, "Rates", "rates.pdf", testkit.Bytes("rates")))...)
	unused := func(s *site.Site) int {
		return len(ask.Find(s, ask.Query{Question: "unused"}, reach.Lens{At: testkit.Now}))
	}
	assert.Equal(t, 1, unused(s))
	linked := apply(s, edit.OpEdit{Page: 2, Fields: []edit.FieldChange{{Field: edit.FieldText, New: "linked"}}})
	assert.Equal(t, 0, unused(linked))
	assert.Equal(t, 1, unused(apply(linked, edit.OpBin{Page: 2})), "a page in the bin shows nothing")
	block := edit.OpMakeBlock{Block: 9, Fields: map[edit.Field]string{
		edit.FieldName: "Quay", edit.FieldPiece: "text:linked",
	}}
	assert.Equal(t, 0, unused(apply(s, block)))
	item := edit.OpMakeMenu{Menu: 5, Name: "Papers", Entries: []edit.EntryForm{{ID: 51, Fields: map[edit.Field]string{
		edit.FieldShows: "page:21", edit.FieldLabel: "Rates",
	}}}}
	assert.Equal(t, 0, unused(apply(s, item)))
}
