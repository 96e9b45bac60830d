package store_test

import (
	"context"
	"errors"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
)

const fine = "a fine long password"

// peopled is a store with a page and three roles: keepers may do everything, writers edit and publish, readers nothing.
func peopled(t *testing.T) (st *store.Store, keeper store.Account) {
	t.Helper()
	st = storetest.New(t)
	require.NoError(t, st.Found(ctx, store.Foundation{
		Settings: site.Settings{Name: "Skerrow", Language: "en", Zone: time.UTC},
		Roles: []site.Role{
			{Key: "keepers", Name: "Keepers", Grants: site.OnSite(site.Actions()...)},
			{Key: "stewards", Name: "Stewards", Grants: site.OnSite(site.ActionAdmit)},
			{Key: "writers", Name: "Writers", Grants: site.OnSite(site.ActionEdit, site.ActionArrange, site.ActionPublish)},
			{Key: "readers", Name: "Readers"},
		},
	}))
	keeper, err := st.AddAccount(ctx, "keeper", "Runa", fine, []string{"keepers"})
	require.NoError(t, err)
	ids, err := st.NewPageIDs(ctx, 2)
	require.NoError(t, err)
	_, err = st.PublishDirect(ctx, keeper, "made pages", []edit.Op{
		edit.OpMake{Page: ids[0], Fields: []edit.FieldChange{{Field: edit.FieldLabel, New: "Home"}}},
		edit.OpMake{Page: ids[1], Place: edit.Place{Parent: ids[0]}, Fields: []edit.FieldChange{
			{Field: edit.FieldLabel, New: "Board papers"}, {Field: edit.FieldSecondPerson, New: "yes"},
		}},
	})
	require.NoError(t, err)
	return st, keeper
}

// linkOf gives the link of the newest letter, as it is shown once.
func linkOf(t *testing.T, st *store.Store, by store.Account) string {
	t.Helper()
	letters, err := st.Outbox(ctx, 1)
	require.NoError(t, err)
	link, err := st.ShowLink(ctx, by, letters[0].ID)
	require.NoError(t, err)
	_, token, found := strings.Cut(link, "link=")
	require.True(t, found)
	return token
}

// An invitation is good once, for whom it was written: not twice, not late, not at the same time by two, and not once
// another one was written.
func TestAnInvitationIsGoodOnce(t *testing.T) {
	st, keeper := peopled(t)
	require.NoError(t, st.Invite(ctx, keeper, "elin", "Elin", "elin@skerrow.example", []string{"writers"}, "http://site"))
	_, err := st.Authenticate(ctx, "elin", "")
	require.ErrorIs(t, err, store.ErrSignIn, "nobody signs in without a password")
	token := linkOf(t, st, keeper)
	letters, err := st.Outbox(ctx, 1)
	require.NoError(t, err)
	_, err = st.ShowLink(ctx, keeper, letters[0].ID)
	require.ErrorContains(t, err, "shown or sent already")

	var bad *store.BadPassword
	_, err = st.UseLink(ctx, token, "short")
	require.ErrorAs(t, err, &bad, "a password that will not do uses nothing up")
	var wait sync.WaitGroup
	outcomes := make([]error, 4)
	for i := range outcomes {
		wait.Go(func() { _, outcomes[i] = st.UseLink(ctx, token, fine) })
	}
	wait.Wait()
	good := 0
	for _, err := range outcomes {
		if err == nil {
			good++
		} else {
			require.ErrorIs(t, err, store.ErrLink)
		}
	}
	assert.Equal(t, 1, good, "of several who use it at once one does")
	a, err := st.Authenticate(ctx, "elin", fine)
	require.NoError(t, err)
	assert.Equal(t, []string{"writers"}, a.Roles)
	assert.True(t, a.Confirmed, "who used the link reads letters there")

	require.NoError(t, st.SendPasswordLink(ctx, keeper, a, "http://site"))
	older := linkOf(t, st, keeper)
	require.NoError(t, st.SendPasswordLink(ctx, keeper, a, "http://site"))
	_, err = st.UseLink(ctx, older, fine+"s")
	require.ErrorIs(t, err, store.ErrLink, "another one was written")
	newest := linkOf(t, st, keeper)
	_, err = st.DB().Exec(`UPDATE personal_links SET ends_at = now() - interval '1 second'`)
	require.NoError(t, err)
	_, err = st.UseLink(ctx, newest, fine+"s")
	require.ErrorIs(t, err, store.ErrLink, "it is late")
	_, err = st.UseLink(ctx, "made up", fine)
	require.ErrorIs(t, err, store.ErrLink)
}

// Nobody gives, or is shown what opens, more than they hold themselves; and somebody can always keep the site.
func TestNobodyGivesWhatTheyDontHold(t *testing.T) {
	st, keeper := peopled(t)
	steward, err := st.AddAccount(ctx, "steward", "Steward", fine, []string{"stewards"})
	require.NoError(t, err)
	var refused *edit.Refusal
	err = st.Invite(ctx, steward, "elin", "Elin", "elin@skerrow.example", []string{"writers"}, "http://site")
	require.ErrorAs(t, err, &refused)
	assert.Equal(
		t,
		"You can't give or take the role “Writers”: it may order pages on the whole site, which you don't hold yourself.",
		refused.Sentence,
	)
	require.NoError(t, st.Invite(ctx, steward, "ana", "Ana", "ana@skerrow.example", []string{"readers"}, "http://site"))
	require.ErrorAs(t, st.SetRolesBy(ctx, steward, "ana", []string{"readers", "keepers"}), &refused)
	require.ErrorAs(t, st.DisableBy(ctx, steward, "keeper", 0), &refused, "they may not take what they can't give")
	require.ErrorAs(t, st.SendPasswordLink(ctx, steward, withEmail(t, st, keeper), "http://site"), &refused)

	require.NoError(t, st.SendPasswordLink(ctx, keeper, withEmail(t, st, keeper), "http://site"))
	letters, err := st.Outbox(ctx, 1)
	require.NoError(t, err)
	_, err = st.ShowLink(ctx, steward, letters[0].ID)
	require.ErrorAs(t, err, &refused, "a link of a keeper is for who may grant what a keeper holds")

	require.ErrorIs(t, st.DisableBy(ctx, keeper, "keeper", 0), store.ErrLastKeeper)
	require.ErrorIs(t, st.SetRolesBy(ctx, keeper, "keeper", []string{"writers"}), store.ErrLastKeeper)
	require.NoError(t, st.Invite(ctx, keeper, "next", "Next", "next@skerrow.example", []string{"keepers"}, "http://site"))
	require.ErrorIs(t, st.DisableBy(ctx, keeper, "keeper", 0), store.ErrLastKeeper, "who was invited can't sign in yet")
}

func withEmail(t *testing.T, st *store.Store, a store.Account) store.Account {
	t.Helper()
	_, err := st.DB().Exec(`UPDATE accounts SET email = 'keeper@skerrow.example' WHERE id = $1`, a.ID)
	require.NoError(t, err)
	a, err = st.Account(ctx, a.ID)
	require.NoError(t, err)
	return a
}

// A role that somebody holds can't go, and no edit of roles leaves nobody who can keep the site; asked when it is
// published.
func TestRolesThatAreHeldStay(t *testing.T) {
	st, keeper := peopled(t)
	publish := func(op edit.Op) error {
		id, err := st.MyChanges(ctx, keeper.ID)
		require.NoError(t, err)
		d, err := st.AddStep(ctx, id, keeper, "edited roles", func(*store.Draft) ([]edit.Op, error) {
			return []edit.Op{op}, nil
		})
		require.NoError(t, err)
		_, err = st.Publish(ctx, id, keeper, store.Reviewed{Revision: d.Base.Revision, Version: d.Version})
		if err != nil {
			_, _, undo := st.Undo(ctx, id, keeper)
			require.NoError(t, undo)
		}
		return err
	}
	_, err := st.AddAccount(ctx, "ana", "Ana", fine, []string{"readers"})
	require.NoError(t, err)
	require.ErrorContains(t, publish(edit.OpTakeRole{Was: edit.OpMakeRole{Role: "readers"}}), "Ana holds it")
	require.ErrorContains(t, publish(edit.OpEditRole{Role: "keepers", Fields: []edit.FieldChange{
		{Field: edit.FieldPermissions, Old: "keep:site"},
	}}), "nobody who can sign in could keep the site")
	require.NoError(t, st.SetRolesBy(ctx, keeper, "ana", nil))
	require.NoError(t, publish(edit.OpTakeRole{Was: edit.OpMakeRole{Role: "readers"}}))
	require.NoError(t, st.Reload(ctx))
	assert.Nil(t, st.Published().Site.Role("readers"))
	assert.Equal(t, []string{"readers"}, st.Published().Site.RolesGone(), "its key is remembered, loaded anew too")
}

// Where a second person is asked for nobody publishes what they made, whoever else edited the draft; a site keeper may,
// with a reason, which is recorded.
func TestASecondPerson(t *testing.T) {
	st, keeper := peopled(t)
	writer, err := st.AddAccount(ctx, "writer", "Writer", fine, []string{"writers"})
	require.NoError(t, err)
	var papers site.PageID
	on := st.Published().Site
	papers = on.Children(on.Home())[0]
	edits := func(by store.Account, label string) int64 {
		id, err := st.MyChanges(ctx, by.ID)
		require.NoError(t, err)
		_, err = st.AddStep(ctx, id, by, "renamed", func(d *store.Draft) ([]edit.Op, error) {
			return []edit.Op{edit.OpEdit{Page: papers, Fields: []edit.FieldChange{
				{Field: edit.FieldLabel, Old: d.Site.Page(papers).Label, New: label},
			}}}, nil
		})
		require.NoError(t, err)
		return id
	}
	publish := func(id int64, by store.Account, alone string) error {
		d, err := st.Draft(ctx, id)
		require.NoError(t, err)
		_, err = st.Publish(ctx, id, by, store.Reviewed{Revision: d.Base.Revision, Version: d.Version, Alone: alone})
		return err
	}
	id := edits(writer, "Papers")
	require.ErrorContains(t, publish(id, writer, "it is late"), "asks for a second person")
	require.NoError(t, publish(id, keeper, ""), "somebody else may")
	id = edits(keeper, "Board papers")
	require.ErrorContains(t, publish(id, keeper, ""), "asks for a second person")
	require.NoError(t, publish(id, keeper, "the Board meets now"))
	records, err := st.Records(ctx, 1)
	require.NoError(t, err)
	assert.Contains(t, records[0].Said, "without a second person, since the Board meets now")
}

// Approval is asked for, told to who may give it by a letter, sent back with a reason, asked for anew, and over once
// the draft is public.
func TestApprovalIsAskedFor(t *testing.T) {
	st, keeper := peopled(t)
	keeper = withEmail(t, st, keeper)
	writer, err := st.AddAccount(ctx, "writer", "Writer", fine, []string{"writers"})
	require.NoError(t, err)
	id, err := st.MyChanges(ctx, writer.ID)
	require.NoError(t, err)
	require.ErrorIs(t, st.AskApproval(ctx, id, writer, "", "http://bench"), store.ErrNothing)
	home := st.Published().Site.Home()
	_, err = st.AddStep(ctx, id, writer, "titled", func(*store.Draft) ([]edit.Op, error) {
		return []edit.Op{edit.OpEdit{Page: home, Fields: []edit.FieldChange{{Field: edit.FieldTitle, New: "Welcome"}}}}, nil
	})
	require.NoError(t, err)
	require.ErrorIs(t, st.AskApproval(ctx, id, keeper, "", "http://bench"), store.ErrNoDraft, "not theirs to ask for")
	require.NoError(t, st.AskApproval(ctx, id, writer, "Ready", "http://bench/review"))

	sent := []string{}
	was, err := st.SendNext(ctx, func(_ context.Context, to, subject, body string) error {
		sent = append(sent, to, subject, body)
		return nil
	})
	require.NoError(t, err)
	require.True(t, was)
	require.Len(t, sent, 3)
	assert.Equal(t, "keeper@skerrow.example", sent[0])
	assert.Contains(t, sent[2], "Ready")
	assert.Contains(t, sent[2], "http://bench/review")

	asked, err := st.Asked(ctx)
	require.NoError(t, err)
	require.Len(t, asked, 1)
	assert.Equal(t, "Ready", asked[0].Note)
	require.ErrorContains(t, st.SendBack(ctx, id, keeper, " "), "Say what is to be changed")
	require.NoError(t, st.Remark(ctx, id, keeper, 0, "Nearly"))
	require.NoError(t, st.SendBack(ctx, id, keeper, "Not so loud"))
	d, err := st.Draft(ctx, id)
	require.NoError(t, err)
	assert.False(t, d.Asked.Waits())
	assert.Equal(t, "Not so loud", d.Asked.Answer)
	require.ErrorContains(t, st.SendBack(ctx, id, keeper, "again"), "Nobody waits")
	require.NoError(t, st.AskApproval(ctx, id, writer, "Softer", "http://bench/review"))
	d, err = st.Draft(ctx, id)
	require.NoError(t, err)
	_, err = st.Publish(ctx, id, keeper, store.Reviewed{Revision: d.Base.Revision, Version: d.Version})
	require.NoError(t, err)
	asked, err = st.Asked(ctx)
	require.NoError(t, err)
	assert.Empty(t, asked)
}

// A letter that the mail server does not take is tried again later, and its link stays a secret of the outbox.
func TestLettersAreTriedAgain(t *testing.T) {
	st, keeper := peopled(t)
	require.NoError(t, st.Invite(ctx, keeper, "elin", "Elin", "elin@skerrow.example", nil, "http://site"))
	fails := func(context.Context, string, string, string) error { return errors.New("the server is busy") }
	was, err := st.SendNext(ctx, fails)
	require.NoError(t, err)
	require.True(t, was)
	was, err = st.SendNext(ctx, fails)
	require.NoError(t, err)
	assert.False(t, was, "not at once")
	letters, err := st.Outbox(ctx, 1)
	require.NoError(t, err)
	assert.Equal(t, "the server is busy", letters[0].Fault)
	assert.False(t, strings.Contains(letters[0].Body, "link="))
	_, err = st.DB().Exec(`UPDATE outbox SET retry_at = now()`)
	require.NoError(t, err)
	var got string
	was, err = st.SendNext(ctx, func(_ context.Context, _, _, body string) error { got = body; return nil })
	require.NoError(t, err)
	require.True(t, was)
	assert.Contains(t, got, "http://site/sign-in/link?link=")
	letters, err = st.Outbox(ctx, 1)
	require.NoError(t, err)
	assert.True(t, letters[0].Sent.Valid)
	assert.False(t, letters[0].HasLink, "it is nobody's to see any more")
}
