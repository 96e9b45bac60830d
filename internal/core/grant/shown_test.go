package grant_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/grant"
	"vineladder/internal/core/testkit"
)

// A link to a draft is allowed up to each of its bounds, and refused with its reason one step beyond.
func TestALinkToADraftKeepsItsBounds(t *testing.T) {
	now := testkit.Now
	for _, c := range []struct {
		reader string
		lasts  time.Duration
		beside int
		no     string // "" where it is allowed
	}{
		{reader: "  The harbour board ", lasts: time.Second},
		{reader: strings.Repeat("ö", grant.ReaderLimit), lasts: grant.ShownLasts, beside: grant.ShownLimit - 1},
		{reader: strings.Repeat("ö", grant.ReaderLimit+1), lasts: time.Hour, no: "80"},
		{reader: " \t", lasts: time.Hour, no: "names its reader"},
		{reader: "The harbour board", lasts: 0, no: "That moment is over"},
		{reader: "The harbour board", lasts: grant.ShownLasts + 1, no: "three months at most"},
		{reader: "The harbour board", lasts: time.Hour, beside: grant.ShownLimit, no: "20 links at most"},
	} {
		got, err := grant.Shown{Reader: c.reader, Ends: now.Add(c.lasts)}.Allow(now, c.beside)
		if c.no != "" {
			assert.ErrorContains(t, err, c.no)
			continue
		}
		require.NoError(t, err)
		assert.Equal(t, strings.TrimSpace(c.reader), got.Reader)
		assert.Equal(t, now.Add(c.lasts), got.Ends)
	}
}
