package localpg

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var ctx = context.Background()

func folder(t *testing.T) string {
	dir, err := os.MkdirTemp("", "vineladder-localpg-")
	require.NoError(t, err)
	require.NoError(t, os.Chmod(dir, 0o755))
	t.Cleanup(func() { os.RemoveAll(dir) })
	return filepath.Join(dir, "postgres")
}

func ask(t *testing.T, url, query string) (answer string) {
	conn, err := pgx.Connect(ctx, url)
	require.NoError(t, err)
	defer conn.Close(ctx)
	require.NoError(t, conn.QueryRow(ctx, query).Scan(&answer))
	return answer
}

func TestAClusterStartsStopsAndTakesUpWhereItWas(t *testing.T) {
	dir := folder(t)
	s, err := Start(ctx, dir, "fsync=off")
	require.NoError(t, err)
	require.NoError(t, s.CreateDatabase(ctx, "site"))
	require.NoError(t, s.CreateDatabase(ctx, "site"), "once is enough")
	assert.Equal(t, "127.0.0.1", ask(t, s.URL("site"), `SHOW listen_addresses`), "on loopback only")
	assert.Equal(t, "off", ask(t, s.URL("site"), `SHOW fsync`))
	assert.NotEqual(t, "root", ask(t, s.URL("site"), `SELECT current_user`))

	// Another program that starts the same cluster takes it over: what was killed without stopping it goes on.
	again, err := Start(ctx, dir)
	require.NoError(t, err)
	assert.Equal(t, s.PID(), again.PID())
	require.NoError(t, again.Close())
	<-s.done
	assert.ErrorIs(t, s.process.Signal(syscall.Signal(0)), os.ErrProcessDone)

	third, err := Start(ctx, dir)
	require.NoError(t, err)
	assert.Equal(t, "site", ask(t, third.URL("postgres"), `SELECT datname FROM pg_database WHERE datname = 'site'`))
	wrong := strings.Replace(third.URL("site"), third.password, "wrong", 1)
	_, err = pgx.Connect(ctx, wrong)
	assert.ErrorContains(t, err, "password authentication failed")
	require.NoError(t, third.Close())
	assert.NoError(t, third.Close(), "twice is no harm")
}

func TestAFolderThatPostgreSQLCanNotEnterIsSaid(t *testing.T) {
	if os.Geteuid() != 0 {
		t.Skip("only root hands the cluster to another user")
	}
	closed := filepath.Dir(folder(t))
	require.NoError(t, os.Chmod(closed, 0o700))
	_, err := Start(ctx, filepath.Join(closed, "postgres"))
	assert.ErrorContains(t, err, "can't enter "+closed)
	assert.ErrorContains(t, err, "chmod a+x")
}

// A server that is killed is there again at the same address, and one that is stopped in order is not.
func TestAServerThatEndsIsStartedAgain(t *testing.T) {
	s, err := Start(ctx, folder(t), "fsync=off")
	require.NoError(t, err)
	keeping, stop := context.WithCancel(ctx)
	done := make(chan struct{})
	go func() { defer close(done); s.Keep(keeping, func(string, error) {}) }()
	require.NoError(t, s.CreateDatabase(ctx, "site"))
	was, url := s.PID(), s.URL("site")
	require.NoError(t, syscall.Kill(was, syscall.SIGKILL))
	require.Eventually(t, func() bool {
		conn, err := pgx.Connect(ctx, url)
		return err == nil && conn.Close(ctx) == nil && s.PID() != was
	}, time.Minute, 100*time.Millisecond)
	assert.Equal(t, "site", ask(t, url, `SELECT current_database()::text`))
	stop()
	<-done
	require.NoError(t, s.Close())
	assert.True(t, s.hasEnded())
}
