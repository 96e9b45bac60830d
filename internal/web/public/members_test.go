package public

import (
	"bytes"
	"compress/gzip"
	"context"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/reach"
	"vineladder/internal/demo"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
)

// Who is signed in gets the page that all of their roles get, with their own name, whatever is in it: byte by byte what
// Answer says, the first time, from memory, and packed. An end at another instance holds here within two seconds, and
// an instance that does not hear remembers nobody.
func TestSharedPages(t *testing.T) {
	at := storetest.URL(t)
	st, other := storetest.Open(t, at), storetest.Open(t, at)
	ctx, stop := context.WithCancel(context.Background())
	require.NoError(t, demo.Load(ctx, st))
	heard := make(chan struct{})
	go func() { st.Follow(ctx); close(heard) }()
	t.Cleanup(func() { stop(); <-heard })

	server, site := serve(t, st, Settings{})
	require.NoError(t, other.Reload(ctx))
	names := map[string]string{"ana": `Ana <b>&"'+=`, "ben": "Ben name" + strings.Repeat("n", 20), "eve": "Ève Øye"}
	clients := map[string]*http.Client{}
	for login, name := range names {
		_, err := st.AddAccount(ctx, login, name, "a fine long password", []string{"staff"})
		require.NoError(t, err)
		jar, err := cookiejar.New(nil)
		require.NoError(t, err)
		clients[login] = &http.Client{Jar: jar, Transport: &http.Transport{DisableCompression: true}}
		answer, err := clients[login].PostForm(server.URL+"/sign-in", url.Values{
			"login": {login}, "password": {"a fine long password"}, "to": {"/sign-in/password"},
		})
		require.NoError(t, err)
		answer.Body.Close()
	}
	get := func(login, path string, accept string) (string, http.Header) {
		request, err := http.NewRequest(http.MethodGet, server.URL+path, http.NoBody)
		require.NoError(t, err)
		if accept != "" {
			request.Header.Set("Accept-Encoding", accept)
		}
		answer, err := clients[login].Do(request)
		require.NoError(t, err)
		defer answer.Body.Close()
		body, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		if answer.Header.Get("Content-Encoding") == "gzip" {
			body = unpacked(t, body)
		}
		return string(body), answer.Header
	}
	remembered := 0
	for _, path := range []string{"/", "/staff-handbook", "/sailings/fares", "/topics/places", "/notices"} {
		for login, name := range names {
			on := st.Published().Site
			q := Request{Site: on, Path: path, Name: name, Login: login, Lens: reach.Lens{At: site.now()}}
			q.Lens.Visitor = reach.As(on, []string{"staff"})
			want, err := site.Answer(ctx, q)
			require.NoError(t, err)
			first, headers := get(login, path, "")
			assert.True(t, string(want.Body) == first, "%s at first for %s", path, login)
			second, again := get(login, path, "")
			assert.True(t, first == second, "%s again for %s", path, login)
			for _, of := range []string{"Cache-Control", "Content-Type", "Content-Security-Policy", "Referrer-Policy"} {
				assert.Equal(t, headers.Get(of), again.Get(of), of)
			}
			squeezed, packed := get(login, path, "gzip")
			assert.True(t, first == squeezed, "%s packed for %s", path, login)
			assert.Equal(t, "gzip", packed.Get("Content-Encoding"))
			remembered++
		}
	}
	require.Equal(t, 15, remembered)

	holds := func(login, what string, end func()) {
		body, _ := get(login, "/", "")
		require.True(t, strings.Contains(body, "Signed in as"), what)
		end()
		assert.Eventually(t, func() bool {
			body, _ := get(login, "/", "")
			return !strings.Contains(body, "Signed in as")
		}, 2*time.Second, 20*time.Millisecond, what)
	}
	holds("ana", "disabled elsewhere", func() { require.NoError(t, other.Disable(ctx, "ana")) })
	holds("ben", "the session deleted by hand", func() {
		_, err := other.DB().Exec(`DELETE FROM sessions WHERE account = (SELECT id FROM accounts WHERE login = 'ben')`)
		require.NoError(t, err)
	})
	require.True(t, strings.Contains(first(get("eve", "/staff-handbook", "")), "Staff handbook</h1>"))
	require.NoError(t, other.SetRoles(ctx, "eve", []string{"operators"}))
	assert.Eventually(t, func() bool {
		return !strings.Contains(first(get("eve", "/staff-handbook", "")), "Staff handbook</h1>")
	}, 2*time.Second, 20*time.Millisecond, "roles changed elsewhere")

	stop()
	<-heard
	token := "whatever"
	st.Remember("visitor", token, store.Account{ID: 1}, time.Time{}, st.PeopleMark())
	_, known := st.Recall("visitor", token)
	assert.False(t, known, "who does not hear remembers nobody")
}

func unpacked(t *testing.T, body []byte) []byte {
	t.Helper()
	reader, err := gzip.NewReader(bytes.NewReader(body))
	require.NoError(t, err)
	plain, err := io.ReadAll(reader)
	require.NoError(t, err)
	return plain
}

func first(body string, _ http.Header) string { return body }
