package listing_test

import (
	"net/url"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/detail"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// harbour is a site with a harbour that has the values given, its details one of each type.
func harbour(t testing.TB, zone string, values site.Values) *site.Site {
	s := testkit.Outline(t, "Home\n  Pier | kind=harbour date=2026-11-20")
	b := s.Builder()
	settings := s.Settings()
	settings.Zone, _ = site.LoadZone(zone)
	b.SetSettings(settings)
	b.SetKinds([]site.Kind{{Key: "page", Name: "Page"}, {Key: "harbour", Name: "Harbour", DateName: "Surveyed"}})
	var all []site.Detail
	for i, of := range detail.Types() {
		all = append(all, site.Detail{
			Key: "harbour." + string(of.Key), Label: of.Words, Type: of.Key, Rank: "a" + string(rune('A'+i)),
			Shows: site.DetailBoth, Choices: "Fuel\nWater",
		})
	}
	all = append(all, site.Detail{
		Key: "harbour.shelf", Label: "Shelf", Type: site.DetailNumber, Rank: "b", Shows: site.DetailEditors,
	})
	b.SetDetails(all)
	pier := *s.Page(testkit.Find(t, s, "Pier"))
	pier.Values = values
	b.Put(&pier)
	return b.Site()
}

// Ends are included, either can be open, a span is met by any of its days, and a day is one of the site's zone. Common
// practice, no source, but for ISO 8601 (days and intervals), from memory.
func TestWhatIsWantedHolds(t *testing.T) {
	noon := time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC)
	for _, c := range []struct {
		values, wants, zone string
		at                  time.Time
		holds               bool
	}{
		{`{"harbour.yes":"yes"}`, "harbour.yes=yes", "UTC", noon, true},
		{`{"harbour.yes":"no"}`, "harbour.yes=yes", "UTC", noon, false},
		{`{}`, "harbour.yes=no", "UTC", noon, false},
		{`{"harbour.choices":"Fuel\nWater"}`, "harbour.choices=Water", "UTC", noon, true},
		{`{"harbour.choices":"Fuel"}`, "harbour.choices=Water", "UTC", noon, false},
		{`{"harbour.number":"9"}`, "harbour.number=8.5..10", "UTC", noon, true},
		{`{"harbour.number":"-9"}`, "harbour.number=-8..", "UTC", noon, false},
		{`{"harbour.number":"10"}`, "harbour.number=..10", "UTC", noon, true},
		{`{"harbour.number":"10.5"}`, "harbour.number=..10", "UTC", noon, false},
		{`{"harbour.date":"2026-11-24"}`, "harbour.date=today..today", "UTC", noon, true},
		{`{"harbour.date":"2026-11-24"}`, "harbour.date=today%2B1..", "UTC", noon, false},
		{`{"harbour.date":"2026-10-25"}`, "harbour.date=today-30..", "UTC", noon, true},
		{`{"harbour.date":"2026-10-24"}`, "harbour.date=today-30..", "UTC", noon, false},
		{`{"harbour.dates":"2026-11-01/2026-11-24"}`, "harbour.dates=today..today", "UTC", noon, true},
		{`{"harbour.dates":"2026-11-01/2026-11-23"}`, "harbour.dates=today..today", "UTC", noon, false},
		{`{"harbour.dates":"2026-11-25/"}`, "harbour.dates=today..today", "UTC", noon, false},
		{`{"harbour.dates":"/2026-11-25"}`, "harbour.dates=..2026-01-01", "UTC", noon, true},
		{`{"harbour.moment":"2026-11-24T11:30:00Z"}`, "harbour.moment=2026-11-25..", "Pacific/Auckland", noon, true}, // 00:30
		{`{"harbour.date":"2026-11-25"}`, "harbour.date=..today", "Pacific/Auckland", noon, true},                    // 01:00
		{`{"harbour.date":"2026-11-25"}`, "harbour.date=..today", "Pacific/Auckland", noon.Add(-2 * time.Hour), false},
		{`{}`, "date=2026-11-20..2026-11-20", "UTC", noon, true},
		{`{"harbour.yes":"yes"}`, "harbour.yes=yes&date=..2026-11-19", "UTC", noon, false}, // all of it must hold
		{`{"harbour.number":"deep"}`, "harbour.number=0..", "UTC", noon, false},            // what can't be read is none
	} {
		s := harbour(t, c.zone, site.Values(c.values))
		text, err := listing.ParseWants(s, c.wants)
		require.NoError(t, err, c.wants)
		q := site.BlockListing{Wants: text}
		pier := s.Page(testkit.Find(t, s, "Pier"))
		assert.Equal(t, c.holds, listing.HoldsAt(s, pier, q, c.at), "%s of %s", c.wants, c.values)
	}
}

func TestWhatCannotBeAskedIsRefused(t *testing.T) {
	s := harbour(t, "UTC", "")
	for wants, says := range map[string]string{
		"harbour.number=..":         "Say from where or to where",
		"harbour.number=deep..":     "no number",
		"harbour.number=today..":    "no number",
		"harbour.date=today-5x..":   "day",
		"harbour.line=a..b":         "no values from one to another",
		"harbour.shelf=1..":         "for editors only",
		"harbour.gone=1":            "not there any more",
		"%zz":                       "can't be read",
		"harbour.date=2026-02-30..": "not a date",
	} {
		_, err := listing.ParseWants(s, wants)
		require.Error(t, err, wants)
		assert.Contains(t, err.Error(), says, wants)
	}
}

// What is wanted has one form: what is written of what was read is read as the same.
func TestWantsHaveOneForm(t *testing.T) {
	s := harbour(t, "UTC", "")
	for typed, kept := range map[string]string{
		"harbour.yes=yes&date=today-030..": "date=today-030..&harbour.yes=yes",
		"harbour.number=1,5..":             "harbour.number=1.5..",
		"":                                 "",
	} {
		text, err := listing.ParseWants(s, typed)
		require.NoError(t, err)
		again, err := listing.ParseWants(s, text)
		require.NoError(t, err)
		assert.Equal(t, text, again)
		want, _ := url.ParseQuery(kept)
		is, _ := url.ParseQuery(text)
		assert.Equal(t, want, is, typed)
	}
}

// At the midnights that are told, and at no others, what a listing by the day finds comes or goes.
func TestMidnightsAreWhenHitsComeAndGo(t *testing.T) {
	for _, values := range []site.Values{
		`{"harbour.dates":"2026-11-10/2026-11-20"}`, `{"harbour.dates":"2026-11-10/"}`, `{"harbour.date":"2026-10-25"}`,
	} {
		for _, wants := range []string{
			"harbour.dates=today-2..today%2B1", "harbour.date=today..", "harbour.dates=..today", "date=today..today",
		} {
			s := harbour(t, "Europe/London", values)
			q := site.BlockListing{Wants: wants}
			pier := s.Page(testkit.Find(t, s, "Pier"))
			var edges []time.Time
			day := time.Date(2026, 10, 1, 12, 0, 0, 0, s.Settings().Zone)
			was := listing.HoldsAt(s, pier, q, day)
			for range 90 {
				if is := listing.HoldsAt(s, pier, q, day); is != was {
					was = is
					edges = append(edges, time.Date(day.Year(), day.Month(), day.Day(), 0, 0, 0, 0, day.Location()))
				}
				day = day.AddDate(0, 0, 1)
			}
			told := listing.Midnights(s, q)
			slices.SortFunc(told, time.Time.Compare)
			for _, edge := range edges {
				assert.Contains(t, told, edge, "%s of %s", wants, values)
				before := reach.NewPanel(reach.Lens{At: edge.Add(-time.Second)}, reach.Lens{At: edge})
				mask := listing.Reached(s, q, before)(pier.ID)
				assert.True(t, mask.Has(0) != mask.Has(1), "%s of %s at %s", wants, values, edge)
			}
		}
	}
}
