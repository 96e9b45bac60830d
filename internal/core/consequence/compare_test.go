package consequence_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

func viewers() consequence.Viewers {
	return consequence.Viewers{
		Panel: reach.NewPanel(testkit.Lenses()...),
		Names: []string{"out", "in", "staff", "masters"},
	}
}

func texts(r *consequence.Report) []string {
	var out []string
	for _, s := range r.Sentences() {
		out = append(out, s.Text)
	}
	return out
}

func published(t *testing.T, outline string) *site.Site {
	return edit.Settle(
		site.NewBuilder(testkit.Settings()).Site(),
		testkit.Outline(t, outline),
		testkit.Now.Add(-time.Hour),
	)
}

// said gives what is said of operations on a site.
func said(t *testing.T, s *site.Site, ops ...edit.Op) []string {
	next, _, err := edit.ApplyAll(s, ops, testkit.Now)
	require.NoError(t, err)
	return texts(consequence.Compare(s, edit.Settle(s, next, testkit.Now), viewers(), nil))
}

func TestSentences(t *testing.T) {
	s := published(
		t,
		"Home\n  Sailings\n    Winter\n      North\n    Summer\n    Fares\n  Harbours\n  Handbook | audience=staff\n  "+
			"Draft | status=offline\n    Inside",
	)
	page := func(label string) site.PageID { return testkit.Find(t, s, label) }
	set := func(label string, field edit.Field, value string) edit.Op {
		return edit.OpEdit{
			Page:   page(label),
			Fields: []edit.FieldChange{{Field: field, Old: edit.Value(s.Page(page(label)), field), New: value}},
		}
	}
	for _, c := range []struct {
		name string
		op   edit.Op
		want []string
	}{
		{"an offline page takes its branch along", set("Winter", edit.FieldStatus, "offline"), []string{
			"Nobody reaches 2 pages any more: they answer with “not found”.",
			"“Header” loses 1 item on 6 pages for everyone: “Winter” → /sailings/winter in “Sailings”.",
			"“Side menu” loses 1 item on 3 pages for everyone: “Winter” → /sailings/winter.",
		}},
		{"unlisting takes nothing offline", set("Winter", edit.FieldListed, "no"), []string{
			"“Header” loses 1 item on 8 pages for everyone: “Winter” → /sailings/winter in “Sailings”.",
			"“Side menu” loses 1 item on 5 pages for everyone: “Winter” → /sailings/winter.",
			"“Side menu” shows 1 level instead of 2: it loses 1 item on 2 pages for everyone: “North” → " +
				"/sailings/winter/north in “Winter”.",
		}},
		{"order among siblings", edit.OpMove{Page: page("Fares"), To: edit.Place{
			Parent: page("Sailings"),
			Before: page("Winter"),
		}}, []string{
			"“Header” has 1 item in another place on 8 pages for everyone: “Fares” → /sailings/fares, first in “Sailings”.",
			"“Side menu” has 1 item in another place on 5 pages for everyone: “Fares” → /sailings/fares, first.",
		}},
		{"answers are named for each audience", set("Handbook", edit.FieldStatus, "offline"), []string{
			"1 page can no longer be reached by staff and masters: it answers with “not found”.",
			"1 page answers with “not found” instead of a way to sign in for out.",
			"1 page answers with “not found” instead of “no access” for in.",
			"“Header” loses 1 item on 7 pages for staff and masters: “Handbook” → /handbook.",
		}},
		{"no effect says why", set("Inside", edit.FieldTitle, "A title"), []string{
			"Nobody can tell the difference in public: “Inside” lies in “Draft”, which is not online.",
		}},
		{"concealment, for the branch", set("Handbook", edit.FieldConceal, "yes"), []string{
			"1 page answers with “not found” instead of a way to sign in for out.",
			"1 page answers with “not found” instead of “no access” for in.",
		}},
		{"binned addresses are gone", edit.OpBin{Page: page("Winter")}, []string{
			"Nobody reaches 2 pages any more: they answer with “gone”.",
			"“Header” loses 1 item on 6 pages for everyone: “Winter” → /sailings/winter in “Sailings”.",
			"“Side menu” loses 1 item on 3 pages for everyone: “Winter” → /sailings/winter.",
		}},
		{"an end to come", set("Winter", edit.FieldLiveUntil, "2027-03-28T00:00:00Z"), []string{
			"Nobody reaches 2 pages any more from 28 March 2027 at 00:00: they answer with “not found”.",
			"“Header” loses 1 item on 6 pages for everyone from 28 March 2027 at 00:00: “Winter” → /sailings/winter in " +
				"“Sailings”.",
			"“Side menu” loses 1 item on 3 pages for everyone from 28 March 2027 at 00:00: “Winter” → /sailings/winter.",
		}},
		{"a sort rule moves what stands elsewhere", set("Sailings", edit.FieldSort, "label"), []string{
			"“Header” has 2 items in another place on 8 pages for everyone.", "“Side menu” has 2 items in another place on 5 " +
				"pages for everyone.",
		}},
		{"words", set("Fares", edit.FieldTitle, "All fares"), []string{"The words of 1 page change for everyone."}},
		{"fewer levels", edit.OpEditBlock{Block: testkit.Header, Fields: []edit.FieldChange{{
			Field: edit.FieldPiece,
			Old:   "menu:1:1:2:whole:0:all", New: "menu:1:1:1:whole:0:all",
		}}}, []string{
			"“Header” shows 1 level instead of 2: it loses 3 items on 8 pages for everyone.",
		}},
	} {
		assert.Equal(t, c.want, said(t, s, c.op), c.name)
	}
	assert.Equal(t, []string{"Nothing changes."}, texts(consequence.Compare(s, s, viewers(), nil)))
}

// Words can be read as they were and as they will be, with those of pages that link to what moved.
func TestWordsAreShownOldAndNew(t *testing.T) {
	s := published(t, "Home\n  Sailings\n    Fares\n  Harbours")
	b := s.Builder()
	b.KnowText("a", []site.PageID{testkit.Find(t, s, "Fares")})
	for _, label := range []string{"Sailings", "Harbours"} {
		p := *s.Page(testkit.Find(t, s, label))
		p.Text = "a"
		b.Put(&p)
	}
	s = b.Site()
	kept := consequence.Texts{
		"a": `<p>See the <a href="page:3">fares</a>.</p><p>Bring a coat.</p>`,
		"b": "<p>Bring a coat.</p>",
	}
	sailings, fares := testkit.Find(t, s, "Sailings"), testkit.Find(t, s, "Fares")
	next, _, err := edit.ApplyAll(s, []edit.Op{
		edit.OpEdit{Page: sailings, Fields: []edit.FieldChange{{Field: edit.FieldText, Old: "a", New: "b"}}},
		edit.OpEdit{
			Page: fares,
			Fields: []edit.FieldChange{
				{Field: edit.FieldSegment, Old: edit.Value(s.Page(fares), edit.FieldSegment), New: "prices"},
			},
		},
	}, testkit.Now)
	require.NoError(t, err)
	var found []consequence.Difference
	for _, sentence := range consequence.Compare(s, next, viewers(), kept).Sentences() {
		if sentence.About == "words" {
			found = append(found, sentence.Words...)
		}
	}
	assert.Equal(t, []consequence.Difference{
		{
			Of:  "“Sailings”",
			Was: []string{"… title “Sailings”", "See the [/sailings/fares](fares)."},
			Is:  []string{"… title “Sailings”"},
		},
		{
			Of:  "“Harbours”",
			Was: []string{"… title “Harbours”", "See the [/sailings/fares](fares)."},
			Is:  []string{"… title “Harbours”", "See the [/sailings/prices](fares)."},
		},
	}, found)
}

// What was not looked at is said, and numbers that were not counted are bounds.
func TestWhatWasNotComparedIsSaid(t *testing.T) {
	s := published(t, "Home\n  Off | status=offline")
	v := viewers()
	v.Left = 3
	off := testkit.Find(t, s, "Off")
	next, _, err := edit.Apply(
		s,
		edit.OpEdit{Page: off, Fields: []edit.FieldChange{{Field: edit.FieldTitle, New: "Title"}}},
		testkit.Now,
	)
	require.NoError(t, err)
	assert.Equal(
		t,
		[]string{
			"None of the 4 kinds of visitor compared can tell the difference in public: “Off” is not online. 3 more kinds " +
				"were not looked at.",
		},
		texts(consequence.Compare(s, next, v, nil)),
	)

	b := s.Builder()
	for i := range consequence.EdgeLimit + 1 {
		p := site.Page{
			ID: site.PageID(
				100 + i,
			), Parent: 1, Rank: fmt.Sprintf("x%04d", i), Label: fmt.Sprint("Later ", i), Segment: fmt.Sprint("later-", i),
			Status: site.StatusLive, Listed: true, Sort: site.SortManual,
			LiveFrom: testkit.Now.Add(time.Duration(i+1) * time.Hour),
		}
		b.Put(&p)
	}
	s = b.Site()
	home := s.Home()
	next, _, err = edit.Apply(
		s,
		edit.OpEdit{Page: home, Fields: []edit.FieldChange{{Field: edit.FieldLabel, Old: "Home", New: "House"}}},
		testkit.Now,
	)
	require.NoError(t, err)
	all := texts(consequence.Compare(s, next, viewers(), nil))
	assert.Contains(t, all, "What comes and goes from 2 December 2026 at 21:00 on was not looked at.")
}

func setting(field edit.Field, old, value string) edit.Op {
	return edit.OpEditSettings{Fields: []edit.FieldChange{{Field: field, Old: old, New: value}}}
}

func TestSettingsAreSaid(t *testing.T) {
	s := published(t, "Home\n  Closed for repairs\n  Staff | audience=staff\n  Off | status=offline")
	closes := "The site closes: at each of its 2 pages visitors get %s with the status 503. Who may edit still sees " +
		"them, signed in."
	assert.Equal(t, []string{fmt.Sprintf(closes, "a few words")}, said(t, s, setting(edit.FieldClosed, "no", "yes")))
	closed, _, err := edit.ApplyAll(
		s,
		[]edit.Op{setting(edit.FieldClosedPage, "", "2"), setting(edit.FieldClosed, "no", "yes")},
		testkit.Now,
	)
	require.NoError(t, err)
	assert.Contains(
		t,
		said(t, closed, setting(edit.FieldClosed, "yes", "no")),
		"The site opens: 2 pages can be reached again.",
	)
	assert.Equal(
		t,
		[]string{fmt.Sprintf(closes, "“Closed for repairs”"), "“Closed for repairs” shows while the site is closed."},
		said(t, s, setting(edit.FieldClosedPage, "", "2"), setting(edit.FieldClosed, "no", "yes")),
	)
	assert.Equal(
		t,
		[]string{"A few words of the theme show while the site is closed."},
		said(t, closed, setting(edit.FieldClosedPage, "2", ""))[:1],
	)
	assert.Equal(
		t,
		"If the site is closed, “Closed for repairs” shows while the site is closed.",
		said(t, s, setting(edit.FieldClosedPage, "", "2"))[0],
	)
	assert.Equal(
		t,
		[]string{"A rule for those who edit changes; visitors notice nothing of it."},
		said(t, s, setting(edit.FieldPaleBadges, "no", "yes")),
	)
	assert.Contains(t, said(t, s, setting(edit.FieldLayout, "", "wide")), "3 pages have the layout “Wide” from now on.")
}

func TestRoleSetsBeyondThePanelAreCounted(t *testing.T) {
	b := site.NewBuilder(testkit.Settings())
	var roles []site.Role
	var held [][]string
	for i := range 40 {
		roles = append(roles, site.Role{Key: fmt.Sprint("r", i), Name: fmt.Sprint("Role ", i)})
		if i > 0 {
			held = append(held, []string{fmt.Sprint("r", i-1), fmt.Sprint("r", i)})
		}
	}
	b.SetRoles(roles)
	v := consequence.ViewersOf(b.Site(), held, testkit.Now)
	assert.Len(t, v.Names, reach.PanelLimit)
	assert.Equal(t, 2+40+39-reach.PanelLimit, v.Left)
}

// A page of a closed site that stands in for others and ceases to be reached is told to those who get it, whether it is
// edited itself or something above it; found by 100,000 drafts of the oracle.
func TestAPageOfAClosedSiteThatStandsInForOthers(t *testing.T) {
	const later = "2026-11-24T13:00:00Z"
	open := published(t, "Home\n  Help\n    Sign in here\n  Closed for repairs\n  Old | live_until="+later)
	s, _, err := edit.ApplyAll(open, []edit.Op{
		setting(edit.FieldSignInPage, "", "3"), setting(edit.FieldClosedPage, "", "4"),
		setting(edit.FieldClosed, "no", "yes"),
	}, testkit.Now)
	require.NoError(t, err)
	until := func(page site.PageID) edit.Op {
		return edit.OpEdit{Page: page, Fields: []edit.FieldChange{{Field: edit.FieldLiveUntil, New: later}}}
	}
	const signIn = "“Sign in here” no longer shows around the sign-in form for out" +
		" from 24 November 2026 at 13:00: a few words of the theme do."
	assert.Contains(t, said(t, s, until(3)), signIn)
	assert.Contains(t, said(t, s, until(2)), signIn)
	assert.Contains(t, said(t, s, edit.OpMove{Page: 3, To: edit.Place{Parent: 5}}), signIn)
	closed := said(t, s, until(4))
	assert.Contains(t, closed[0], "“Closed for repairs” no longer shows while the site is closed for")
	ended, _, err := edit.Apply(s, until(4), testkit.Now)
	require.NoError(t, err)
	again := edit.OpEdit{Page: 4, Fields: []edit.FieldChange{{Field: edit.FieldLiveUntil, Old: later}}}
	assert.Contains(t, said(t, ended, again)[0], "“Closed for repairs” shows while the site is closed for")
}

// Of two drafts that let one page appear, the one that edits what it says too says so, and what it says then.
func TestAPageThatAppearsWithOtherWords(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Fog | status=offline\n  Ice")
	fog := testkit.Find(t, s, "Fog")
	said := func(changes ...edit.FieldChange) (texts []string) {
		changes = append(changes, edit.FieldChange{Field: edit.FieldStatus, Old: "offline", New: "live"})
		is, _, err := edit.Apply(s, edit.OpEdit{Page: fog, Fields: changes}, testkit.Now)
		require.NoError(t, err)
		viewers := consequence.ViewersOf(s, nil, testkit.Now)
		for _, told := range consequence.Compare(s, is, viewers, nil).Sentences() {
			texts = append(texts, told.Text)
		}
		return texts
	}
	const edited = "The words with which 1 page appears were edited too, for everyone."
	assert.NotContains(t, said(), edited)
	assert.Contains(t, said(edit.FieldChange{Field: edit.FieldSummary, New: "Thick fog"}), edited)
	assert.Contains(t, said(edit.FieldChange{Field: edit.FieldListing, New: ";;;newest;3"}), edited)
}
