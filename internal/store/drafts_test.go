package store_test

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/clock"
	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
)

// publishers founds a site on which staff may do all, with two people of that role and one without.
func publishers(t *testing.T, outline string) (st *store.Store, url string, ana, ben, cy store.Account) {
	url = storetest.URL(t)
	st = storetest.Open(t, url)
	roles := []site.Role{
		{
			Key:    "staff",
			Name:   "Staff",
			Grants: site.OnSite(site.ActionEdit, site.ActionArrange, site.ActionAdmit, site.ActionPublish),
		},
		{Key: "masters", Name: "Masters"},
		{Key: "operators", Name: "Operators"},
	}
	require.NoError(t, st.Found(ctx, store.Foundation{Settings: testkit.Settings(), Roles: roles}))
	publishOutline(t, st, testkit.Outline(t, outline))
	add := func(login string, roles ...string) store.Account {
		account, err := st.AddAccount(ctx, login, login, "long enough a password", roles)
		require.NoError(t, err)
		return account
	}
	return st, url, add("ana", "staff"), add("ben", "staff"), add("cy")
}

func TestDraftsAreNamedSharedHandedOverAndThrownAway(t *testing.T) {
	st, _, ana, ben, cy := publishers(t, "Home\n  A\n  B")
	id, err := st.NewDraft(ctx, ana, " Winter  changeover ")
	require.NoError(t, err)
	_, err = st.NewDraft(ctx, ana, "Winter changeover")
	assert.ErrorContains(t, err, "already")
	_, err = st.NewDraft(ctx, ana, " ")
	assert.ErrorContains(t, err, "needs a name")

	require.NoError(t, st.Share(ctx, id, ana, ben.ID, true))
	assert.ErrorContains(t, st.Share(ctx, id, ben, cy.ID, true), "Only ana")
	assert.ErrorIs(t, st.ThrowAway(ctx, id, cy), store.ErrNoDraft)
	d, err := st.Draft(ctx, id)
	require.NoError(t, err)
	assert.True(t, d.IsFor(ana.ID) && d.IsFor(ben.ID) && !d.IsFor(cy.ID))
	lines, err := st.DraftsOf(ctx, ben.ID)
	require.NoError(t, err)
	assert.Equal(t, "Winter changeover", lines[0].Name)
	assert.Equal(t, "ben", lines[0].People)

	require.NoError(t, st.HandOver(ctx, id, ana, ben))
	d, _ = st.Draft(ctx, id)
	assert.Equal(t, "ben", d.OwnerName)
	assert.True(t, d.IsFor(ana.ID), "who hands over goes on sharing")
	do(t, st, id, ana, rename(d.Site, "A", "One"))
	require.NoError(t, st.ThrowAway(ctx, id, ben))
	_, err = st.Draft(ctx, id)
	assert.ErrorIs(t, err, store.ErrNoDraft)
	thrown, err := st.Thrown(ctx, ben.ID, 10)
	require.NoError(t, err)
	assert.Equal(t, 1, thrown[0].Edits)
	require.NoError(t, st.Fetch(ctx, id, ben))
	d, err = st.Draft(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, "Home One B", labels(d.Site), "nothing was lost")
	records, err := st.Records(ctx, 10)
	require.NoError(t, err)
	assert.Len(t, records, 2)
	mine, _ := st.MyChanges(ctx, ana.ID)
	assert.ErrorContains(t, st.HandOver(ctx, mine, ana, ben), "yours alone")
}

// The edits of one page are published by themselves, or go back; the others wait whole.
func TestOnePageOfADraftIsPublishedByItself(t *testing.T) {
	st, _, ana, ben, cy := publishers(t, "Home\n  A\n  B")
	mine, err := st.MyChanges(ctx, ana.ID)
	require.NoError(t, err)
	a, b := testkit.Find(t, st.Published().Site, "A"), testkit.Find(t, st.Published().Site, "B")
	whole, err := st.Draft(ctx, mine)
	require.NoError(t, err)
	do(t, st, mine, ana, rename(whole.Site, "A", "One"))
	do(t, st, mine, ana, rename(whole.Site, "B", "Two"))
	whole, err = st.Draft(ctx, mine)
	require.NoError(t, err)
	do(t, st, mine, ana, rename(whole.Site, "One", "First"))

	_, err = st.Part(ctx, mine, ana, st.Published().Site.Home())
	assert.ErrorContains(t, err, "Nothing of this page waits")
	parted, err := st.Part(ctx, mine, ana, a)
	require.NoError(t, err)
	d, err := st.Draft(ctx, parted)
	require.NoError(t, err)
	assert.Equal(t, "Only “First”", d.Name)
	assert.Equal(t, "Home First B", labels(d.Site))
	whole, err = st.Draft(ctx, mine)
	require.NoError(t, err)
	assert.Equal(t, "Home A Two", labels(whole.Site))
	same, err := st.Part(ctx, mine, ana, b)
	require.NoError(t, err)
	assert.Equal(t, mine, same, "nothing else would be left")

	require.NoError(t, st.Share(ctx, mine, ana, ben.ID, true))
	back, err := st.Join(ctx, parted, ana)
	require.NoError(t, err)
	assert.Equal(t, mine, back)
	whole, err = st.Draft(ctx, mine)
	require.NoError(t, err)
	assert.Equal(t, "Home First Two", labels(whole.Site))
	_, err = st.Join(ctx, mine, ana)
	assert.ErrorContains(t, err, "not taken from another one")

	_, err = st.Part(ctx, mine, cy, a)
	assert.ErrorIs(t, err, store.ErrNoDraft)
	parted, err = st.Part(ctx, mine, ben, a)
	require.NoError(t, err)
	d, err = st.Draft(ctx, parted)
	require.NoError(t, err)
	assert.True(t, d.Owner == ben.ID && d.IsFor(ana.ID), "whose edits they are goes on seeing them")
	made, err := st.Publish(ctx, parted, ana, store.Reviewed{Revision: d.Base.Revision, Version: d.Version})
	require.NoError(t, err)
	assert.Equal(t, "Home First B", labels(made.Site))
	_, err = st.Draft(ctx, parted)
	assert.ErrorIs(t, err, store.ErrNoDraft, "it was made for this one publication")
	thrown, err := st.Thrown(ctx, ana.ID, 10)
	require.NoError(t, err)
	assert.Empty(t, thrown)
	whole, err = st.Draft(ctx, mine)
	require.NoError(t, err)
	assert.Equal(t, "Home First Two", labels(whole.Site))
	assert.Empty(t, whole.Held)
}

func TestUndoInASharedDraftTakesBackOnesOwnLastStep(t *testing.T) {
	st, _, ana, ben, _ := publishers(t, "Home\n  A\n  B")
	id, _ := st.NewDraft(ctx, ana, "Both")
	require.NoError(t, st.Share(ctx, id, ana, ben.ID, true))
	ids, _ := st.NewPageIDs(ctx, 1)
	do(
		t,
		st,
		id,
		ana,
		edit.OpMake{
			Page:   ids[0],
			Place:  edit.Place{Parent: 1},
			Fields: []edit.FieldChange{{Field: edit.FieldLabel, New: "New"}},
		},
	)
	do(t, st, id, ana, rename(st.Published().Site, "A", "Anas"))
	do(t, st, id, ben, rename(st.Published().Site, "B", "Bens"))
	d, step, err := st.Undo(ctx, id, ana)
	require.NoError(t, err)
	assert.Equal(t, ana.ID, step.By)
	assert.Equal(t, "Home A Bens New", labels(d.Site))
	d = do(
		t,
		st,
		id,
		ben,
		edit.OpEdit{Page: ids[0], Fields: []edit.FieldChange{{Field: edit.FieldLabel, Old: "New", New: "Newer"}}},
	)
	_, _, err = st.Undo(ctx, id, ana)
	require.ErrorContains(t, err, "can't be undone while others build on it")
	again, _, err := st.Redo(ctx, id, ana)
	require.NoError(t, err)
	assert.Equal(t, "Home Anas Bens Newer", labels(again.Site))
	assert.Equal(t, d.Version+1, again.Version, "what was refused left the draft as it was")
}

func TestADraftIsPublishedAtItsMomentByOneInstance(t *testing.T) {
	st, url, ana, _, cy := publishers(t, "Home\n  A\n  B")
	second := storetest.Open(t, url)
	id, _ := st.NewDraft(ctx, ana, "Planned")
	assert.ErrorIs(t, st.Plan(ctx, id, ana, clock.Now().Add(time.Hour)), store.ErrNothing)
	d := do(t, st, id, ana, rename(st.Published().Site, "A", "Planned"))
	require.NoError(t, st.Share(ctx, id, ana, cy.ID, true))
	assert.ErrorContains(
		t,
		st.Plan(ctx, id, cy, clock.Now().Add(time.Hour)),
		"publish",
		"rights are checked when it is set",
	)
	require.NoError(t, st.Plan(ctx, id, ana, clock.Now().Add(time.Hour)))
	do(t, st, id, ana, rename(d.Site, "B", "Edited"))
	d, _ = st.Draft(ctx, id)
	assert.Zero(t, d.Planned, "editing it unsets the moment")

	schedule, stop := context.WithCancel(ctx)
	defer stop()
	for _, one := range []*store.Store{st, second} {
		go one.Schedule(schedule)
		go one.Follow(schedule)
	}
	before := st.Published().Revision
	at := clock.Now().Add(300 * time.Millisecond)
	require.NoError(t, st.Plan(ctx, id, ana, at))
	require.Eventually(t, func() bool {
		return second.Published().Revision == before+1 && st.Published().Revision == before+1
	}, 20*time.Second, 10*time.Millisecond)
	assert.Equal(t, "Home Planned Edited", labels(second.Published().Site))
	history, err := st.History(ctx, store.Search{Limit: 10})
	require.NoError(t, err)
	assert.Equal(t, "Planned", history[0].Draft)
	assert.WithinDuration(t, at, history[0].Planned, time.Millisecond)
	assert.False(t, history[0].At.Before(history[0].Planned), "the real moment is recorded")
}

func TestWhatIsDueAfterDowntimeIsPublishedInOrderAndTroubleIsTold(t *testing.T) {
	st, url, ana, ben, _ := publishers(t, "Home\n  A\n  B")
	plan := func(name string, by store.Account, ago time.Duration, op edit.Op) int64 {
		id, err := st.NewDraft(ctx, by, name)
		require.NoError(t, err)
		do(t, st, id, by, op)
		require.NoError(t, st.Plan(ctx, id, by, clock.Now().Add(-ago)))
		return id
	}
	plan("second", ana, time.Minute, rename(st.Published().Site, "B", "Two"))
	plan("first", ana, time.Hour, rename(st.Published().Site, "A", "One"))
	late := plan("clash", ben, time.Second, rename(st.Published().Site, "A", "Other"))
	lost := plan("lost", ben, time.Second, rename(st.Published().Site, "Home", "Start"))
	_, err := st.DB().Exec(`DELETE FROM account_roles WHERE account_id = $1`, ben.ID)
	require.NoError(t, err)

	later := storetest.Open(t, url)
	for done := true; done; {
		done, err = later.PublishNextDue(ctx)
		require.NoError(t, err)
	}
	assert.Equal(t, "Home One Two", labels(later.Published().Site))
	history, _ := later.History(ctx, store.Search{Limit: 2})
	assert.Equal(t, "second", history[0].Draft)
	assert.Equal(t, "first", history[1].Draft)
	for id, says := range map[int64]string{late: "wait for your decision", lost: "publish"} {
		d, err := later.Draft(ctx, id)
		require.NoError(t, err)
		assert.Zero(t, d.Planned)
		assert.Contains(t, d.Trouble, says)
	}
}

func TestEmptyingTheBin(t *testing.T) {
	st, url, ana, _, _ := publishers(t, "Home\n  A\n    A1\n  B")
	_, err := st.PublishDirect(ctx, ana, "binned", []edit.Op{edit.OpBin{Page: 2, Seen: 99}})
	require.NoError(t, err)
	assert.ErrorContains(t, st.EmptyBin(ctx, ana, []site.PageID{2}), "kept in the bin until")
	_, err = st.DB().Exec(`UPDATE site SET bin_days = 0`)
	require.NoError(t, err)
	fresh := storetest.Open(t, url)
	inverses, err := fresh.Inverses(ctx, fresh.Published().Revision)
	require.NoError(t, err)
	require.NoError(t, fresh.EmptyBin(ctx, ana, []site.PageID{2}))
	require.NoError(t, st.CatchUp(ctx))
	for _, one := range []*store.Store{fresh, st, storetest.Open(t, url)} {
		s := one.Published().Site
		assert.Empty(t, s.Binned())
		assert.True(t, s.Page(3).Purged)
		assert.NotContains(t, s.Page(3).Label, "A1", "what it said is gone")
		found := address.Resolve(s, "/a/a1", clock.Now())
		assert.True(t, found.Gone, "its addresses stay gone")
	}
	_, err = fresh.PublishDirect(ctx, ana, "took it back", inverses)
	assert.ErrorContains(t, err, "can't come back")
	records, _ := fresh.Records(ctx, 1)
	assert.Contains(t, records[0].Said, "2 pages for good: “A”")
}

// A draft of which all is public already publishes nothing: no revision, no line in the history, and nothing left in
// it.
func TestADraftWithNothingLeftToDoPublishesNothing(t *testing.T) {
	st, _, keeper := founded(t, "Home\n  Fares")
	rename := func(d *store.Draft) ([]edit.Op, error) {
		page := d.Site.Children(d.Site.Home())[0]
		return []edit.Op{edit.OpEdit{Page: page, Fields: []edit.FieldChange{
			{Field: edit.FieldLabel, Old: edit.Value(d.Site.Page(page), edit.FieldLabel), New: "Renamed"},
		}}}, nil
	}
	publish := func(id int64) error {
		d, err := st.Draft(ctx, id)
		require.NoError(t, err)
		_, err = st.Publish(ctx, id, keeper, store.Reviewed{Revision: d.Base.Revision, Version: d.Version})
		return err
	}
	mine, err := st.MyChanges(ctx, keeper.ID)
	require.NoError(t, err)
	other, err := st.DraftNamed(ctx, keeper.ID, "Other")
	require.NoError(t, err)
	for _, id := range []int64{mine, other} {
		_, err = st.AddStep(ctx, id, keeper, "renamed", rename)
		require.NoError(t, err)
	}
	require.NoError(t, publish(mine))
	revision := st.Published().Revision
	assert.ErrorIs(t, publish(other), store.ErrNothing)
	assert.Equal(t, revision, st.Published().Revision)
	d, err := st.Draft(ctx, other)
	require.NoError(t, err)
	assert.Empty(t, d.Steps)
}

// An account that loses its rights, or is disabled, takes its old edits along into nobody's publication; one that may
// still publish them does.
func TestADemotedAccountsEditsDoNotGoOut(t *testing.T) {
	st, _, ana, ben, _ := publishers(t, "Home\n  A\n  B")
	id, err := st.NewDraft(ctx, ana, "Shared")
	require.NoError(t, err)
	require.NoError(t, st.Share(ctx, id, ana, ben.ID, true))
	d, err := st.AddStep(ctx, id, ben, "renamed “A”", func(d *store.Draft) ([]edit.Op, error) {
		return []edit.Op{
			edit.OpEdit{Page: 2, Fields: []edit.FieldChange{{Field: edit.FieldLabel, Old: "A", New: "C"}}},
		}, nil
	})
	require.NoError(t, err)
	require.NoError(t, st.SetRoles(ctx, "ana", []string{"masters"}))
	demoted, err := st.Account(ctx, ana.ID)
	require.NoError(t, err)
	_, err = st.Publish(ctx, id, demoted, store.Reviewed{Revision: d.Base.Revision, Version: d.Version})
	assert.ErrorContains(t, err, "To publish in “A” you need")
	require.NoError(t, st.SetRoles(ctx, "ana", []string{"staff"}))
	require.NoError(t, st.Disable(ctx, "ben"))
	_, err = st.Authenticate(ctx, "ben", "long enough a password")
	assert.ErrorIs(t, err, store.ErrSignIn)
	_, err = st.Account(ctx, ben.ID)
	assert.ErrorIs(t, err, store.ErrDisabled)
	d, err = st.Draft(ctx, id)
	require.NoError(t, err)
	_, err = st.Publish(ctx, id, ana, store.Reviewed{Revision: d.Base.Revision, Version: d.Version})
	require.NoError(t, err, "ana holds what ben's edit needs")
}

func TestFailedSignInsHoldUpTheirClientAlone(t *testing.T) {
	st, _, _, _, _ := publishers(t, "Home")
	may := func(client, login string) bool {
		may, err := st.MayTrySignIn(ctx, client, login)
		require.NoError(t, err)
		return may
	}
	fail := func(client string, times int) {
		for range times {
			require.NoError(
				t,
				st.AuditFailure(ctx, store.AuditLine{What: "sign-in failed", Account: "ana", Client: client}),
			)
		}
	}
	require.NoError(t, st.Audit(ctx, store.AuditLine{What: "sign-in", Account: "ana", Client: "198.51.100.1"}))
	fail("203.0.113.7", 19)
	assert.True(t, may("203.0.113.7", "ana"))
	fail("203.0.113.7", 1)
	assert.False(t, may("203.0.113.7", "ana"))
	assert.False(t, may("203.0.113.7", "ben"), "a client, not an account")
	assert.True(t, may("203.0.113.8", "ana"))
	for _, client := range []string{"203.0.113.9", "203.0.113.10", "203.0.113.11"} {
		fail(client, 15)
	}
	assert.False(t, may("203.0.113.12", "ana"), "from many clients at once")
	assert.True(t, may("203.0.113.12", "ben"))
	assert.True(t, may("198.51.100.1", "ana"), "where she signed in before she is not held up by others")
	trail, _, err := st.AuditAsked(ctx, store.AuditQuery{Limit: 100})
	require.NoError(t, err)
	assert.LessOrEqual(t, len(trail), 10, "a row a client, account and minute")
}

// The history is asked by person, words, day, and by what a publication was about; all that is asked for holds of what
// is found.
func TestTheHistoryIsSearched(t *testing.T) {
	st := storetest.New(t)
	by := func(name string) store.Account { return store.Account{Name: name} }
	seed := []edit.Op{
		edit.OpMake{Page: 1, Key: "home", Fields: []edit.FieldChange{{Field: edit.FieldLabel, New: "Home"}}},
		edit.OpMake{
			Page: 2, Key: "a", Place: edit.Place{Parent: 1},
			Fields: []edit.FieldChange{{Field: edit.FieldLabel, New: "A"}},
		},
		edit.OpMakeMenu{Menu: 1, Key: "m", Name: "Footer"},
		edit.OpMakeMenu{Menu: 11, Key: "n", Name: "Other"},
	}
	publish := func(who, said string, ops ...edit.Op) int64 {
		_, err := st.PublishDirect(ctx, by(who), said, ops)
		require.NoError(t, err)
		return st.Published().Revision
	}
	first := publish("Ana", "began", seed...)
	label := func(old, is string) edit.Op {
		return edit.OpEdit{Page: 2, Fields: []edit.FieldChange{{Field: edit.FieldLabel, Old: old, New: is}}}
	}
	renamed := publish("Ben", "renamed “A” to “50% off_”", label("A", "50% off_"))
	name := func(menu site.MenuID, old, is string) edit.Op {
		return edit.OpEditMenu{Menu: menu, Fields: []edit.FieldChange{{Field: edit.FieldName, Old: old, New: is}}}
	}
	other := publish("Ben", "changed the other menu", name(11, "Other", "Others"))
	footer := publish("Ana", "changed a menu", name(1, "Footer", "Feet"))
	day := clock.Now()
	for words, c := range map[string]struct {
		asked store.Search
		want  []int64
	}{
		"all":      {store.Search{}, []int64{footer, other, renamed, first}},
		"person":   {store.Search{By: "Ben"}, []int64{other, renamed}},
		"words":    {store.Search{Words: "MENU changed"}, []int64{footer, other}},
		"signs":    {store.Search{Words: "50% off_"}, []int64{renamed}},
		"no sign":  {store.Search{Words: "5_%"}, nil},
		"page":     {store.Search{Page: 2}, []int64{renamed, first}},
		"menu":     {store.Search{Menu: 1}, []int64{footer, first}},
		"both":     {store.Search{Menu: 11, By: "Ben"}, []int64{other}},
		"block":    {store.Search{Block: 1}, nil},
		"before":   {store.Search{Before: other}, []int64{renamed, first}},
		"from":     {store.Search{From: day.Add(time.Hour)}, nil},
		"that day": {store.Search{From: day.Add(-time.Hour), Until: day.Add(time.Hour), By: "Ana"}, []int64{footer, first}},
	} {
		c.asked.Limit = 10
		found, err := st.History(ctx, c.asked)
		require.NoError(t, err, words)
		var revisions []int64
		for _, p := range found {
			revisions = append(revisions, p.Revision)
		}
		assert.Equal(t, c.want, revisions, words)
	}
	names, err := st.Publishers(ctx)
	require.NoError(t, err)
	assert.Equal(t, []string{"Ana", "Ben"}, names)
}
