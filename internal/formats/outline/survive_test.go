package outline_test

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/formats/outline"
)

// Every field of an item goes out and comes back, in both formats.
func TestEveryFieldOfAnItemSurvives(t *testing.T) {
	for _, field := range edit.EntryFields() {
		s := testkit.Outline(t, "Home\n  Sailings")
		changes := []edit.FieldChange{{Field: edit.FieldLabel, New: "Named"}}
		if value := testkit.Examples()["item"][field]; field != edit.FieldLabel {
			old := edit.EntryValue(s.Menu(1).Entry(1), field)
			changes = append(changes, edit.FieldChange{Field: field, Old: old, New: value})
		}
		s, _, err := edit.Apply(s, edit.OpEditEntry{Menu: 1, Entry: 1, Fields: changes}, testkit.Now)
		require.NoError(t, err, field)
		want := edit.EntryValue(s.Menu(1).Entry(1), field)
		for format, write := range map[string]func(*bytes.Buffer) error{
			"opml": func(out *bytes.Buffer) error {
				return outline.WriteOPML(out, outline.Of(s, s.Menu(1), origin), testkit.Now)
			},
			"json": func(out *bytes.Buffer) error {
				return outline.WriteJSON(out, []outline.Menu{outline.Of(s, s.Menu(1), origin)})
			},
		} {
			var out bytes.Buffer
			require.NoError(t, write(&out))
			menus, err := outline.Read(out.Bytes())
			require.NoError(t, err)
			forms, err := menus[0].Forms(s, origin, []site.EntryID{9}, testkit.Now)
			require.NoError(t, err, field)
			assert.Equal(t, want, forms[0].Fields[field], "%s in %s", field, format)
		}
	}
}
