package care_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/care"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

func withCare(t testing.TB, change func(p *site.Page)) *site.Site {
	s := testkit.Outline(t, `
Home
  Sailings
    Fares
  Harbours`)
	b := s.Builder()
	s.Walk(s.Home(), func(p *site.Page) bool {
		own := *p
		own.FirstOnline, own.Worded = testkit.Now.AddDate(-1, 0, 0), testkit.Now.AddDate(-1, 0, 0)
		change(&own)
		b.Put(&own)
		return true
	})
	return b.Site()
}

func TestOwnersAndReviewsHoldForTheirBranch(t *testing.T) {
	s := withCare(t, func(p *site.Page) {
		switch p.Label {
		case "Home":
			p.Owner, p.Review = site.RoleOwner("staff"), "12"
		case "Sailings":
			p.Owner = site.PersonOwner("idris")
		case "Harbours":
			p.Review = site.ReviewNever
		}
	})
	fares, harbours := testkit.Find(t, s, "Fares"), testkit.Find(t, s, "Harbours")
	known := &care.Known{}
	at := known.At(s, fares)
	assert.Equal(t, site.PersonOwner("idris"), at.Owner)
	assert.Equal(t, "Sailings", at.From.Label)
	assert.Equal(t, 12, at.Months)
	due, ok := known.Due(at, s.Page(fares), testkit.Now)
	require.True(t, ok)
	assert.Equal(t, testkit.Now, due, "a year after its words changed")
	_, ok = known.Due(known.At(s, harbours), s.Page(harbours), testkit.Now)
	assert.False(t, ok, "never")

	// the reviews of somebody who is gone go to the next above, and say so
	known = &care.Known{Gone: map[string]bool{"idris": true}}
	at = known.At(s, fares)
	assert.Equal(t, site.RoleOwner("staff"), at.Owner)
	assert.Equal(t, site.PersonOwner("idris"), at.GoneOwner)
	assert.Equal(t, "Home", at.From.Label)

	// still right, of a branch and of a page
	said := testkit.Now.AddDate(0, -1, 0)
	known = &care.Known{Branches: map[site.PageID]time.Time{testkit.Find(t, s, "Sailings"): said}}
	due, _ = known.Due(known.At(s, fares), s.Page(fares), testkit.Now)
	assert.Equal(t, said.AddDate(0, 12, 0), due)
	known.Pages = map[site.PageID]time.Time{fares: said.AddDate(0, 0, 3)}
	due, _ = known.Due(known.At(s, fares), s.Page(fares), testkit.Now)
	assert.Equal(t, said.AddDate(0, 12, 3), due)
}

// A page that never was online falls never due; one that is due says so from the moment on, and no earlier; what the
// walk says of a page is what asking it alone says.
func TestTheWalkSaysWhatAskingSays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 25)
		known := &care.Known{
			Pages: map[site.PageID]time.Time{}, Branches: map[site.PageID]time.Time{}, Gone: map[string]bool{"idris": true},
		}
		b := s.Builder()
		s.Walk(s.Home(), func(p *site.Page) bool {
			own := *p
			own.Owner = rapid.SampledFrom([]site.Owner{
				"", "", site.RoleOwner("staff"), site.PersonOwner("idris"), site.PersonOwner("runa"),
			}).Draw(t, "owner")
			own.Review = rapid.SampledFrom(site.Reviews()).Draw(t, "review")
			own.Worded = testkit.Now.AddDate(0, 0, -rapid.IntRange(0, 900).Draw(t, "days"))
			if rapid.Bool().Draw(t, "said") {
				at := testkit.Now.AddDate(0, 0, -rapid.IntRange(0, 900).Draw(t, "ago"))
				if rapid.Bool().Draw(t, "branch") {
					known.Branches[p.ID] = at
				} else {
					known.Pages[p.ID] = at
				}
			}
			b.Put(&own)
			return true
		})
		s = b.Site()
		listed := map[site.PageID]bool{}
		for _, d := range known.DuePages(s, testkit.Now) {
			listed[d.Page.ID] = true
		}
		known.Walk(s, s.Home(), func(p *site.Page, at care.Of) {
			require.Equal(t, known.At(s, p.ID), at)
			due, ok := known.Due(at, p, testkit.Now)
			require.False(t, ok && !p.WasOnline(testkit.Now))
			require.False(t, ok && due.Before(p.Worded.AddDate(0, at.Months, 0)))
			require.Equal(t, ok && !due.After(care.Soon(testkit.Now)), listed[p.ID])
			if login, is := at.Owner.Person(); is {
				require.NotEqual(t, "idris", login)
			}
		})
	})
}
