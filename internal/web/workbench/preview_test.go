package workbench

import (
	"encoding/json"
	"log/slog"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/web/assets"
	"vineladder/internal/web/gate"
	"vineladder/internal/web/public"
)

// A preview ends with the session in which it was asked for, and with no other; a database that does not answer ends
// none.
func TestAPreviewEndsWithItsSession(t *testing.T) {
	b := openBench(t, "structure")
	built, err := assets.New()
	require.NoError(t, err)
	site, err := public.New(
		b.store,
		public.Settings{Origin: "http://site.example", Hosts: []string{"site.example"}, Workbench: b.URL},
		built,
		gate.NewSigner([]byte("key")),
		slog.New(slog.DiscardHandler),
	)
	require.NoError(t, err)
	t.Cleanup(site.Close)
	preview := func(b *bench) string {
		_, body := b.ask(t, http.MethodGet, "/preview", url.Values{})
		var told struct{ URL string }
		require.NoError(t, json.Unmarshal([]byte(body), &told))
		require.Contains(t, told.URL, "/proof/")
		return told.URL
	}
	status := func(at string) int {
		answer := httptest.NewRecorder()
		site.Handler().ServeHTTP(answer, httptest.NewRequest(http.MethodGet, at, nil))
		return answer.Code
	}
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	other := &bench{Server: b.Server, store: b.store, server: b.server, client: &http.Client{Jar: jar}}
	other.ask(t, http.MethodPost, "/sign-in", url.Values{"login": {"structure"}, "password": {passwordOf("structure")}})
	mine, theirs := preview(b), preview(other)
	assert.Equal(t, http.StatusOK, status(mine))
	assert.Equal(t, http.StatusOK, status(theirs))
	b.ask(t, http.MethodPost, "/sign-out", url.Values{})
	assert.Equal(t, http.StatusGone, status(mine))
	assert.Equal(t, http.StatusOK, status(theirs), "another browser of the same person goes on")
	assert.Equal(t, http.StatusGone, status(strings.Replace(theirs, "/proof/", "/proof/x", 1)))
	require.NoError(t, b.store.DB().Close())
	assert.Equal(t, http.StatusServiceUnavailable, status(theirs))
	code, said := other.ask(t, http.MethodPost, "/edit", url.Values{})
	assert.Equal(t, http.StatusServiceUnavailable, code, "nobody is told that they are signed out")
	assert.NotContains(t, said, "signed out")
}

// A draft is shown by a link to somebody without an account: read only, as one visitor, no more than who shows it may
// read, and until its day, until it is ended, or until that person is gone.
func TestADraftIsShownByALink(t *testing.T) {
	b := openBench(t, "structure")
	built, err := assets.New()
	require.NoError(t, err)
	site, err := public.New(b.store, public.Settings{
		Origin: "http://site.example", Hosts: []string{"site.example"}, Workbench: b.URL,
	}, built, gate.NewSigner([]byte("key")), slog.New(slog.DiscardHandler))
	require.NoError(t, err)
	t.Cleanup(site.Close)
	get := func(at string) (int, string) {
		answer := httptest.NewRecorder()
		site.Handler().ServeHTTP(answer, httptest.NewRequest(http.MethodGet, at, nil))
		return answer.Code, answer.Body.String()
	}
	links := regexp.MustCompile(`value="([^"]*/proof/[^"]*)"`)
	listed := func() (urls []string) {
		_, screen := b.ask(t, http.MethodGet, "/drafts", url.Values{})
		for _, found := range links.FindAllStringSubmatch(screen, -1) {
			urls = append(urls, found[1])
		}
		return urls
	}
	for _, wrong := range []url.Values{
		{"reader": {""}, "until": {"1.3.2027"}},
		{"reader": {"Ana Berg"}, "until": {""}},
		{"reader": {"Ana Berg"}, "until": {"1.3.2020"}},
		{"reader": {"Ana Berg"}, "until": {"1.3.2040"}},
	} {
		code, said := b.ask(t, http.MethodPost, "/drafts/show", wrong)
		assert.Equal(t, http.StatusUnprocessableEntity, code, said)
	}
	made := url.Values{"reader": {"Ana Berg"}, "until": {"24.12.2026"}}
	code, said := b.ask(t, http.MethodPost, "/drafts/show", made)
	require.Equal(t, http.StatusOK, code, said)
	urls := listed()
	require.Len(t, urls, 1)
	code, page := get(urls[0])
	assert.Equal(t, http.StatusOK, code)
	assert.Contains(t, page, "For Ana Berg until 25 December 2026, 00:00: the draft “My changes” of")
	code, _ = get(urls[0] + "staff-handbook")
	assert.NotEqual(t, http.StatusOK, code, "it is shown as who is signed out")

	var id string
	require.NoError(t, b.store.DB().Get(&id, `SELECT id::text FROM draft_links`))
	_, _ = b.store.DB().Exec(`UPDATE draft_links SET ends_at = '2020-01-01'`)
	code, _ = get(urls[0])
	assert.Equal(t, http.StatusGone, code, "its day is over, whatever the address says")
	_, _ = b.store.DB().Exec(`UPDATE draft_links SET ends_at = '2026-12-24'`)
	code, _ = get(urls[0])
	assert.Equal(t, http.StatusOK, code)
	code, _ = b.ask(t, http.MethodPost, "/drafts/show-no-more", url.Values{"link": {id}})
	assert.Equal(t, http.StatusOK, code)
	code, _ = get(urls[0])
	assert.Equal(t, http.StatusGone, code, "it was ended")
	assert.Empty(t, listed())
	code, _ = b.ask(t, http.MethodPost, "/drafts/show-no-more", url.Values{"link": {id}})
	assert.Equal(t, http.StatusUnprocessableEntity, code)

	made.Set("as", "staff")
	code, said = b.ask(t, http.MethodPost, "/drafts/show", made)
	require.Equal(t, http.StatusOK, code, said)
	urls = listed()
	require.Len(t, urls, 1)
	code, _ = get(urls[0])
	assert.Equal(t, http.StatusOK, code)
	_, err = b.store.DB().Exec(`UPDATE accounts SET disabled_at = now() WHERE login = 'structure'`)
	require.NoError(t, err)
	code, _ = get(urls[0])
	assert.Equal(t, http.StatusGone, code, "who showed it is gone")
}
