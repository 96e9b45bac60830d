// Package storetest gives tests a real PostgreSQL: one server for a test program, one fresh database for a test.
package storetest

import (
	"context"
	"fmt"
	"log/slog"
	"os"
	"sync/atomic"
	"testing"

	"github.com/jmoiron/sqlx"
	"github.com/stretchr/testify/require"

	_ "vineladder/internal/laws"
	"vineladder/internal/localpg"
	"vineladder/internal/store"
)

var (
	server *localpg.Server
	count  atomic.Int64
)

const template = "vineladder_template"

// Main runs a package's tests with a server of their own.
func Main(m *testing.M) { os.Exit(run(m)) }

func run(m *testing.M) int {
	dir, err := os.MkdirTemp("", "vineladder-test-")
	if err != nil {
		panic(err)
	}
	defer os.RemoveAll(dir)
	if err := os.Chmod(dir, 0o755); err != nil {
		panic(err)
	}
	ctx := context.Background()
	// Durability is not under test here, and without it the tests take a third of the time.
	server, err = localpg.Start(
		ctx,
		dir,
		"fsync=off",
		"synchronous_commit=off",
		"full_page_writes=off",
		"max_connections=200",
	)
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		return 1
	}
	defer server.Close()
	if err := server.CreateDatabase(ctx, template); err != nil {
		panic(err)
	}
	if err := store.Migrate(ctx, server.URL(template)); err != nil {
		panic(err)
	}
	return m.Run()
}

// URL makes a fresh, migrated database.
func URL(t testing.TB) string { return database(t, template) }

// Bare makes a database without tables.
func Bare(t testing.TB) string { return database(t, "template0") }

func database(t testing.TB, template string) string {
	name := fmt.Sprintf("test_%d", count.Add(1))
	admin, err := sqlx.Connect("pgx", server.URL("postgres"))
	require.NoError(t, err)
	defer admin.Close()
	_, err = admin.Exec(`CREATE DATABASE ` + name + ` TEMPLATE ` + template)
	require.NoError(t, err)
	return server.URL(name)
}

// New opens a store on a fresh database.
func New(t testing.TB) *store.Store { return Open(t, URL(t)) }

// Open opens one more store, as another instance would.
func Open(t testing.TB, url string) *store.Store {
	st, err := store.Open(context.Background(), url, slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	return st
}
