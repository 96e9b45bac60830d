package address_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// Source: RFC 3986 §5.2.4, the two worked examples; from memory.
func TestRemoveDotsWorkedExamples(t *testing.T) {
	assert.Equal(t, "/a/g", address.RemoveDots("/a/b/c/./../../g"))
	assert.Equal(t, "mid/6", address.RemoveDots("mid/content=5/../6"))
}

// Source: RFC 3986 §5.4.1 and §5.4.2, the references that have a path, merged with the base path "/b/c/d;p" as §5.2.3
// says; from memory.
func TestRemoveDotsReferenceTable(t *testing.T) {
	for reference, want := range map[string]string{
		"g": "/b/c/g", "./g": "/b/c/g", "g/": "/b/c/g/", "/g": "/g", ";x": "/b/c/;x", "g;x": "/b/c/g;x",
		".": "/b/c/", "./": "/b/c/", "..": "/b/", "../": "/b/", "../g": "/b/g", "../..": "/", "../../": "/", "../../g": "/g",
		"../../../g": "/g", "../../../../g": "/g", "/./g": "/g", "/../g": "/g", "g.": "/b/c/g.", ".g": "/b/c/.g",
		"g..": "/b/c/g..", "..g": "/b/c/..g", "./../g": "/b/g", "./g/.": "/b/c/g/", "g/./h": "/b/c/g/h", "g/../h": "/b/c/h",
		"g;x=1/./y": "/b/c/g;x=1/y", "g;x=1/../y": "/b/c/y",
	} {
		merged := reference
		if !strings.HasPrefix(reference, "/") {
			merged = "/b/c/" + reference
		}
		assert.Equal(t, want, address.RemoveDots(merged), reference)
		normal, err := address.Normal(merged)
		require.NoError(t, err)
		same, err := address.Normal(want)
		require.NoError(t, err)
		assert.Equal(t, same, normal, reference)
	}
}

func TestNormalForm(t *testing.T) {
	for given, want := range map[string]string{
		// Source: RFC 3986 §6.2.2, "example://a/b/c/%7Bfoo%7D" and "eXAMPLE://a/./b/../b/%63/%7bfoo%7d" are equivalent;
		// from memory.
		"/b/c/%7Bfoo%7D": "/b/c/%7Bfoo%7D", "/./b/../b/%63/%7bfoo%7d": "/b/c/%7Bfoo%7D",
		// Our own rules.
		"": "/", "/": "/", "//": "/", "/Sailings/": "/sailings", "/a//b": "/a/b", "/a%2Fb": "/a%2Fb", "/a%2fb": "/a%2Fb",
		"/%41": "/a", "/%7Euser": "/~user", "/a/%2E%2E/b": "/b", "/%C3%B8yra": "/%C3%B8yra",
	} {
		normal, err := address.Normal(given)
		require.NoError(t, err, given)
		assert.Equal(t, want, normal, given)
	}
	for _, broken := range []string{"/%", "/%4", "/%zz"} {
		_, err := address.Normal(broken)
		assert.ErrorIs(t, err, address.ErrEscape, broken)
	}
}

func FuzzNormalIsIdempotent(f *testing.F) {
	for _, seed := range []string{"/a/../b", "/%2e%2E/x", "//a//", "/%25%32%65"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, path string) {
		once, err := address.Normal(path)
		if err != nil {
			return
		}
		twice, err := address.Normal(once)
		require.NoError(t, err)
		require.Equal(t, once, twice)
		require.True(t, strings.HasPrefix(once, "/"))
	})
}

func TestSegmentFromLabel(t *testing.T) {
	for label, want := range map[string]string{
		"Winter timetable": "winter-timetable", "Øyra & Åsgarth": "oyra-and-asgarth", "St Brannoc": "st-brannoc",
		"!!!": "page", "": "page", "🚢": "page", "<b>Bold</b>": "b-bold-b", "  Fares  ": "fares",
		strings.Repeat("harbour ", 20): strings.TrimSuffix(strings.Repeat("harbour-", 10), "-"),
	} {
		assert.Equal(t, want, address.Segment(label), label)
	}
	assert.Len(t, address.Segment(strings.Repeat("x", 10_000)), address.SegmentLimit)
	assert.True(t, address.ValidSegment(address.Segment("مرفأ الجزر")), "a right-to-left label is transliterated")
}

func TestSegmentsAreFreeAmongSiblings(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Fares\n  Fares\n  Fares\n  Assets")
	var segments []string
	for _, id := range s.Children(1) {
		segments = append(segments, s.Page(id).Segment)
	}
	assert.Equal(t, []string{"fares", "fares-2", "fares-3", "assets-2"}, segments, "“/assets” is reserved")
}

func TestResolve(t *testing.T) {
	s := testkit.Outline(t, `
Home
  Sailings
    Winter | own_address=/winter
      Fares
  Harbours | short_addresses=/h`)
	for path, label := range map[string]string{
		"/": "Home", "/sailings": "Sailings", "/winter": "Winter",
		"/winter/fares": "Fares", "/harbours": "Harbours",
	} {
		found := address.Resolve(s, path, testkit.Now)
		require.NotZero(t, found.Page, path)
		assert.Equal(t, label, s.Page(found.Page).Label)
		assert.Equal(t, path, address.Of(s, found.Page))
		assert.False(t, found.Short)
	}
	for _, path := range []string{"/sailings/winter", "/sailings/winter/fares", "/fares", "/h/x"} {
		assert.Zero(t, address.Resolve(s, path, testkit.Now).Page, path)
	}
	assert.Equal(
		t,
		address.Found{Page: testkit.Find(t, s, "Harbours"), Short: true},
		address.Resolve(s, "/h", testkit.Now),
	)
}

func TestClashesAreRefusedAndNameBothPages(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings\n    Winter\n  Harbours\n    Piers")
	set := func(label string, field edit.Field, value string) error {
		id := testkit.Find(t, s, label)
		_, _, err := edit.Apply(
			s,
			edit.OpEdit{
				Page:   id,
				Fields: []edit.FieldChange{{Field: field, Old: edit.Value(s.Page(id), field), New: value}},
			},
			testkit.Now,
		)
		return err
	}
	for _, c := range []struct{ label, field, value, says string }{
		{"Winter", "own_address", "/harbours", "“Winter” and “Harbours”"},
		{"Sailings", "own_address", "/harbours/piers", "“Sailings” and “Piers”"},
		{"Harbours", "short_addresses", "/sailings/winter", "“Harbours” and “Winter”"},
		{"Harbours", "segment", "sailings", "“Sailings” already has the address /sailings"},
		{"Harbours", "segment", "files", "belong to the program"},
		{"Harbours", "own_address", "/feeds/x", "belong to the program"},
		{"Harbours", "own_address", "/A", "normal form"},
	} {
		assert.ErrorContains(t, set(c.label, edit.Field(c.field), c.value), c.says)
	}
	assert.NoError(t, set("Winter", "own_address", "/winter"))
}

func TestEveryAddressIsUniqueAndLeadsBack(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 30)
		next := site.PageID(1000)
		for range rapid.IntRange(0, 15).Draw(t, "ops") {
			if made, _, err := edit.Apply(s, testkit.RandomOp(t, s, &next), testkit.Now); err == nil {
				s = made
			}
		}
		s.Walk(s.Home(), func(p *site.Page) bool {
			if got := address.Resolve(s, address.Of(s, p.ID), testkit.Now); got.Page != p.ID || got.Short {
				t.Fatalf("%s leads to %d, not %d", address.Of(s, p.ID), got.Page, p.ID)
			}
			return true
		})
	})
}

// Whatever a label says, its segment is one that could be typed, and so is each numbered one.
func TestGeneratedSegmentsAreValid(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		label := rapid.OneOf(rapid.String(), rapid.StringMatching(`[A-Za-z_&@ØÅß ./'-]{1,120}`)).Draw(t, "label")
		made := address.Segment(label)
		if !address.ValidSegment(made) {
			t.Fatalf("%q gives %q", label, made)
		}
		numbered := address.Suffixed(made, rapid.IntRange(2, 100_000).Draw(t, "n"))
		if !address.ValidSegment(numbered) {
			t.Fatalf("%q gives %q", label, numbered)
		}
	})
	for label, want := range map[string]string{
		"R&D": "r-d", "snake_case": "snake-case", "a@b": "a-b",
		"Fares & times": "fares-and-times",
	} {
		assert.Equal(t, want, address.Segment(label), label)
	}
	assert.Equal(t, "one-2", address.Suffixed("one-"+strings.Repeat("x", 76), 2), "cut at a word's end")
}

func TestADerivedSegmentAvoidsTypedAddresses(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Fares | short_addresses=/harbours\n  Notices | own_address=/quays\n  Sailings")
	for label, want := range map[string]string{"Harbours": "/harbours-2", "Quays": "/quays-2", "Slips": "/slips"} {
		made := edit.OpMake{
			Page:   10,
			Place:  edit.Place{Parent: 1},
			Fields: []edit.FieldChange{{Field: edit.FieldLabel, New: label}},
		}
		next, _, err := edit.Apply(s, made, testkit.Now)
		require.NoError(t, err)
		assert.Equal(t, want, address.Of(next, 10), label)
	}
}
