package public

import (
	"compress/gzip"
	"context"
	"fmt"
	"io"
	"log/slog"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/blob"
	"vineladder/internal/clock"
	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/demo"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
	"vineladder/internal/web/assets"
	"vineladder/internal/web/gate"
)

// serve starts the public site on loopback, until the test is over.
func serve(t *testing.T, st *store.Store, set Settings) (*httptest.Server, *Server) {
	t.Helper()
	files, err := assets.New()
	require.NoError(t, err)
	server := httptest.NewUnstartedServer(nil)
	host := server.Listener.Addr().String()
	set.Origin, set.Hosts = "http://"+host, []string{host}
	site, err := New(st, set, files, gate.NewSigner([]byte("key")), slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	server.Config.Handler = site.Handler()
	server.Start()
	t.Cleanup(func() { server.Close(); site.Close() })
	return server, site
}

// serveFiles starts the public site of the demo with its files.
func serveFiles(t *testing.T) (*httptest.Server, *Server, *store.Store, *blob.Store) {
	t.Helper()
	st := storetest.New(t)
	require.NoError(t, demo.Load(t.Context(), st))
	bytes, err := blob.Open(t.Context(), t.TempDir())
	require.NoError(t, err)
	require.NoError(t, demo.Papers(t.Context(), st, bytes))
	server, site := serve(t, st, Settings{Files: store.Files{Bytes: bytes}})
	return server, site, st, bytes
}

// The server sends exactly what Answer says: made anew, kept, packed or not, to who is signed out or in.
func TestTheServerSendsWhatAnswerSays(t *testing.T) {
	ctx := context.Background()
	st := storetest.New(t)
	require.NoError(t, demo.Load(ctx, st))
	_, err := st.PublishDirect(ctx, store.Account{Name: "test"}, "let programs read", []edit.Op{edit.OpEditMenu{
		Menu:   st.Published().Site.MenuByKey("main-menu").ID,
		Fields: []edit.FieldChange{{Field: edit.FieldPrograms, Old: "no", New: "yes"}},
	}})
	require.NoError(t, err)
	listener, s := serve(t, st, Settings{})
	now := clock.Now()
	s.now = func() time.Time { return now }

	visitors := []*visitor{{client: anonymous(nil)}}
	for _, a := range demo.Accounts {
		visitors = append(visitors, signIn(t, st, listener.URL, a))
	}
	paths := known(st.Published().Site)
	for _, query := range []string{"", "?levels=1", "?levels=2", "?levels=0", "?levels=2&x=1", "?x"} {
		paths = append(paths, slices.Repeat([]string{"/api/menus/main-menu.json" + query}, 8)...)
	}
	random := rand.New(rand.NewPCG(1, 2))
	statuses := map[int]int{}
	for range 900 {
		who, path := visitors[random.IntN(len(visitors))], paths[random.IntN(len(paths))]
		if random.IntN(3) > 0 {
			who = visitors[0]
		}
		if random.IntN(3) == 0 && !strings.Contains(path, "?") {
			path += fmt.Sprintf("?from=%d&word=%%22%%3E", random.IntN(3)) // nobody's stands in what another gets
		}
		packed := random.IntN(2) == 0
		want, err := s.Answer(ctx, who.asks(st.Published().Site, now, path))
		require.NoError(t, err)
		got := who.get(t, listener.URL+path, packed)
		assert.Equal(t, want.Status, got.Status, path)
		assert.Equal(t, want.Location, got.Location, path)
		assert.Equal(t, want.RetryAfter, got.RetryAfter, path)
		assert.Equal(t, want.Cache, got.Cache, path)
		assert.Equal(t, want.Type, got.Type, path)
		assert.Equal(t, string(want.Body), string(got.Body), path)
		statuses[got.Status]++
	}
	for _, status := range []int{200, 303, 308, 400, 403, 404} {
		assert.NotZero(t, statuses[status], "no answer was %d: %v", status, statuses)
	}
}

// A visitor asks the server as a browser does.
type visitor struct {
	client  *http.Client
	account store.Account
}

func anonymous(jar http.CookieJar) *http.Client {
	return &http.Client{
		Jar: jar, Transport: &http.Transport{DisableCompression: true},
		CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse },
	}
}

func signIn(t *testing.T, st *store.Store, origin string, a demo.Account) *visitor {
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	v := &visitor{client: anonymous(jar)}
	answer, err := v.client.PostForm(
		origin+"/sign-in",
		url.Values{"login": {a.Login}, "password": {a.Password}, "to": {"/"}},
	)
	require.NoError(t, err)
	defer answer.Body.Close()
	require.Equal(t, http.StatusSeeOther, answer.StatusCode)
	v.account, err = st.Authenticate(context.Background(), a.Login, a.Password)
	require.NoError(t, err)
	return v
}

func (v *visitor) asks(s *site.Site, now time.Time, path string) Request {
	path, query, _ := strings.Cut(path, "?")
	q := Request{Site: s, Path: path, Query: query, Lens: reach.Lens{At: now}}
	if v.account.ID != 0 {
		q.Name, q.Login, q.Roles = v.account.Name, v.account.Login, v.account.Roles
		q.Lens.Visitor = reach.Visitor{SignedIn: true, Roles: s.Holds(v.account.Roles)}
		q.Edit = editingFor(s, v.account.Roles, "")
	}
	return q
}

func (v *visitor) get(t *testing.T, at string, packed bool) Response {
	request, err := http.NewRequest(http.MethodGet, at, nil)
	require.NoError(t, err)
	if packed {
		request.Header.Set("Accept-Encoding", "gzip")
	}
	answer, err := v.client.Do(request)
	require.NoError(t, err)
	defer answer.Body.Close()
	var body io.Reader = answer.Body
	if answer.Header.Get("Content-Encoding") == "gzip" {
		body, err = gzip.NewReader(answer.Body)
		require.NoError(t, err)
	}
	read, err := io.ReadAll(body)
	require.NoError(t, err)
	h := answer.Header
	return Response{
		Status: answer.StatusCode, Location: h.Get("Location"), RetryAfter: h.Get("Retry-After"), Type: h.Get("Content-Type"),
		Cache: h.Get("Cache-Control"), Body: read,
	}
}

// known are addresses of pages, short and old ones, forms, menus for programs, with queries and without, and some that
// lead nowhere.
func known(s *site.Site) []string {
	paths := []string{
		"/nowhere",
		"/no/where",
		"/Sailings/",
		"/sign-in",
		"/sign-in?to=/fares",
		"/register",
		"/my-details",
		"/sailings?q=1",
	}
	s.Walk(s.Home(), func(p *site.Page) bool {
		paths = append(paths, address.Of(s, p.ID))
		return true
	})
	for _, f := range s.Fixed() {
		paths = append(paths, f.Address)
	}
	for i := range s.Menus() {
		paths = append(paths, "/api/menus/"+s.Menus()[i].Key+".json", "/api/menus/"+s.Menus()[i].Key+".json?levels=1")
	}
	return paths
}
