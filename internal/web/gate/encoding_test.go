package gate_test

import (
	"compress/gzip"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"vineladder/internal/web/gate"
)

// Source: RFC 9110 section 12.5.3, its examples of Accept-Encoding among them.
func TestWhoTakesGzip(t *testing.T) {
	for accepted, want := range map[string]bool{
		"compress, gzip": true, "": false, "*": true, "compress;q=0.5, gzip;q=1.0": true,
		"gzip;q=1.0, identity; q=0.5, *;q=0": true,
		"gzip;q=0":                           false, "gzip; Q=0": false, "br": false, "*;q=0": false, "gzip;q=0, *": false,
		"GZIP":                    true,
		"x-gzip":                  true,
		"gzip, deflate, br, zstd": true, "gzip;q=nonsense": false, "nogzip": false,
	} {
		assert.Equal(t, want, gate.TakesGzip(accepted), accepted)
	}
}

// What is sent packed unpacks to what is sent plain, under a tag of its own; streams and small answers stay as they
// are.
func TestAnswersArePackedForWhoTakesThat(t *testing.T) {
	long := strings.Repeat("harbour ", 400)
	handler := gate.Packed(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Content-Type", r.URL.Query().Get("type"))
		w.Header().Set("ETag", `"one"`)
		body := long
		if r.URL.Path == "/short" {
			body = "short"
		}
		_, _ = io.WriteString(w, body)
	}))
	for _, c := range []struct {
		path, accepts, stream string
		packed                bool
	}{
		{"/?type=text/html", "gzip", "", true},
		{"/?type=application/json", "br, gzip;q=0.5", "", true},
		{"/?type=text/html", "", "", false},
		{"/?type=text/html", "gzip;q=0", "", false},
		{"/?type=text/html", "identity", "", false},
		{"/short?type=text/html", "gzip", "", false},
		{"/?type=image/png", "gzip", "", false},
		{"/?type=text/html", "gzip", "text/event-stream", false},
	} {
		request := httptest.NewRequest(http.MethodGet, c.path, nil)
		request.Header.Set("Accept-Encoding", c.accepts)
		request.Header.Set("Accept", c.stream)
		answer := httptest.NewRecorder()
		handler.ServeHTTP(answer, request)
		assert.Equal(t, c.packed, answer.Header().Get("Content-Encoding") == "gzip", "%v", c)
		if !c.packed {
			assert.Equal(t, `"one"`, answer.Header().Get("ETag"))
			continue
		}
		tag := answer.Header().Get("ETag")
		assert.NotEqual(t, `"one"`, tag)
		assert.True(t, gate.IsTag(tag, `"one"`), tag)
		unpacked, err := gzip.NewReader(answer.Body)
		assert.NoError(t, err)
		body, err := io.ReadAll(unpacked)
		assert.NoError(t, err)
		assert.Equal(t, long, string(body))
		assert.Contains(t, answer.Header().Values("Vary"), "Accept-Encoding")
	}
	assert.False(t, gate.IsTag(`"two-gzip"`, `"one"`))
	assert.False(t, gate.IsTag("", ""))
}
