package gate_test

import (
	"io"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
	"vineladder/internal/web/gate"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// A door is a small site: it signs in, says who is there, changes something, waits, and signs out.
type door struct {
	*httptest.Server
	store    *store.Store
	sessions *gate.Sessions
	account  store.Account
	wait     chan struct{} // what a slow request waits for
	begun    chan struct{}
}

func open(t *testing.T) *door {
	d := &door{store: storetest.New(t), wait: make(chan struct{}), begun: make(chan struct{}, 1)}
	var err error
	d.account, err = d.store.AddAccount(t.Context(), "ana", "Ana", "pier lamp oil and rope", nil)
	require.NoError(t, err)
	d.sessions = gate.NewSessions(
		d.store,
		"test",
		false,
		gate.Clients{},
		gate.NewSigner([]byte("key")),
		slog.New(slog.DiscardHandler),
	)
	mux := http.NewServeMux()
	mux.HandleFunc("/in", func(w http.ResponseWriter, r *http.Request) {
		_, err := d.sessions.SignIn(r, "ana", "pier lamp oil and rope")
		assert.NoError(t, err)
	})
	mux.HandleFunc("/who", func(w http.ResponseWriter, r *http.Request) {
		account, _, err := d.sessions.Account(r.Context())
		assert.NoError(t, err)
		_, _ = io.WriteString(w, account.Login)
	})
	mux.HandleFunc("/slow", func(w http.ResponseWriter, r *http.Request) {
		d.sessions.Put(r.Context(), "said", "something")
		d.begun <- struct{}{}
		<-d.wait
		_, _ = io.WriteString(w, "done")
	})
	mux.HandleFunc(
		"/out",
		func(w http.ResponseWriter, r *http.Request) { assert.NoError(t, d.sessions.Destroy(r.Context())) },
	)
	d.Server = httptest.NewServer(d.sessions.LoadAndSave(mux))
	t.Cleanup(func() { d.Server.Close(); d.sessions.Close() })
	return d
}

// get asks with a cookie and gives the body and the cookie that is set; "" if none is.
func (d *door) get(t *testing.T, path, cookie string) (status int, body, set string) {
	request, err := http.NewRequest(http.MethodGet, d.URL+path, nil)
	require.NoError(t, err)
	if cookie != "" {
		request.AddCookie(&http.Cookie{Name: d.sessions.Cookie.Name, Value: cookie})
	}
	answer, err := http.DefaultTransport.RoundTrip(request)
	require.NoError(t, err)
	defer answer.Body.Close()
	read, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	for _, c := range answer.Cookies() {
		set = c.Value
		if c.MaxAge < 0 {
			set = "taken away"
		}
	}
	return answer.StatusCode, string(read), set
}

func TestASessionFromSignInToSignOut(t *testing.T) {
	d := open(t)
	_, who, set := d.get(t, "/who", "")
	assert.Empty(t, who+set, "nobody has a session for looking")
	_, _, cookie := d.get(t, "/in", "")
	require.NotEmpty(t, cookie)
	_, who, set = d.get(t, "/who", cookie)
	assert.Equal(t, "ana", who)
	assert.Empty(t, set, "a cookie is set where it changes only")

	var rows []struct {
		Hash    []byte `db:"hash"`
		Account int64  `db:"account"`
	}
	require.NoError(t, d.store.DB().Select(&rows, `SELECT hash, account FROM sessions`))
	require.Len(t, rows, 1)
	assert.Equal(t, d.account.ID, rows[0].Account)
	token, _, _ := strings.Cut(cookie, ".")
	assert.NotContains(t, string(rows[0].Hash), token, "who reads the table can't take the session over")

	_, _, again := d.get(t, "/in", cookie)
	assert.NotEqual(t, cookie, again, "signing in begins another session")
	_, who, _ = d.get(t, "/who", cookie)
	assert.Empty(t, who, "the one from before is of no use")
	_, _, set = d.get(t, "/out", again)
	assert.Equal(t, "taken away", set)
	_, who, _ = d.get(t, "/who", again)
	assert.Empty(t, who)
}

// A request that began before the session ended, and writes it afterwards, brings nothing back: held open across
// signing out, and across a change of the password.
func TestASlowRequestBringsNoSessionBack(t *testing.T) {
	d := open(t)
	for _, end := range []func(cookie string){
		func(cookie string) { d.get(t, "/out", cookie) },
		func(string) {
			_, err := d.store.ResetPassword(t.Context(), d.account, "pier lamp oil and rope")
			require.NoError(t, err)
		},
	} {
		_, _, cookie := d.get(t, "/in", "")
		answered := make(chan string)
		go func() {
			_, _, set := d.get(t, "/slow", cookie)
			answered <- set
		}()
		<-d.begun
		end(cookie)
		d.wait <- struct{}{}
		assert.Empty(t, <-answered, "it sets no cookie")
		_, who, _ := d.get(t, "/who", cookie)
		assert.Empty(t, who)
	}
}

// A cookie that was not made here is told without a query: it is answered as nobody's even with the database gone,
// where a good one is told to come again.
func TestUnknownCookiesCostNoQuery(t *testing.T) {
	d := open(t)
	_, _, cookie := d.get(t, "/in", "")
	require.NoError(t, d.store.DB().Close())
	for _, unknown := range []string{"", "x", "x.y", strings.Repeat("a", 43), cookie + "x", "x" + cookie} {
		status, _, _ := d.get(t, "/who", unknown)
		assert.Equal(t, http.StatusOK, status, unknown)
	}
	status, body, _ := d.get(t, "/who", cookie)
	assert.Equal(t, http.StatusServiceUnavailable, status)
	assert.Contains(t, body, "try again")
}

// The token of a preview stands in no log.
func TestPathsForTheLogNameNoToken(t *testing.T) {
	for path, want := range map[string]string{
		"/proof/abc.def/harbours/north": "/proof/…/harbours/north",
		"/proof/abc":                    "/proof/…/", "/harbours": "/harbours",
	} {
		assert.Equal(t, want, gate.Path(httptest.NewRequest(http.MethodGet, path, nil)))
	}
}

// What a session's cookie is for browsers to hold to: no script reads it, other sites don't send it along, and under
// https it is bound to this host (RFC 6265bis 4.1.3 and 5.5; from memory).
func TestCookiesAreKeptToThemselves(t *testing.T) {
	for _, secure := range []bool{false, true} {
		st := storetest.New(t)
		_, err := st.AddAccount(t.Context(), "ana", "Ana", "pier lamp oil and rope", nil)
		require.NoError(t, err)
		signer, log := gate.NewSigner([]byte("key")), slog.New(slog.DiscardHandler)
		sessions := gate.NewSessions(st, "test", secure, gate.Clients{}, signer, log)
		in := sessions.LoadAndSave(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
			_, err := sessions.SignIn(r, "ana", "pier lamp oil and rope")
			assert.NoError(t, err)
		}))
		answer := httptest.NewRecorder()
		in.ServeHTTP(answer, httptest.NewRequest(http.MethodPost, "/in", nil))
		cookies := answer.Result().Cookies()
		require.Len(t, cookies, 1)
		cookie := cookies[0]
		assert.True(t, cookie.HttpOnly)
		assert.Equal(t, http.SameSiteLaxMode, cookie.SameSite)
		assert.Equal(t, "/", cookie.Path)
		assert.Empty(t, cookie.Domain)
		assert.Equal(t, secure, cookie.Secure)
		assert.Equal(t, secure, strings.HasPrefix(cookie.Name, "__Host-"))
		sessions.Close()
	}
}
