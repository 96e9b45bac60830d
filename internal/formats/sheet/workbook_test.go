package sheet_test

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/formats/sheet"
)

func noIDs(int) ([]site.PageID, error) { return nil, nil }

// A site that went out as a workbook comes back as it was, whatever its words are: nothing is taken for a date or a
// formula. Read by excelize, which is a reader of its own.
func TestAWorkbookComesBackAsItWas(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 8)
		label := rapid.SampledFrom([]string{"=1+1", "2026-11-24", "1/2", "0012", "+47 55", "“x”, y", "Ø\tz"}).
			Draw(t, "label")
		named, _, err := edit.ApplyAll(s, []edit.Op{edit.OpEdit{Page: s.Home(), Fields: []edit.FieldChange{
			{Field: edit.FieldTitle, Old: s.Page(s.Home()).Title, New: label},
		}}}, testkit.Now)
		require.NoError(t, err)
		var book bytes.Buffer
		require.NoError(t, sheet.WriteWorkbook(&book, named, testkit.Now))
		ops, err := sheet.Read(&book, named, testkit.Now, noIDs)
		require.NoError(t, err)
		assert.Empty(t, ops)
	})
}

func TestWorkbooksThatAreNone(t *testing.T) {
	s := testkit.Outline(t, "Home")
	_, err := sheet.Read(strings.NewReader("PK\x03\x04 and no more"), s, testkit.Now, noIDs)
	assert.ErrorContains(t, err, "no workbook that can be read")
	empty := excelize.NewFile()
	var book bytes.Buffer
	require.NoError(t, empty.Write(&book))
	_, err = sheet.Read(&book, s, testkit.Now, noIDs)
	assert.ErrorContains(t, err, "its first line names the columns")
}

// A sheet can bring texts: as HTML or as words, of new pages and of those that are there; an empty cell leaves what
// stands.
func TestASheetBringsTexts(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings\n  Harbours")
	var kept []string
	texts := func(_ *site.Site, raw []string) ([]string, error) {
		kept = raw
		return []string{strings.Repeat("a", 32), strings.Repeat("b", 32)}[:len(raw)], nil
	}
	key := func(id site.PageID) string { return s.Page(id).Key }
	table := "key,parent_key,label,text\n" + key(2) + "," + key(1) + ",Sailings,\"One & two\nmore\n\nThree\"\n" +
		key(3) + "," + key(1) + ",Harbours,\nnew," + key(1) + ",Winter,<h2>Ice</h2>\n"
	ids := func(n int) ([]site.PageID, error) { return []site.PageID{90}[:n], nil }
	ops, err := sheet.Read(strings.NewReader(table), s, testkit.Now, ids, texts)
	require.NoError(t, err)
	assert.Equal(t, []string{"<p>One &amp; two<br>more</p><p>Three</p>", "<h2>Ice</h2>"}, kept)
	next, _, err := edit.ApplyAll(s, ops, testkit.Now)
	require.NoError(t, err)
	assert.Equal(t, strings.Repeat("a", 32), next.Page(2).Text)
	assert.Empty(t, next.Page(3).Text)
	assert.Equal(t, strings.Repeat("b", 32), next.Page(90).Text)
	_, err = sheet.Read(strings.NewReader(table), s, testkit.Now, ids)
	assert.ErrorContains(t, err, "texts can't be taken here")
}
