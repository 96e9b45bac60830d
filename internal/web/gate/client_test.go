package gate_test

import (
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/web/gate"
)

// Source of the forms: RFC 7239 section 4 and its examples; X-Forwarded-For is common practice, no source.
func TestWhoAsks(t *testing.T) {
	for _, c := range []struct{ proxies, header, peer, name, value, want string }{
		{"", "", "203.0.113.7:4711", "X-Forwarded-For", "198.51.100.1", "203.0.113.7"}, // nobody may say who they are
		{"10.0.0.0/8", "", "10.1.2.3:80", "X-Forwarded-For", "198.51.100.1", "198.51.100.1"},
		{"10.0.0.0/8", "", "10.1.2.3:80", "X-Forwarded-For", "1.1.1.1, 198.51.100.1, 10.9.9.9", "198.51.100.1"},
		{"10.0.0.0/8", "", "10.1.2.3:80", "X-Forwarded-For", "nonsense", "10.1.2.3"},
		{"10.0.0.0/8", "", "10.1.2.3:80", "Forwarded", "for=198.51.100.1", "10.1.2.3"}, // the other header is ignored
		{"10.0.0.0/8", "Forwarded", "10.1.2.3:80", "Forwarded", `for="_gazonk"`, "10.1.2.3"},
		{"10.0.0.0/8", "Forwarded", "10.1.2.3:80", "Forwarded", `For="[2001:db8:cafe::17]:4711"`, "2001:db8:cafe::/64"},
		{"10.0.0.0/8", "Forwarded", "10.1.2.3:80", "Forwarded", `for=192.0.2.60;proto=http;by=203.0.113.43`, "192.0.2.60"},
		{"10.0.0.0/8", "Forwarded", "10.1.2.3:80", "Forwarded", `for=192.0.2.43, for=198.51.100.17`, "198.51.100.17"},
		{"", "", "[2001:db8::1:2]:80", "", "", "2001:db8::/64"},
		{"", "", "[::ffff:203.0.113.7]:80", "", "", "203.0.113.7"},
	} {
		clients, err := gate.ParseClients(c.proxies, c.header)
		require.NoError(t, err)
		r := httptest.NewRequest(http.MethodGet, "/", nil)
		r.RemoteAddr = c.peer
		if c.name != "" {
			r.Header.Set(c.name, c.value)
		}
		assert.Equal(t, c.want, clients.Of(r), c)
	}
	_, err := gate.ParseClients("10.0.0.0", "")
	assert.Error(t, err)
}
