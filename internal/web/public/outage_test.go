package public

import (
	"context"
	"io"
	"log/slog"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/demo"
	"vineladder/internal/localpg"
	"vineladder/internal/store"
	"vineladder/internal/web/assets"
	"vineladder/internal/web/gate"
)

// While the database is gone every page that was asked for before goes on being served, to who is signed in as to
// everyone else; what is not at hand says that it comes back. Nobody is told that they are signed out, and nothing
// hangs.
func TestPagesGoOnWithoutTheDatabase(t *testing.T) {
	ctx := context.Background()
	dir, err := os.MkdirTemp("", "vineladder-outage-")
	require.NoError(t, err)
	t.Cleanup(func() { os.RemoveAll(dir) })
	require.NoError(t, os.Chmod(dir, 0o755))
	database, err := localpg.Start(ctx, dir, "fsync=off")
	require.NoError(t, err)
	require.NoError(t, database.CreateDatabase(ctx, "site"))
	require.NoError(t, store.Migrate(ctx, database.URL("site")))
	log := slog.New(slog.DiscardHandler)
	st, err := store.Open(ctx, database.URL("site"), log)
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	require.NoError(t, demo.Load(ctx, st))
	built, err := assets.New()
	require.NoError(t, err)
	var handler http.Handler
	server := httptest.NewServer(
		http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) { handler.ServeHTTP(w, r) }),
	)
	t.Cleanup(server.Close)
	site, err := New(
		st,
		Settings{Origin: server.URL, Hosts: []string{strings.TrimPrefix(server.URL, "http://")}},
		built,
		gate.NewSigner([]byte("key")),
		log,
	)
	require.NoError(t, err)
	t.Cleanup(site.Close)
	handler = site.Handler()
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	staff := &http.Client{Jar: jar}
	get := func(client *http.Client, path string) (*http.Response, string) {
		answer, err := client.Get(server.URL + path)
		require.NoError(t, err)
		defer answer.Body.Close()
		body, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		return answer, string(body)
	}
	_, err = staff.PostForm(
		server.URL+"/sign-in",
		url.Values{"login": {"staff"}, "password": {demo.Accounts[2].Password}, "to": {"/"}},
	)
	require.NoError(t, err)
	_, mine := get(staff, "/staff-handbook")
	assert.Contains(t, mine, "Morag Linn")
	_, before := get(http.DefaultClient, "/sailings/fares")

	require.NoError(t, database.Close())
	answer, after := get(http.DefaultClient, "/sailings/fares")
	assert.Equal(t, http.StatusOK, answer.StatusCode)
	assert.Equal(t, before, after)
	answer, page := get(staff, "/sailings/fares")
	assert.Equal(t, http.StatusOK, answer.StatusCode)
	assert.Contains(t, page, "You see what is for everyone: for the moment we can't tell that you are signed in.")
	assert.Contains(t, answer.Header.Get("Cache-Control"), "no-store")
	assert.NotContains(t, page, "Morag Linn")
	answer, page = get(http.DefaultClient, "/sailings/on-board")
	assert.Contains(t, []int{http.StatusOK, http.StatusServiceUnavailable}, answer.StatusCode)
	if answer.StatusCode == http.StatusServiceUnavailable {
		assert.Equal(t, "30", answer.Header.Get("Retry-After"))
		assert.Contains(t, page, "This page can't be shown just now.")
		assert.Contains(t, page, "Skerrow Isles Harbour Board")
	}
	_, again := get(http.DefaultClient, "/sailings/fares")
	assert.Equal(t, before, again)
}
