package edit_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// exampleSite has a page, an item, a block with a place, and page types.
func exampleSite(t *testing.T) *site.Site {
	const topics = "  Places | kind=topic-list\n    Øyra | kind=topic\n    The Calf | kind=topic"
	b := testkit.Outline(t, "Home\n  Sailings\n    Fares\n  Gone\n"+topics).Builder()
	b.SetKinds([]site.Kind{{Key: "page", Name: "Page"}, {Key: "notice", Name: "Notice"}})
	b.SetDetails([]site.Detail{{Key: "notice.depth", Label: "Depth", Rank: "a1", Shows: site.DetailBoth}})
	b.SetConditionSets([]site.ConditionSet{{ID: 1, Name: "Sailings", Where: []site.Spot{{Page: 2, Branch: true}}}})
	file := edit.MakeFile(fileOfExamples, edit.Place{Parent: 3}, "Pier", "pier.png", testkit.Bytes("pier"))
	s, _, err := edit.ApplyAll(b.Site(), []edit.Op{edit.OpBin{Page: 4}, file}, testkit.Now)
	require.NoError(t, err)
	return s
}

// fileOfExamples is the page of exampleSite that is a file.
const fileOfExamples = 8

// subject is the page of exampleSite that can have a field.
func subject(of edit.Field) site.PageID {
	switch of {
	case edit.FieldLeadsTo:
		return 4 // only pages in the bin have it
	case edit.FieldOtherLabels, edit.FieldHiddenLabels, edit.FieldMergedInto:
		return 6 // only topics have them
	case edit.FieldBytes:
		return fileOfExamples // only files have it
	}
	return 3
}

// thing is how one of a family is edited and read.
type thing struct {
	set  func([]edit.FieldChange) edit.Op
	read func(*site.Site, edit.Field) string
}

func things() map[string]thing {
	return map[string]thing{
		"page": {
			func(c []edit.FieldChange) edit.Op { return edit.OpEdit{Page: subject(c[0].Field), Fields: c} },
			func(s *site.Site, f edit.Field) string { return edit.Value(s.Page(subject(f)), f) },
		},
		"item": {
			func(c []edit.FieldChange) edit.Op { return edit.OpEditEntry{Menu: 1, Entry: 1, Fields: c} },
			func(s *site.Site, f edit.Field) string { return edit.EntryValue(s.Menu(1).Entry(1), f) },
		},
		"menu": {
			func(c []edit.FieldChange) edit.Op { return edit.OpEditMenu{Menu: 1, Fields: c} },
			func(s *site.Site, f edit.Field) string { return edit.MenuValue(s.Menu(1), f) },
		},
		"block": {
			func(c []edit.FieldChange) edit.Op { return edit.OpEditBlock{Block: testkit.Side, Fields: c} },
			func(s *site.Site, f edit.Field) string { return edit.BlockValue(s.Block(testkit.Side), f) },
		},
		"place": {
			func(c []edit.FieldChange) edit.Op {
				return edit.OpEditPlacement{Placement: site.PlacementID(testkit.Side), Fields: c}
			},
			func(s *site.Site, f edit.Field) string {
				return edit.PlacementValue(s.Placement(site.PlacementID(testkit.Side)), f)
			},
		},
		"set": {
			func(c []edit.FieldChange) edit.Op { return edit.OpEditSet{Set: 1, Fields: c} },
			func(s *site.Site, f edit.Field) string { return edit.SetValue(s.ConditionSet(1), f) },
		},
		"settings": {
			func(c []edit.FieldChange) edit.Op { return edit.OpEditSettings{Fields: c} },
			func(s *site.Site, f edit.Field) string { return edit.SettingValue(s.Settings(), f) },
		},
		"kind": {
			func(c []edit.FieldChange) edit.Op { return edit.OpEditKind{Kind: "notice", Fields: c} },
			func(s *site.Site, f edit.Field) string { kind := s.Kind("notice"); return edit.KindValue(&kind, f) },
		},
		"role": {
			func(c []edit.FieldChange) edit.Op { return edit.OpEditRole{Role: "masters", Fields: c} },
			func(s *site.Site, f edit.Field) string { return edit.RoleValue(s.Role("masters"), f) },
		},
		"detail": {
			func(c []edit.FieldChange) edit.Op { return edit.OpEditDetail{Detail: "notice.depth", Fields: c} },
			func(s *site.Site, f edit.Field) string { return edit.DetailValue(s.Detail("notice.depth"), f) },
		},
	}
}

// Every field of everything is set, written as JSON and read again, done on what it was, and undone; who changed it
// meanwhile is met with a conflict that names the field, and can be overruled.
func TestEveryFieldSurvives(t *testing.T) {
	s, examples := exampleSite(t), testkit.Examples()
	for family, fields := range edit.Fields() {
		of, known := things()[family]
		require.True(t, known, "say how a %s is edited", family)
		for _, field := range fields {
			value, given := examples[family][field]
			require.True(t, given, "give an example of the %s of a %s", field, family)
			was := of.read(s, field)
			require.NotEqual(t, was, value, "%s of a %s", field, family)
			label := []edit.FieldChange{{Field: edit.FieldLabel, Old: "", New: "Named"}}
			fields := []edit.FieldChange{{Field: field, Old: was, New: value}}
			if field == edit.FieldShows { // what leads to no page needs a label
				fields = append(label, fields...)
			}
			made, settled, err := edit.Apply(s, of.set(fields), testkit.Now)
			require.NoError(t, err, "%s of a %s", field, family)
			assert.Equal(t, value, of.read(made, field), "%s of a %s", field, family)

			text, err := edit.Encode(settled)
			require.NoError(t, err)
			read, err := edit.Decode(text)
			require.NoError(t, err)
			assert.Equal(t, settled, read)
			again, _, err := edit.Apply(s, read, testkit.Now)
			require.NoError(t, err)
			assert.Equal(t, value, of.read(again, field))

			if field == edit.FieldType {
				continue // it is said once, as the detail is made
			}
			back, _, err := edit.Apply(made, settled.Inverse(), testkit.Now)
			require.NoError(t, err)
			assert.Equal(t, was, of.read(back, field), "undone: %s of a %s", field, family)

			stale := of.set([]edit.FieldChange{{Field: field, Old: "what nobody sees", New: value}})
			_, _, err = edit.Apply(s, stale, testkit.Now)
			var conflict *edit.Conflict
			ofSet := family == "role" && field != edit.FieldName
			if field == edit.FieldShows || edit.IsSet(field) || ofSet {
				continue // who sets it anew has seen nothing of what it was; two who add to a set don't meet
			}
			require.ErrorAs(t, err, &conflict, "%s of a %s", field, family)
			assert.Equal(t, field, conflict.Field)
			insisted, err := edit.Insist(s, stale, 1)
			require.NoError(t, err)
			made, _, err = edit.Apply(s, insisted, testkit.Now)
			require.NoError(t, err)
			assert.Equal(t, value, of.read(made, field), "insisted: %s of a %s", field, family)
		}
	}
}

// A copy keeps exactly the fields that are said to be copied.
func TestACopyKeepsWhatIsCopied(t *testing.T) {
	for _, field := range edit.Fields()["page"] {
		if field == edit.FieldLeadsTo || field == edit.FieldSegment || field == edit.FieldBytes {
			continue // of pages in the bin; made anew among its siblings; files are not copied
		}
		s, value, page := exampleSite(t), testkit.Examples()["page"][field], subject(field)
		s, _, err := edit.Apply(s, edit.OpEdit{Page: page, Fields: []edit.FieldChange{
			{Field: field, Old: edit.Value(s.Page(page), field), New: value},
		}}, testkit.Now)
		require.NoError(t, err, field)
		to := map[site.PageID]site.PageID{3: 1, 6: 5}[page]
		copying := edit.Copying{Selection: []site.PageID{page}, To: edit.Place{Parent: to}}
		ops := copying.Ops(s, map[site.PageID]site.PageID{page: 90}, func(p *site.Page) string { return p.Text })
		made, _, err := edit.ApplyAll(s, ops, testkit.Now)
		require.NoError(t, err, field)
		want := edit.UnsetValue(field)
		if copied := edit.PageFields(edit.Copied); slices.Contains(copied, field) {
			want = value
		}
		if field != edit.FieldStatus { // which is offline, as the example
			assert.Equal(t, want, edit.Value(made.Page(90), field), field)
		}
	}
}

// Emptying the bin takes exactly what is said to be purged.
func TestPurgingTakesWhatIsPurged(t *testing.T) {
	for _, field := range edit.Fields()["page"] {
		s, page := exampleSite(t), subject(field)
		value := testkit.Examples()["page"][field]
		s, _, err := edit.Apply(s, edit.OpEdit{Page: page, Fields: []edit.FieldChange{
			{Field: field, Old: edit.Value(s.Page(page), field), New: value},
		}}, testkit.Now)
		require.NoError(t, err, field)
		if field != edit.FieldLeadsTo {
			s, _, err = edit.Apply(s, edit.OpBin{Page: page}, testkit.Now)
			require.NoError(t, err)
		}
		purged, err := edit.Purge(s, []site.PageID{page}, testkit.Now.AddDate(1, 0, 0))
		require.NoError(t, err)
		is := edit.Value(purged.Page(page), field)
		switch {
		case field == edit.FieldLabel:
			assert.Equal(t, "Purged page 3", is)
		case slices.Contains(edit.PageFields(edit.Purged), field):
			assert.Equal(t, edit.UnsetValue(field), is, field)
		default:
			assert.Equal(t, value, is, field)
		}
	}
}
