package gate_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"vineladder/internal/web/gate"
)

// Source: RFC 9110 section 12.5.3, its examples of Accept-Encoding among them.
func TestWhoTakesGzip(t *testing.T) {
	for accepted, want := range map[string]bool{
		"compress, gzip": true, "": false, "*": true, "compress;q=0.5, gzip;q=1.0": true, "gzip;q=1.0, identity; q=0.5, *;q=0": true,
		"gzip;q=0": false, "gzip; Q=0": false, "br": false, "*;q=0": false, "gzip;q=0, *": false, "GZIP": true, "x-gzip": true,
		"gzip, deflate, br, zstd": true, "gzip;q=nonsense": false, "nogzip": false,
	} {
		assert.Equal(t, want, gate.TakesGzip(accepted), accepted)
	}
}
