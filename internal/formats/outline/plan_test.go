package outline_test

import (
	"bytes"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/formats/outline"
)

// fresh gives numbers that no item has.
func fresh(n int) []site.EntryID {
	ids := make([]site.EntryID, n)
	for i := range ids {
		ids[i] = site.EntryID(10_000 + i)
	}
	return ids
}

// read writes a menu down in a format and reads it again.
func read(t *rapid.T, s *site.Site, m *site.Menu, opml bool) (outline.Menu, []edit.EntryForm) {
	var out bytes.Buffer
	if opml {
		require.NoError(t, outline.WriteOPML(&out, outline.Of(s, m, origin), testkit.Now))
	} else {
		require.NoError(t, outline.WriteJSON(&out, []outline.Menu{outline.Of(s, m, origin)}))
	}
	menus, err := outline.Read(out.Bytes())
	require.NoError(t, err)
	forms, err := menus[0].Forms(s, origin, fresh(menus[0].Count()), testkit.Now)
	if err != nil {
		t.Skip("an item leads to a page in the bin")
	}
	return menus[0], forms
}

// What was exported changes nothing where it comes from, and brings any other menu to what it says.
func TestAnOutlineBringsAMenuToWhatItSays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s, _ := testkit.RandomFurnished(t, 12)
		menus := s.Menus()
		from := &menus[rapid.IntRange(0, len(menus)-1).Draw(t, "from")]
		opml := rapid.Bool().Draw(t, "opml")
		said, forms := read(t, s, from, opml)
		require.Empty(t, said.Bring(from, forms), "it is as it is")

		to := &menus[rapid.IntRange(0, len(menus)-1).Draw(t, "to")]
		for i := range said.Entries {
			said.Entries[i].Fields[edit.FieldHint] = rapid.SampledFrom([]string{"", "This way"}).Draw(t, "hint")
		}
		forms, err := said.Forms(s, origin, fresh(said.Count()), testkit.Now)
		require.NoError(t, err)
		next, _, err := edit.ApplyAll(s, said.Bring(to, forms), testkit.Now)
		if err != nil {
			return // a block starts from an item that goes, or it is public in two menus: told as any edit is
		}
		is := outline.Of(next, next.Menu(to.ID), origin)
		want, got := entries(t, said.Entries), entries(t, is.Entries)
		require.Equal(t, want, got)
	})
}

// entries writes entries down without what an empty value may be left out of.
func entries(t *rapid.T, all []outline.Entry) string {
	for i := range all {
		for field, value := range all[i].Fields {
			if value == edit.EntryValue(&site.Entry{}, field) {
				delete(all[i].Fields, field)
			}
		}
	}
	var out bytes.Buffer
	require.NoError(t, outline.WriteJSON(&out, []outline.Menu{{Entries: all}}))
	return out.String()
}
