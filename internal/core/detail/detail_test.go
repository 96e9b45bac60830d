package detail_test

import (
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/language"
	"golang.org/x/text/message"
	"pgregory.net/rapid"

	"vineladder/internal/core/detail"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// harbours is a site whose harbours and vacancies ask for a detail of each type.
func harbours(t testing.TB, language string) *site.Site {
	s := testkit.Outline(t, "Home\n  Pier | kind=harbour\n  Office")
	b := s.Builder()
	settings := s.Settings()
	settings.Language = language
	b.SetSettings(settings)
	b.SetKinds([]site.Kind{{Key: "page", Name: "Page"}, {Key: "harbour", Name: "Harbour", DateName: "Surveyed"}})
	var all []site.Detail
	for i, of := range detail.Types() {
		all = append(all, site.Detail{
			Key: "harbour." + string(of.Key), Label: of.Words, Type: of.Key, Rank: "a" + string(rune('A'+i)),
			Shows: site.DetailBoth, Choices: "Fuel\nWater",
		})
	}
	b.SetDetails(all)
	return b.Site()
}

// What people type is taken as it is meant, and shown as readers expect it. Sources, from memory: RFC 3966 (tel:), RFC
// 6068 (mailto:), RFC 5322 (addr-spec), ITU-T E.164 (fifteen digits), ISO 8601 (intervals); numbers as CLDR has them.
func TestValuesAreReadAndShown(t *testing.T) {
	s := harbours(t, "en-GB")
	for _, c := range []struct{ of, typed, kept, shown, href string }{
		{"line", "  60°12′ N \t 1°08′ W ", "60°12′ N 1°08′ W", "60°12′ N 1°08′ W", ""},
		{"number", "4.50", "4.5", "4.5", ""},
		{"number", "4,5", "4.5", "4.5", ""},
		{"number", "12000", "12000", "12,000", ""},
		{"number", "−0.8", "-0.8", "-0.8", ""},
		{"number", ".5", "0.5", "0.5", ""},
		{"number", "7.0", "7", "7", ""},
		{"yes", "yes", "yes", "Yes", ""},
		{"date", "2026-11-24", "2026-11-24", "24 November 2026", ""},
		{"dates", "2026-10-25/2027-03-27", "2026-10-25/2027-03-27", "25 October 2026 to 27 March 2027", ""},
		{"dates", "2026-12-25/", "2026-12-25/", "from 25 December 2026", ""},
		{"dates", "/2026-12-25", "/2026-12-25", "until 25 December 2026", ""},
		{"moment", "2026-11-24T13:30:00+01:00", "2026-11-24T12:30:00Z", "24 November 2026, 12:30", ""},
		{"choice", "Fuel", "Fuel", "Fuel", ""},
		{"choices", "Water\nFuel\nWater", "Fuel\nWater", "Fuel|Water", ""},
		{"page", "page:3", "page:3", "Office", "/office"},
		{"file", "chart.pdf", "chart.pdf", "chart.pdf", "/files/chart.pdf"},
		{"picture", "pier.jpg\nThe pier", "pier.jpg\nThe pier", "The pier", ""},
		{"web", "https://tides.example/", "https://tides.example/", "tides.example", "https://tides.example/"},
		{"mail", "a+b@tides.example", "a+b@tides.example", "a+b@tides.example", "mailto:a+b@tides.example"},
		{"phone", "+44 (1632) 960-101", "+44 (1632) 960-101", "+44 (1632) 960-101", "tel:+441632960101"},
		{"phone", "960 101", "960 101", "960 101", "tel:960101"},
		{"text", "One\n\nTwo  \nthree", "One\n\nTwo\nthree", "One|Two\nthree", ""},
	} {
		d := *s.Detail("harbour." + c.of)
		kept, err := detail.Read(s, d, c.typed)
		require.NoError(t, err, "%s: %s", c.of, c.typed)
		assert.Equal(t, c.kept, kept, c.of)
		again, err := detail.Read(s, d, kept)
		require.NoError(t, err, "%s reads what it wrote", c.of)
		assert.Equal(t, kept, again, "%s reads what it wrote", c.of)
		var words []string
		for _, shown := range detail.Of(d).Shown(s, d, kept) {
			words = append(words, shown.Words)
			assert.Equal(t, c.href, shown.Href, c.of)
		}
		assert.Equal(t, c.shown, strings.Join(words, "|"), c.of)
	}
}

// What can't be meant is refused in words that name what was typed or the detail.
func TestValuesThatCannotBeMeantAreRefused(t *testing.T) {
	s := harbours(t, "en-GB")
	for of, all := range map[string][]string{
		"line":   {strings.Repeat("x", detail.Limit+1), "turned \u202e round"},
		"text":   {strings.Repeat("x", detail.TextLimit+1)},
		"rich":   {"<script>", strings.Repeat("g", 32)},
		"number": {"deep", "1,234", "1.2.3", "1e9", "0x10", "NaN", "--4", "1234567890123456", "4.1234567"},
		"yes":    {"perhaps"}, "date": {"24.11.2026", "2026-02-30", "0026-01-01"},
		"dates":  {"2026-01-01", "/", "2026-02-01/2026-01-01", "2026-01-01/2026-01-01/x", "a/b"},
		"moment": {"noon"}, "page": {"3", "page:99", "page:x"}, "file": {"../etc/passwd", "a/b"}, "picture": {"a/b\nx"},
		"web":   {"tides.example", "javascript:alert(1)", "ftp://tides.example"},
		"mail":  {"nobody", "A <a@b.example>", "a@b.example, c@d.example", "a b@c.example"},
		"phone": {"12", "+44 1632 960101 960101 96", "call me", "+44;ext=1"},
	} {
		d := *s.Detail("harbour." + of)
		for _, text := range all {
			_, err := detail.Read(s, d, text)
			assert.Error(t, err, "%s: %s", of, text)
			assert.False(t, detail.Reads(s, d, text))
		}
	}
}

// Numbers stand in order by the bytes of what they are sorted by, and are written as x/text writes them, in every
// language.
func TestNumbersStandInOrder(t *testing.T) {
	s := harbours(t, "de")
	d := *s.Detail("harbour.number")
	of := detail.Of(d)
	rapid.Check(t, func(t *rapid.T) {
		draw := func(name string) float64 { return float64(rapid.IntRange(-1e6, 1e6).Draw(t, name)) / 100 }
		a, b := draw("a"), draw("b")
		write := func(x float64) string {
			text := strings.ReplaceAll(message.NewPrinter(language.English).Sprintf("%.2f", x), ",", "")
			kept, err := detail.Read(s, d, text)
			require.NoError(t, err)
			return kept
		}
		assert.Equal(t, a < b, of.Order(write(a)) < of.Order(write(b)), "%v %v", a, b)
	})
	assert.Equal(t, "12.000,5", detail.Of(d).Shown(s, d, "12000.5")[0].Words)
}

// Facts are those of the page's type that belong there, in their order, after its date; what points at a page shows to
// who reaches that; what does not read shows nothing.
func TestFactsAreThoseOfTheType(t *testing.T) {
	s := harbours(t, "en-GB")
	b := s.Builder()
	p := *s.Page(2)
	p.Date = "2026-11-24"
	p.Values = site.ValuesOf(map[string]string{
		"harbour.number": "4.5", "harbour.page": "page:3", "harbour.line": "north", "harbour.date": "no date",
		"notice.line": "of another type", "harbour.gone": "of no detail",
	})
	b.Put(&p)
	details := slices.Clone(s.AllDetails())
	for i := range details {
		if details[i].Key == "harbour.line" {
			details[i].Shows = site.DetailEditors
		}
	}
	b.SetDetails(details)
	s = b.Site()
	labels := func(reached bool) []string {
		var all []string
		for _, f := range detail.Facts(s, s.Page(2), site.Detail.OnPage, func(site.PageID) bool { return reached }) {
			all = append(all, f.Label+": "+f.Values[0].Words)
		}
		return all
	}
	assert.Equal(t, []string{"Surveyed: 24 November 2026", "Number: 4.5", "Page: Office"}, labels(true))
	assert.Equal(t, []string{"Surveyed: 24 November 2026", "Number: 4.5"}, labels(false))
	assert.Equal(t, []site.PageID{3}, s.LinksOf(s.Page(2)))
	assert.Equal(t, []site.PageID{2}, s.Linking(3))
}

// A page that goes live lacks what its type needs; one that was live without it before does not, nor one that is
// offline; a live page from which it is taken does (rules 7.3).
func TestWhatIsNeededIsNeededToGoLive(t *testing.T) {
	s := harbours(t, "en-GB")
	need := edit.OpEditDetail{Detail: "harbour.number", Fields: []edit.FieldChange{
		{Field: edit.FieldRequired, Old: "no", New: "yes"},
	}}
	set := func(field edit.Field, old, is string) edit.Op {
		return edit.OpEdit{Page: 2, Fields: []edit.FieldChange{{Field: field, Old: old, New: is}}}
	}
	apply := func(s *site.Site, ops ...edit.Op) *site.Site {
		made, _, err := edit.ApplyAll(s, ops, testkit.Now)
		require.NoError(t, err)
		return made
	}
	offline := apply(s, set(edit.FieldStatus, edit.Value(s.Page(2), edit.FieldStatus), "offline"))
	live := apply(offline, set(edit.FieldStatus, "offline", "live"))
	assert.Empty(t, detail.Losing(live, apply(live, need)), "it was live before")
	assert.Empty(t, detail.Losing(live, apply(live, need, set(edit.FieldLabel, "Pier", "Quay"))))
	assert.Empty(t, detail.Losing(offline, apply(offline, need)))
	needed := apply(offline, need)
	lacks := detail.Losing(needed, apply(needed, set(edit.FieldStatus, "offline", "live")))
	require.Len(t, lacks, 1)
	assert.Equal(t, "“Number”", lacks[0].Words(needed))
	filled := apply(needed, set("harbour.number", "", "4"), set(edit.FieldStatus, "offline", "live"))
	assert.Empty(t, detail.Losing(needed, filled))
	emptied := apply(filled, set("harbour.number", "4", ""))
	assert.Contains(t, detail.LosingWords(emptied, detail.Losing(filled, emptied)),
		"“Pier” would be live without “Number”, which its type needs")
	assert.Len(t, detail.Lacking(emptied, emptied.Page(2)), 1)
}

// A topic of a list can be needed too, the topic itself or one that stands in it.
func TestATopicCanBeNeeded(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Pier | kind=harbour\n  Places | kind=topic-list\n    Øyra | kind=topic\n"+
		"  Other | kind=topic-list")
	b := s.Builder()
	b.SetKinds([]site.Kind{{Key: "harbour", Name: "Harbour", Lists: "page:3|page:5"}})
	p := *s.Page(2)
	p.Topics = []site.PageID{4}
	b.Put(&p)
	s = b.Site()
	lacks := detail.Lacking(s, s.Page(2))
	require.Len(t, lacks, 1)
	assert.Equal(t, "a topic of “Other”", lacks[0].Words(s))
}

// A day is a day in every order of dates; elsewhere than in English without names.
func TestDaysAreWrittenInTheOrderOfTheSite(t *testing.T) {
	for order, want := range map[site.DateOrder][2]string{
		site.DatesDayMonth: {"3 November 2026", "03.11.2026"}, site.DatesMonthDay: {"November 3, 2026", "11/03/2026"},
		site.DatesYearMonth: {"2026-11-03", "2026-11-03"},
	} {
		for i, language := range []string{"en", "nb"} {
			b := site.NewBuilder(site.Settings{Language: language, Dates: order, Zone: time.UTC})
			assert.Equal(t, want[i], detail.DateWords(b.Site(), "2026-11-03"))
		}
	}
}
