package store_test

import (
	"context"
	"database/sql"
	"encoding/base64"
	"errors"
	"fmt"
	"os/exec"
	"strings"
	"testing"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/jmoiron/sqlx"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/piece"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

var ctx = context.Background()

// founded gives a store with the outline's pages published, and an account.
func founded(t testing.TB, outline string) (*store.Store, string, store.Account) {
	url := storetest.URL(t)
	st := storetest.Open(t, url)
	require.NoError(t, st.Found(ctx, store.Foundation{Settings: testkit.Settings(), Roles: able()}))
	by, err := st.AddAccount(ctx, "Keeper", "Keeper", "long enough a password", []string{"staff"})
	require.NoError(t, err)
	publishOutline(t, st, testkit.Outline(t, outline))
	furnish(t, st)
	return st, url, by
}

// able are the roles of test sites, of which staff may do everything.
func able() []site.Role {
	roles := testkit.Roles()
	roles[0].Grants = site.OnSite(site.Actions()...)
	return roles
}

func publishOutline(t testing.TB, st *store.Store, s *site.Site) {
	ids, err := st.NewPageIDs(ctx, s.Count())
	require.NoError(t, err)
	require.Equal(t, site.PageID(1), ids[0])
	var ops []edit.Op
	s.Walk(s.Home(), func(p *site.Page) bool {
		op := edit.OpMake{Page: p.ID, Place: edit.Place{Parent: p.Parent}}
		for _, f := range []edit.Field{
			edit.FieldLabel, edit.FieldStatus, edit.FieldListed, edit.FieldAudience,
			edit.FieldOwnAddress, edit.FieldLiveFrom, edit.FieldSegment, edit.FieldShortAddresses,
		} {
			if value := edit.Value(p, f); value != "" && (p.Parent != 0 || f == edit.FieldLabel) {
				op.Fields = append(op.Fields, edit.FieldChange{Field: f, New: value})
			}
		}
		ops = append(ops, op)
		return true
	})
	_, err = st.PublishDirect(ctx, store.Account{Name: "test"}, "made the outline", ops)
	require.NoError(t, err)
}

func rename(s *site.Site, from, to string) edit.Op {
	var op edit.Op
	s.Walk(s.Home(), func(p *site.Page) bool {
		if p.Label == from {
			op = edit.OpEdit{Page: p.ID, Fields: []edit.FieldChange{{Field: edit.FieldLabel, Old: from, New: to}}}
		}
		return true
	})
	return op
}

func do(t testing.TB, st *store.Store, id int64, by store.Account, ops ...edit.Op) *store.Draft {
	d, err := st.AddStep(ctx, id, by, "did something", func(*store.Draft) ([]edit.Op, error) { return ops, nil })
	require.NoError(t, err)
	return d
}

func labels(s *site.Site) string {
	var all []string
	s.Walk(s.Home(), func(p *site.Page) bool { all = append(all, p.Label); return true })
	return strings.Join(all, " ")
}

func TestADraftIsSavedAsItIsMadeAndPublishedWhole(t *testing.T) {
	st, url, by := founded(t, "Home\n  A\n    A1\n  B")
	id, err := st.MyChanges(ctx, by.ID)
	require.NoError(t, err)
	do(t, st, id, by, rename(st.Published().Site, "A", "Sailings"))
	d := do(t, st, id, by, edit.OpMove{Page: 3, To: edit.Place{Parent: 4}})
	assert.Equal(t, "Home Sailings B A1", labels(d.Site))
	assert.Equal(t, "Home A A1 B", labels(st.Published().Site), "public is untouched")

	other := storetest.Open(t, url) // another instance, or the same after a restart
	again, err := other.Draft(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, testkit.Dump(d.Site), testkit.Dump(again.Site))

	before := st.Published().Revision
	_, err = st.Publish(ctx, id, by, store.Reviewed{Revision: before, Version: d.Version - 1})
	assert.ErrorIs(t, err, store.ErrReview, "what is published is what was looked at")
	made, err := st.Publish(ctx, id, by, store.Reviewed{Revision: before, Version: d.Version})
	require.NoError(t, err)
	assert.Equal(t, before+1, made.Revision)
	assert.Equal(t, "Home Sailings B A1", labels(st.Published().Site))
	assert.Equal(t, made.Revision, st.Published().Site.Page(3).Revision)
	_, err = st.Publish(ctx, id, by, store.Reviewed{Revision: made.Revision, Version: d.Version + 1})
	assert.ErrorIs(t, err, store.ErrNothing)

	fresh := storetest.Open(t, url)
	assert.Equal(
		t,
		testkit.Dump(st.Published().Site),
		testkit.Dump(fresh.Published().Site),
		"tables and memory say the same",
	)
	require.NoError(t, other.CatchUp(ctx))
	assert.Equal(
		t,
		testkit.Dump(fresh.Published().Site),
		testkit.Dump(other.Published().Site),
		"catching up is loading",
	)

	history, err := st.History(ctx, store.Search{Limit: 10})
	require.NoError(t, err)
	assert.Equal(t, []string{"did something", "did something"}, history[0].Said)
	assert.Contains(t, fmt.Sprint(history[0].Sentences), "1 address changes")
}

func TestUndoAndRedo(t *testing.T) {
	st, _, by := founded(t, "Home\n  A\n  B")
	id, _ := st.MyChanges(ctx, by.ID)
	one := do(t, st, id, by, rename(st.Published().Site, "A", "One"))
	two := do(t, st, id, by, edit.OpBin{Page: 3, Seen: st.Published().Revision})
	back, step, err := st.Undo(ctx, id, by)
	require.NoError(t, err)
	assert.Equal(t, two.Steps[1].ID, step.ID)
	assert.Equal(t, testkit.Dump(one.Site), testkit.Dump(back.Site))
	back, _, err = st.Undo(ctx, id, by)
	require.NoError(t, err)
	assert.Equal(t, testkit.Dump(st.Published().Site), testkit.Dump(back.Site))
	_, _, err = st.Undo(ctx, id, by)
	assert.ErrorIs(t, err, store.ErrNoUndo, "undo never crosses a publication")
	_, _, err = st.Redo(ctx, id, by)
	require.NoError(t, err)
	forth, _, err := st.Redo(ctx, id, by)
	require.NoError(t, err)
	assert.Equal(t, testkit.Dump(two.Site), testkit.Dump(forth.Site))
	_, _, err = st.Undo(ctx, id, by)
	require.NoError(t, err)
	do(t, st, id, by, rename(st.Published().Site, "B", "Two"))
	_, _, err = st.Redo(ctx, id, by)
	assert.ErrorIs(t, err, store.ErrNoRedo, "a new edit ends what could be redone")
}

func TestConflictsAreHeldUntilTheyAreDecided(t *testing.T) {
	st, url, by := founded(t, "Home\n  A\n  B")
	other, err := st.AddAccount(ctx, "other", "Other", "long enough a password", []string{"staff"})
	require.NoError(t, err)
	mine, _ := st.MyChanges(ctx, by.ID)
	theirs, _ := st.MyChanges(ctx, other.ID)
	second := storetest.Open(t, url)
	do(t, st, mine, by, rename(st.Published().Site, "A", "Mine"))
	do(t, st, mine, by, rename(st.Published().Site, "B", "Too"))
	d := do(t, second, theirs, other, rename(second.Published().Site, "A", "Theirs"))
	_, err = second.Publish(ctx, theirs, other, store.Reviewed{Revision: d.Base.Revision, Version: d.Version})
	require.NoError(t, err)

	// Ours has not heard of it; publishing does.
	d, err = st.Draft(ctx, mine)
	require.NoError(t, err)
	_, err = st.Publish(ctx, mine, by, store.Reviewed{Revision: d.Base.Revision, Version: d.Version})
	require.ErrorIs(t, err, store.ErrHeld)
	require.NoError(t, st.CatchUp(ctx))
	d, err = st.Draft(ctx, mine)
	require.NoError(t, err)
	require.Len(t, d.Held, 1)
	assert.Equal(t, "Home Theirs Too", labels(d.Site))

	insisted, err := st.Insist(ctx, mine, by, d.Held[0])
	require.NoError(t, err)
	assert.Empty(t, insisted.Held)
	assert.Equal(t, "Home Mine Too", labels(insisted.Site))
	made, err := st.Publish(ctx, mine, by, store.Reviewed{Revision: insisted.Base.Revision, Version: insisted.Version})
	require.NoError(t, err)
	assert.Equal(t, "Home Mine Too", labels(made.Site))

	do(t, st, mine, by, rename(made.Site, "Too", "Again"))
	_, err = second.PublishDirect(ctx, other, "said", []edit.Op{rename(made.Site, "Too", "Else")})
	require.NoError(t, err)
	require.NoError(t, st.CatchUp(ctx))
	d, err = st.Draft(ctx, mine)
	require.NoError(t, err)
	dropped, err := st.Drop(ctx, mine, d.Held[0])
	require.NoError(t, err)
	assert.Empty(t, dropped.Held)
	assert.Empty(t, dropped.Steps)
	assert.Equal(t, "Home Mine Else", labels(dropped.Site))
}

func TestTakingAPublicationBack(t *testing.T) {
	st, _, by := founded(t, "Home\n  A\n    A1\n  B")
	before := st.Published().Site
	ids, _ := st.NewPageIDs(ctx, 1)
	made, err := st.PublishDirect(ctx, by, "several things", []edit.Op{
		rename(before, "A", "Sailings"),
		edit.OpMove{Page: 3, From: edit.Place{Parent: 2}, To: edit.Place{Parent: 4}},
		edit.OpBin{Page: 2, Seen: 99},
		edit.OpMake{
			Page:   ids[0],
			Place:  edit.Place{Parent: 1},
			Fields: []edit.FieldChange{{Field: edit.FieldLabel, New: "New"}},
		},
	})
	require.NoError(t, err)
	assert.Equal(t, "Home B A1 New", labels(made.Site))
	inverses, err := st.Inverses(ctx, made.Revision)
	require.NoError(t, err)
	back, err := st.PublishDirect(ctx, by, "took it back", inverses)
	require.NoError(t, err)
	assert.Equal(t, "Home A A1 B", labels(back.Site), "and the page that was made is in the bin")
	assert.Equal(t, ids, back.Site.Binned())
}

func TestASecondInstanceSeesAPublicationByNotification(t *testing.T) {
	st, url, by := founded(t, "Home\n  A")
	second := storetest.Open(t, url)
	following, stop := context.WithCancel(ctx)
	defer stop()
	news, end := second.Watch()
	defer end()
	go second.Follow(following)
	require.Eventually(t, func() bool { // until it listens, a publication may fall between
		_, err := st.PublishDirect(
			ctx,
			by,
			"said",
			[]edit.Op{
				rename(st.Published().Site, st.Published().Site.Page(2).Label, fmt.Sprint("A", time.Now().UnixNano())),
			},
		)
		require.NoError(t, err)
		select {
		case <-news:
			return second.Published().Revision == st.Published().Revision // news of a draft would do no harm
		case <-time.After(200 * time.Millisecond):
			return false
		}
	}, 20*time.Second, time.Millisecond)
	assert.Equal(t, testkit.Dump(st.Published().Site), testkit.Dump(second.Published().Site))
}

// Two instances publish at once: the site row queues them, and nothing is lost.
func TestTwoInstancesPublishAtOnce(t *testing.T) {
	st, url, by := founded(t, "Home\n  A\n  B")
	second := storetest.Open(t, url)
	errs := make(chan error, 2)
	go func() {
		_, err := st.PublishDirect(ctx, by, "one", []edit.Op{rename(st.Published().Site, "A", "One")})
		errs <- err
	}()
	go func() {
		_, err := second.PublishDirect(ctx, by, "two", []edit.Op{rename(second.Published().Site, "B", "Two")})
		errs <- err
	}()
	require.NoError(t, errors.Join(<-errs, <-errs))
	assert.Equal(t, "Home One Two", labels(storetest.Open(t, url).Published().Site))
}

// A publication whose connection dies before the commit leaves the site and the draft as they were.
func TestAPublicationThatIsCutOffLeavesEverythingAsItWas(t *testing.T) {
	st, url, by := founded(t, "Home\n  A\n  B")
	id, _ := st.MyChanges(ctx, by.ID)
	d := do(t, st, id, by, rename(st.Published().Site, "A", "One"), rename(st.Published().Site, "B", "Two"))
	admin, err := sqlx.Connect("pgx", url)
	require.NoError(t, err)
	defer admin.Close()
	// The trigger kills the publication's own backend at the last statement but one.
	_, err = admin.Exec(
		`CREATE FUNCTION cut() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN PERFORM pg_terminate_backend(pg_backend_pid()); RETURN NEW; END $$;
		CREATE TRIGGER cut BEFORE UPDATE OF revision ON site FOR EACH ROW EXECUTE FUNCTION cut()`,
	)
	require.NoError(t, err)
	_, err = st.Publish(ctx, id, by, store.Reviewed{Revision: d.Base.Revision, Version: d.Version})
	require.Error(t, err)
	_, err = admin.Exec(`DROP TRIGGER cut ON site`)
	require.NoError(t, err)
	fresh := storetest.Open(t, url)
	assert.Equal(t, "Home A B", labels(fresh.Published().Site))
	again, err := fresh.Draft(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, "Home One Two", labels(again.Site), "the draft is whole")
	_, err = fresh.Publish(ctx, id, by, store.Reviewed{Revision: again.Base.Revision, Version: again.Version})
	require.NoError(t, err)
}

// publishRandom publishes an operation that was drawn: it is done, or refused by the rules, and never fails otherwise.
func publishRandom(t require.TestingT, st *store.Store, op edit.Op) {
	_, err := st.PublishDirect(ctx, store.Account{Name: "test"}, "random", []edit.Op{op})
	var refusal *edit.Refusal
	var conflict *edit.Conflict
	if err != nil && !errors.As(err, &refusal) && !errors.As(err, &conflict) {
		require.ErrorIs(t, err, store.ErrNothing, "%#v", op)
	}
}

// PostgreSQL's recursive query and ICU collation as a second opinion on order by every rule, level and address of
// random trees after random edits.
func TestOrderLevelAndAddressAgreeWithPostgreSQL(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		st := storetest.New(t)
		defer st.Close()
		require.NoError(t, st.Found(ctx, store.Foundation{Settings: testkit.Settings(), Roles: testkit.Roles()}))
		s := testkit.Random(rt, 20)
		publishOutline(t, st, s)
		next := site.PageID(1000)
		for range rapid.IntRange(1, 12).Draw(rt, "ops") {
			publishRandom(rt, st, testkit.RandomOp(rt, st.Published().Site, &next))
		}
		s = st.Published().Site
		var rows []struct {
			ID      int64  `db:"id"`
			Level   int    `db:"level"`
			Address string `db:"address"`
		}
		require.NoError(t, st.DB().Select(&rows, `WITH RECURSIVE ordered AS (
				SELECT p.*, row_number() OVER (PARTITION BY p.parent_id ORDER BY
					CASE WHEN q.sort = 'manual' THEN 1 ELSE CASE p.pin WHEN 'start' THEN 0 WHEN 'end' THEN 2 ELSE 1 END END,
					CASE WHEN q.sort = 'manual' OR p.pin <> '' THEN p.rank ELSE '' END COLLATE "C",
					CASE q.sort WHEN 'newest' THEN p.first_online END DESC NULLS FIRST,
					CASE q.sort WHEN 'date' THEN p.date END ASC NULLS LAST,
					CASE q.sort WHEN 'date-down' THEN p.date END DESC NULLS LAST,
					p.label COLLATE "en-x-icu", p.label COLLATE "C", p.id) AS position
				FROM pages p LEFT JOIN pages q ON q.id = p.parent_id WHERE NOT p.binned),
			tree AS (
				SELECT id, 0 AS level, '' COLLATE "C" AS address, ARRAY[0::bigint] AS place FROM ordered WHERE parent_id IS NULL
				UNION ALL
				SELECT p.id, t.level + 1, CASE WHEN p.own_address <> '' THEN p.own_address ELSE t.address || '/' || p.segment END,
					t.place || p.position
				FROM ordered p JOIN tree t ON p.parent_id = t.id)
			SELECT id, level, CASE address WHEN '' THEN '/' ELSE address END AS address FROM tree ORDER BY place`))
		at := 0
		s.Walk(s.Home(), func(p *site.Page) bool {
			require.Equal(t, int64(p.ID), rows[at].ID, "order")
			require.Equal(t, s.Level(p.ID), rows[at].Level)
			require.Equal(t, address.Of(s, p.ID), rows[at].Address)
			at++
			return true
		})
		require.Len(t, rows, at)
	})
}

func TestAccounts(t *testing.T) {
	st, _, by := founded(t, "Home")
	assert.Equal(t, "keeper", by.Login)
	found, err := st.Authenticate(ctx, " KEEPER ", "long enough a password")
	require.NoError(t, err)
	assert.Equal(t, []string{"staff"}, found.Roles)
	for _, c := range [][2]string{{"keeper", "wrong"}, {"nobody", "long enough a password"}, {"", ""}} {
		_, err := st.Authenticate(ctx, c[0], c[1])
		assert.ErrorIs(t, err, store.ErrSignIn)
	}
	_, err = st.AddAccount(ctx, "keeper", "Twice", "long enough a password", nil)
	assert.ErrorContains(t, err, "already")
	_, err = st.AddAccount(ctx, "x", "X", "short", nil)
	assert.ErrorContains(t, err, "at least 12")
	for password, fault := range map[string]string{
		"QWERTY123456": "Many people use", "１２３ｑｗｅａｓｄｚｘｃ": "Many people use",
		"nine-islands": "is the sign-in name",
	} {
		_, err = st.AddAccount(ctx, "nine-islands", "X", password, nil)
		assert.ErrorContains(t, err, fault, password)
	}
	_, err = st.AddAccount(ctx, "x", "X", "long enough a password", []string{"captains"})
	assert.ErrorContains(t, err, "there is no role “captains”; there are")
	_, err = st.Account(ctx, 999)
	assert.ErrorIs(t, err, sql.ErrNoRows)
	sets, err := st.RoleSets(ctx)
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"staff"}}, sets)
}

// Source: Argon2's reference implementation, Debian's package “argon2”, with the parameters of RFC 9106 that we use.
func TestPasswordsAgreeWithTheReferenceImplementation(t *testing.T) {
	path, err := exec.LookPath("argon2")
	if err != nil {
		t.Skip("Debian's argon2 is not installed; “make test” installs it")
	}
	cmd := exec.Command(path, "somesalt12345678", "-id", "-t", "3", "-k", "65536", "-p", "4", "-l", "32", "-e")
	cmd.Stdin = strings.NewReader("nine islands")
	encoded, err := cmd.Output()
	require.NoError(t, err)
	match, err := argon2id.ComparePasswordAndHash("nine islands", strings.TrimSpace(string(encoded)))
	require.NoError(t, err)
	assert.True(t, match)
	assert.Contains(t, string(encoded), base64.RawStdEncoding.EncodeToString([]byte("somesalt12345678")))
}

// furnish publishes the main menu of test sites with its blocks in the header and at the left.
func furnish(t testing.TB, st *store.Store) {
	b := site.NewBuilder(testkit.Settings())
	testkit.Furnish(b, site.SelfNot)
	s := b.Site()
	ops := []edit.Op{
		edit.OpMakeMenu{
			Menu:    1,
			Key:     "main",
			Name:    "Main menu",
			Entries: []edit.EntryForm{{ID: 1, Fields: map[edit.Field]string{edit.FieldShows: "branch:1:0:not"}}},
		},
	}
	for i := range s.Blocks() {
		block := &s.Blocks()[i]
		ops = append(
			ops,
			edit.OpMakeBlock{
				Block: block.ID,
				Fields: map[edit.Field]string{
					edit.FieldName:  block.Name,
					edit.FieldTitle: block.Title,
					edit.FieldPiece: piece.Text(block.Shows),
				},
			},
			edit.OpPutPlacement{
				Placement: site.PlacementID(block.ID),
				Block:     block.ID,
				Slot: edit.Slot{
					Region: map[site.BlockID]string{testkit.Header: "header", testkit.Side: "left"}[block.ID],
				},
			},
		)
	}
	_, err := st.PublishDirect(ctx, store.Account{Name: "test"}, "furnished the site", ops)
	require.NoError(t, err)
}

func TestOnesOwnDetails(t *testing.T) {
	ctx := context.Background()
	st := storetest.New(t)
	ana, err := st.AddAccount(ctx, "ana", "Ana Berg", "long enough for anybody", nil)
	require.NoError(t, err)
	require.NoError(t, st.SetName(ctx, ana.ID, "Ana Bergh"))
	_, err = st.SetPassword(ctx, ana, "wrong", "another long password")
	assert.ErrorIs(t, err, store.ErrSignIn)
	_, err = st.SetPassword(ctx, ana, "long enough for anybody", "short")
	assert.ErrorContains(t, err, "at least 12 characters")
	changed, err := st.SetPassword(ctx, ana, "long enough for anybody", "another long password")
	require.NoError(t, err)
	assert.Equal(t, ana.Epoch+1, changed.Epoch, "sessions from before are not good any more")
	_, err = st.Authenticate(ctx, "ana", "long enough for anybody")
	assert.ErrorIs(t, err, store.ErrSignIn)
	again, err := st.Authenticate(ctx, "ana", "another long password")
	require.NoError(t, err)
	assert.Equal(t, "Ana Bergh", again.Name)
	require.NoError(t, st.Note(ctx, ana, "uploaded the file “map.pdf”"))
	records, err := st.Records(ctx, 1)
	require.NoError(t, err)
	assert.Equal(t, "uploaded the file “map.pdf”", records[0].Said)
	assert.Equal(t, "Ana Berg", records[0].By)
}

// Every setting comes back as it was written.
func TestSettingsRoundTrip(t *testing.T) {
	ctx := context.Background()
	url := storetest.URL(t)
	st := storetest.Open(t, url)
	_, err := st.PublishDirect(
		ctx,
		store.Account{Name: "test"},
		"home",
		[]edit.Op{edit.OpMake{Page: 1, Fields: []edit.FieldChange{{Field: edit.FieldLabel, New: "Home"}}}},
	)
	require.NoError(t, err)
	change := func(field edit.Field, old, value string) {
		_, err := st.PublishDirect(
			ctx,
			store.Account{Name: "test"},
			"set",
			[]edit.Op{edit.OpEditSettings{Fields: []edit.FieldChange{{Field: field, Old: old, New: value}}}},
		)
		require.NoError(t, err, field)
	}
	settings := st.Published().Site.Settings()
	for field, value := range map[edit.Field]string{
		edit.FieldClosed: "yes", edit.FieldRegister: "yes", edit.FieldPaleBadges: "yes", edit.FieldLayout: "wide",
		edit.FieldBinDays:  "12",
		edit.FieldSiteName: "Another", edit.FieldLanguage: "sv", edit.FieldZone: "Europe/Oslo", edit.FieldDates: "year-month",
	} {
		change(field, edit.SettingValue(settings, field), value)
	}
	change(edit.FieldNotFoundPage, "", "1")
	fresh := storetest.Open(t, url)
	got := fresh.Published().Site.Settings()
	for field, value := range map[edit.Field]string{
		edit.FieldClosed: "yes", edit.FieldRegister: "yes", edit.FieldPaleBadges: "yes", edit.FieldLayout: "wide",
		edit.FieldBinDays: "12", edit.FieldNotFoundPage: "1",
		edit.FieldSiteName: "Another", edit.FieldLanguage: "sv", edit.FieldZone: "Europe/Oslo", edit.FieldDates: "year-month",
	} {
		assert.Equal(t, value, edit.SettingValue(got, field), field)
	}
}
