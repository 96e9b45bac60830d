package edit_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// withFiles is a site with a folder (4), a file in it (5) and a file of a page for the staff (6).
func withFiles(t testing.TB) *site.Site {
	s := testkit.Outline(t, "Home\n  Sailings\n  Staff | audience=staff")
	folder, place := edit.FilesPlace(s, 4)
	ops := append(
		folder,
		edit.MakeFile(5, place, "Chart", "chart.png", testkit.Bytes("chart")),
		edit.MakeFile(6, edit.Place{Parent: 3}, "Rota", "rota.pdf", testkit.Bytes("rota")),
	)
	s, _, err := edit.ApplyAll(s, ops, testkit.Now)
	require.NoError(t, err)
	return s
}

// The address of a file is given once: it leads there wherever the file stands and whatever it is called or holds,
// until it is in the bin. Folders are never reached, and a file is for whom the place is where it stands (rules 12.3).
func TestAFileKeepsItsAddress(t *testing.T) {
	begun := withFiles(t)
	rapid.Check(t, func(t *rapid.T) {
		s, closed := begun, false
		for range rapid.IntRange(1, 6).Draw(t, "edits") {
			op := rapid.SampledFrom([]edit.Op{
				edit.OpMove{Page: 5, To: edit.Place{Parent: rapid.SampledFrom([]site.PageID{2, 3, 4}).Draw(t, "to")}},
				edit.OpEdit{Page: 5, Fields: []edit.FieldChange{
					{
						Field: edit.FieldLabel,
						Old:   s.Page(5).Label,
						New:   rapid.SampledFrom([]string{"A", "B"}).Draw(t, "label"),
					},
				}},
				edit.OpEdit{Page: 5, Fields: []edit.FieldChange{
					{Field: edit.FieldBytes, Old: s.Page(5).Bytes, New: testkit.Bytes("anew").String()},
				}},
			}).Draw(t, "edit")
			next, _, err := edit.Apply(s, op, testkit.Now)
			if err != nil {
				t.Fatalf("%v: %v", op, err)
			}
			s, closed = next, closed || next.Page(5).Parent == 3 // what moves out keeps its audience (rules 2.6)
		}
		out := reach.Lens{At: testkit.Now}
		staff := reach.Lens{Visitor: reach.As(s, []string{"staff"}), At: testkit.Now}
		if found := address.Resolve(s, "/files/chart.png", testkit.Now); found.Page != 5 {
			t.Fatalf("its address leads to %+v", found)
		}
		open := reach.Ask(s, 5, out) == reach.Sees
		if open == closed || reach.Ask(s, 5, staff) != reach.Sees {
			t.Fatalf("below %q it is open to everyone: %v", s.Page(s.Page(5).Parent).Label, open)
		}
		if reach.Ask(s, 4, staff) != reach.NotThere || reach.NewPanel(staff).At(s, 4).Reachable() != 0 {
			t.Fatal("a folder is reached")
		}
	})
}

func TestWhatFilesCantBe(t *testing.T) {
	s := withFiles(t)
	field := func(page site.PageID, of edit.Field, value string) edit.Op {
		return edit.OpEdit{
			Page:   page,
			Fields: []edit.FieldChange{{Field: of, Old: edit.Value(s.Page(page), of), New: value}},
		}
	}
	page := func(parent site.PageID) edit.Op {
		return edit.OpMake{Page: 9, Place: edit.Place{Parent: parent}, Fields: []edit.FieldChange{
			{Field: edit.FieldLabel, New: "Fares"},
		}}
	}
	file := func(name string, holds site.Bytes) edit.Op {
		return edit.MakeFile(9, edit.Place{Parent: 4}, "Other", name, holds)
	}
	for _, one := range []struct {
		op   edit.Op
		says string
	}{
		{page(5), "nothing can stand in it"},
		{page(4), "only files and folders"},
		{edit.OpMove{Page: 2, To: edit.Place{Parent: 4}}, "only files and folders"},
		{field(2, edit.FieldKind, site.KindFile), "files are uploaded"},
		{field(5, edit.FieldKind, "page"), "files are uploaded"},
		{field(5, edit.FieldOwnAddress, "/files/other.png"), "given once"},
		{field(5, edit.FieldOwnAddress, ""), "given once"},
		{field(2, edit.FieldOwnAddress, "/files/sailings.png"), "belong to files"},
		{field(2, edit.FieldBytes, testkit.Bytes("x").String()), "is no file"},
		{field(5, edit.FieldBytes, ""), "has no contents"},
		{field(5, edit.FieldBytes, "abc image/png 1"), "was not kept"},
		{field(5, edit.FieldText, "hash"), "no page that visitors read"},
		{field(4, edit.FieldOwnAddress, "/papers"), "so it has no address"},
		{file("chart.png", testkit.Bytes("other")), "/files/chart.png"},
		{file("../secret", testkit.Bytes("other")), "not an address in its normal form"},
		{edit.OpEditSettings{Fields: []edit.FieldChange{{Field: edit.FieldNotFoundPage, New: "5"}}}, "choose another"},
	} {
		_, _, err := edit.Apply(s, one.op, testkit.Now)
		assert.ErrorContains(t, err, one.says, "%+v", one.op)
	}
	assert.Empty(t, edit.Copying{Selection: []site.PageID{4}, Below: true}.Pages(s), "files are not copied")
	for name, is := range map[string]bool{
		"chart.png": true, "a": true, "rates-2024.tar-gz": true, "": false, "A.png": false, ".png": false, "a/b": false,
		"a..b": false, "a b": false, "-a": false, strings.Repeat("a", 121): false,
	} {
		assert.Equal(t, is, edit.IsFileName(name), name)
	}
}

func TestBytesAreReadAsTheyWereWritten(t *testing.T) {
	picture := testkit.Bytes("pier")
	read, is := site.ReadBytes(picture.String())
	assert.True(t, is)
	assert.Equal(t, picture, read)
	for _, text := range []string{
		"", "abc", picture.Hash + " png 5", picture.Hash + " image/png 0", picture.String() + " x",
		picture.Hash + " image/png 5 0x4", strings.ToUpper(picture.String()), picture.Hash + "  image/png 5",
	} {
		_, is := site.ReadBytes(text)
		assert.False(t, is, text)
	}
}
