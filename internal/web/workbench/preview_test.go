package workbench

import (
	"encoding/json"
	"log/slog"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
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
