package typed_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

func calendar(t require.TestingT, order site.DateOrder) typed.Calendar {
	zone, err := time.LoadLocation("Europe/Oslo")
	require.NoError(t, err)
	return typed.Calendar{Order: order, Zone: zone, Now: time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC)}
}

// Common practice, no source; ISO 8601 dates and RFC 3339 from those documents.
func TestMomentsAreTypedFreely(t *testing.T) {
	for typedText, want := range map[string]string{
		"24.11.2026":             "2026-11-24T00:00",
		"24.11.26":               "2026-11-24T00:00",
		"3/4/2027":               "2027-04-03T00:00",
		"24. 11. 2026 14:30":     "2026-11-24T14:30",
		"2026-11-24":             "2026-11-24T00:00",
		"2026-11-24 14:30":       "2026-11-24T14:30",
		"2026-11-24T14:30":       "2026-11-24T14:30",
		"2026-11-24T14:30:00Z":   "2026-11-24T15:30",
		"24 Nov":                 "2026-11-24T00:00",
		"23 nov":                 "2027-11-23T00:00",
		"1.3.":                   "2027-03-01T00:00",
		"Mar 1, 2027 at 9 am":    "2027-03-01T09:00",
		"1st of March 2027 9pm":  "2027-03-01T21:00",
		"29 February 2028 12 am": "2028-02-29T00:00",
		"tomorrow noon":          "2026-11-25T12:00",
		"today 24:00":            "2026-11-25T00:00",
	} {
		c := calendar(t, site.DatesDayMonth)
		got, err := c.Read(typedText, false)
		require.NoError(t, err, typedText)
		assert.Equal(t, want, got.In(c.Zone).Format("2006-01-02T15:04"), typedText)
	}
	for _, wrong := range []string{
		"31.2.2026", "32.1.2026", "1.13.2026", "yesterday week", "24", "24.11.2026 25:00", "24.11.2026 9:60",
		"13 pm 1.1.2027",
		"1.1.0202", "1.2.3.2026", "Mar Apr 2026", "12:00", "1.1.2026 +1:00", "-1.1.2026 1:-2",
	} {
		_, err := calendar(t, site.DatesDayMonth).Read(wrong, false)
		assert.Error(t, err, wrong)
	}
}

func TestAnEndWithoutATimeIsTheEndOfItsDay(t *testing.T) {
	c := calendar(t, site.DatesMonthDay)
	got, err := c.Read("12/31/2026", true)
	require.NoError(t, err)
	assert.Equal(t, "01/01/2027 00:00", c.Write(got))
	got, err = c.Read("12/31/2026 18:00", true)
	require.NoError(t, err)
	assert.Equal(t, "12/31/2026 18:00", c.Write(got))
}

// What stands in a field is read as the moment that it was written for, whatever the order, but for the hour that a
// clock set back shows twice.
func TestMomentsAreReadAsTheyAreWritten(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := calendar(t, rapid.SampledFrom([]site.DateOrder{
			site.DatesDayMonth, site.DatesMonthDay, site.DatesYearMonth,
		}).Draw(t, "order"))
		at := time.Unix(60*rapid.Int64Range(-200_000_000, 2_000_000_000).Draw(t, "minute"), 0)
		got, err := c.Read(c.Write(at), rapid.Bool().Draw(t, "end"))
		require.NoError(t, err)
		require.Equal(t, c.Write(at), c.Write(got))
		if c.Write(at.Add(time.Hour)) != c.Write(at) && c.Write(at.Add(-time.Hour)) != c.Write(at) {
			require.True(
				t,
				at.Equal(got) || at.Sub(got).Abs() < time.Minute*3,
				"%s %s",
				at,
				got,
			) // zones once had seconds
		}
	})
}

// Whatever is typed is read as a date that people meant, or refused.
func FuzzMoments(f *testing.F) {
	for _, seed := range []string{"24.11.2026", "1 Mar 9 am", "pm", "st", "9999-99-99", "٣.١.2026", "1st", ":"} {
		f.Add(seed, true)
	}
	f.Fuzz(func(t *testing.T, text string, end bool) {
		got, err := calendar(t, site.DatesDayMonth).Read(text, end)
		if err == nil && !got.IsZero() {
			require.NoError(t, typed.CheckYear(got))
		}
	})
}
