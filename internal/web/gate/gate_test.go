package gate_test

import (
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/web/gate"
)

func TestOnlyTheOwnHostIsServed(t *testing.T) {
	h := gate.Hosts(http.HandlerFunc(func(http.ResponseWriter, *http.Request) {}), "localhost:8081")
	for host, want := range map[string]int{
		"localhost:8081": 200, "localhost": 200, "LOCALHOST:8081": 200,
		"127.0.0.1:8080": 421, "evil.example": 421, "": 421,
	} {
		r := httptest.NewRequest(http.MethodGet, "/", nil)
		r.Host = host
		w := httptest.NewRecorder()
		h.ServeHTTP(w, r)
		assert.Equal(t, want, w.Code, host)
	}
}

func TestLocalPathStaysOnTheSite(t *testing.T) {
	for given, want := range map[string]string{
		"/sailings?a=1#b": "/sailings?a=1#b", "/": "/", "": "/", "sailings": "/", "//evil.example": "/",
		"https://evil.example/": "/",
		`/\evil.example`:        "/", "/\t/evil.example": "/", "javascript:alert(1)": "/", "/%zz": "/",
	} {
		assert.Equal(t, want, gate.LocalPath(given), given)
	}
}

func TestSignedTokens(t *testing.T) {
	type value struct{ Draft int64 }
	signer := gate.NewSigner([]byte("a key"))
	token, err := signer.Sign(value{7})
	require.NoError(t, err)
	var back value
	require.NoError(t, signer.Open(token, &back))
	assert.Equal(t, value{7}, back)
	for _, forged := range []string{"", token[:len(token)-1], "x" + token, token + "x", "."} {
		assert.ErrorIs(t, signer.Open(forged, &back), gate.ErrToken, forged)
	}
	assert.ErrorIs(t, gate.NewSigner([]byte("another")).Open(token, &back), gate.ErrToken)
}

func TestHeaders(t *testing.T) {
	h := http.Header{}
	gate.Headers(h, "default-src 'none'", "'none'")
	assert.Equal(t, "default-src 'none'; frame-ancestors 'none'", h.Get("Content-Security-Policy"))
	assert.NotContains(t, h.Get("Content-Security-Policy"), "unsafe")
	assert.Equal(t, "nosniff", h.Get("X-Content-Type-Options"))
}

// FuzzTokens: what was not made here opens nothing.
func FuzzTokens(f *testing.F) {
	signer := gate.NewSigner([]byte("a key"))
	made, err := signer.Sign(map[string]int{"draft": 7})
	require.NoError(f, err)
	sealed := signer.Seal("token")
	for _, seed := range []string{made, sealed, "", ".", "a.b", made + "x"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, token string) {
		var value any
		if err := signer.Open(token, &value); token != made {
			assert.ErrorIs(t, err, gate.ErrToken)
			assert.Nil(t, value)
		}
		if text, err := signer.Unseal(token); token != sealed {
			assert.ErrorIs(t, err, gate.ErrToken)
			assert.Empty(t, text)
		}
	})
}
