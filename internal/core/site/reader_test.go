package site_test

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// A Reader finds what the Site finds, whatever is asked for in whatever order, and nothing where there is nothing.
func TestAReaderFindsWhatTheSiteHas(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 150)
		r := site.NewReader(s)
		for range 60 {
			id := site.PageID(rapid.Int64Range(-1, 300).Draw(t, "id"))
			require.Same(t, s.Page(id), r.Page(id))
			require.Equal(t, s.Children(id), r.Children(id))
		}
	})
}
