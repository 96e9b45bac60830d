package chaos

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"math/rand/v2"
	"os"
	"os/exec"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/localpg"
	"vineladder/internal/store"
)

// The test program is also the victim: with this variable it publishes in a loop until somebody kills it.
const victimOf = "VINELADDER_CHAOS_DATABASE"

var ctx = context.Background()

func TestMain(m *testing.M) {
	if url := os.Getenv(victimOf); url != "" {
		if err := victim(url, os.Getenv("VINELADDER_CHAOS_PLANNED") != ""); err != nil {
			fmt.Fprintln(os.Stderr, err)
			os.Exit(1)
		}
		return
	}
	os.Exit(m.Run())
}

const pages = 300

// victim renames every page to the next round, each round one draft published whole, now or at a moment a little ahead.
func victim(url string, planned bool) error {
	st, err := store.Open(ctx, url, slog.New(slog.DiscardHandler))
	if err != nil {
		return err
	}
	by, err := st.AccountByLogin(ctx, "keeper")
	if err != nil {
		return err
	}
	go st.Schedule(ctx)
	id, err := st.MyChanges(ctx, by.ID)
	if err != nil {
		return err
	}
	fmt.Println("ready")
	for {
		if err := st.CatchUp(ctx); err != nil {
			return err
		}
		d, err := st.Draft(ctx, id)
		if err != nil {
			return err
		}
		if len(d.Steps) == 0 {
			if d, err = st.AddStep(ctx, id, by, "renamed all", func(d *store.Draft) ([]edit.Op,
				error,
			) {
				return nextRound(d.Site), nil
			}); err != nil {
				return err
			}
		}
		switch {
		case !planned:
			_, err = st.Publish(ctx, id, by, store.Reviewed{Revision: d.Base.Revision, Version: d.Version})
			if errors.Is(err, store.ErrNothing) {
				err = nil // a planned publication came in between; there is nothing left to do
			}
		case d.Planned.IsZero():
			err = st.Plan(ctx, id, by, time.Now().Add(10*time.Millisecond))
		default:
			time.Sleep(time.Millisecond)
		}
		if err != nil {
			return err
		}
	}
}

func round(s *site.Site) int {
	n, _ := strconv.Atoi(strings.TrimPrefix(s.Page(2).Label, "Round "))
	return n
}

func nextRound(s *site.Site) []edit.Op {
	return edit.SetMany(s, s.Children(s.Home()), edit.FieldLabel, fmt.Sprintf("Round %d", round(s)+1))
}

func TestKilledAtAnyMomentTheSiteIsTheOneBeforeOrAfter(t *testing.T) {
	times := 10
	if n, err := strconv.Atoi(os.Getenv("VINELADDER_CHAOS")); err == nil {
		times = n
	}
	dir := t.TempDir()
	for at := dir; at != os.TempDir() && at != "/"; at = at[:strings.LastIndexByte(at, '/')] {
		require.NoError(t, os.Chmod(at, 0o755)) // the database runs as somebody else
	}
	pg, err := localpg.Start(ctx, dir+"/pg")
	require.NoError(t, err)
	require.NoError(t, pg.CreateDatabase(ctx, "chaos"))
	found(t, pg.URL("chaos"))
	published := 0
	for n := range times {
		planned := n%2 == 1
		kid, out := startVictim(t, pg.URL("chaos"), planned)
		lines := bufio.NewScanner(out)
		require.True(t, lines.Scan(), "the victim did not start")
		time.Sleep(time.Duration(rand.IntN(300)) * time.Millisecond)
		if n%4 < 2 {
			require.NoError(t, kid.Process.Kill())
		} else {
			require.NoError(t, syscall.Kill(pg.PID(), syscall.SIGKILL))
		}
		_ = kid.Process.Kill()
		_ = kid.Wait()
		pg = restart(t, pg, dir+"/pg", n%4 >= 2)
		published = look(t, pg.URL("chaos"), published)
	}
	require.NoError(t, pg.Close())
	t.Logf("%d kills, %d publications between them", times, published)
}

func startVictim(t *testing.T, url string, planned bool) (*exec.Cmd, *os.File) {
	read, write, err := os.Pipe()
	require.NoError(t, err)
	defer write.Close()
	t.Cleanup(func() { read.Close() })
	kid := exec.Command(os.Args[0])
	kid.Env = append(os.Environ(), victimOf+"="+url)
	if planned {
		kid.Env = append(kid.Env, "VINELADDER_CHAOS_PLANNED=yes")
	}
	kid.Stdout = write
	require.NoError(t, kid.Start())
	return kid, read
}

// restart starts the database again where it was killed; its last processes may take a moment to go.
func restart(t *testing.T, pg *localpg.Server, dir string, killed bool) *localpg.Server {
	if !killed {
		return pg
	}
	var again *localpg.Server
	require.Eventually(t, func() bool {
		var err error
		again, err = localpg.Start(ctx, dir)
		return err == nil
	}, time.Minute, 100*time.Millisecond)
	return again
}

func found(t *testing.T, url string) {
	require.NoError(t, store.Migrate(ctx, url))
	st, err := store.Open(ctx, url, slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	defer st.Close()
	role := site.Role{
		Key:    "keepers",
		Name:   "Keepers",
		Grants: site.OnSite(site.ActionEdit, site.ActionArrange, site.ActionPublish),
	}
	require.NoError(
		t,
		st.Found(
			ctx,
			store.Foundation{
				Settings: site.Settings{Name: "Chaos", Language: "en", Zone: time.UTC},
				Roles:    []site.Role{role},
			},
		),
	)
	_, err = st.AddAccount(ctx, "keeper", "Keeper", "long enough a password", []string{"keepers"})
	require.NoError(t, err)
	ids, err := st.NewPageIDs(ctx, pages)
	require.NoError(t, err)
	var ops []edit.Op
	for i, id := range ids {
		op := edit.OpMake{Page: id, Fields: []edit.FieldChange{{Field: edit.FieldLabel, New: "Round 0"}}}
		if i > 0 {
			op.Place.Parent = ids[0]
			op.Fields = append(op.Fields, edit.FieldChange{Field: edit.FieldStatus, New: "live"})
		}
		ops = append(ops, op)
	}
	_, err = st.PublishDirect(ctx, store.Account{Name: "chaos"}, "made the pages", ops)
	require.NoError(t, err)
}

// look finds nothing half done, and gives the number of publications so far.
func look(t *testing.T, url string, before int) int {
	st, err := store.Open(ctx, url, slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	defer st.Close()
	s := st.Published().Site
	now := round(s)
	for _, id := range s.Children(s.Home()) {
		require.Equal(t, fmt.Sprintf("Round %d", now), s.Page(id).Label, "all pages are of one round")
	}
	require.GreaterOrEqual(t, now, before)
	history, err := st.History(ctx, store.Search{Limit: 1000})
	require.NoError(t, err)
	require.Equal(t, st.Published().Revision, history[0].Revision, "the history ends where the site stands")
	require.Len(t, history, now+1, "one publication a round")
	by, err := st.AccountByLogin(ctx, "keeper")
	require.NoError(t, err)
	id, err := st.MyChanges(ctx, by.ID)
	require.NoError(t, err)
	d, err := st.Draft(ctx, id)
	require.NoError(t, err)
	require.Empty(t, d.Held)
	switch len(d.Steps) {
	case 0: // it was published whole, or not edited yet
	case 1:
		require.Len(t, d.Steps[0].Ops, pages-1, "the draft is whole")
		// A planned publication can come in between looking at the site and editing: the edit then says what is public
		// already, and changes nothing.
		if round(d.Site) == now {
			for _, op := range d.Steps[0].Ops {
				require.Empty(t, op.(edit.OpEdit).Fields, "what is public already is no change")
			}
			break
		}
		require.Equal(t, now+1, round(d.Site))
	default:
		require.Fail(t, "a draft of two rounds")
	}
	return now
}
