package sheet_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/formats/sheet"
)

// Every field that is said to be in the sheet goes out and comes back, and what is not said to be stays out.
func TestEveryFieldOfTheSheetSurvives(t *testing.T) {
	for _, field := range edit.Fields()["page"] {
		if field == edit.FieldBytes {
			continue // files have no row
		}
		if field == edit.FieldLeadsTo {
			assert.NotContains(t, sheet.Columns(testkit.Empty()), string(field), "of pages in the bin, which have no row")
			continue
		}
		const topics = "  Places | kind=topic-list\n    Øyra | kind=topic\n    The Calf | kind=topic"
		b := testkit.Outline(t, "Home\n  Sailings\n    Fares\n  Gone\n"+topics).Builder()
		b.SetKinds([]site.Kind{{Key: "page", Name: "Page"}, {Key: "notice", Name: "Notice"}})
		s, value := b.Site(), testkit.Examples()["page"][field]
		page := site.PageID(3)
		if field == edit.FieldOtherLabels || field == edit.FieldHiddenLabels || field == edit.FieldMergedInto {
			page = 6 // only topics have them
		}
		was := edit.Value(s.Page(page), field)
		set := edit.OpEdit{Page: page, Fields: []edit.FieldChange{{Field: field, Old: was, New: value}}}
		changed, _, err := edit.Apply(s, set, testkit.Now)
		require.NoError(t, err, field)
		came := read(t, s, export(t, changed)).Page(page)
		want := was
		for _, in := range edit.PageFields(edit.InSheet) {
			if in == field {
				want = value
			}
		}
		assert.Equal(t, want, edit.Value(came, field), field)
	}
}
