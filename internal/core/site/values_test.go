package site_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"vineladder/internal/core/site"
)

// Looking one value up gives what reading all of them gives, whatever they hold: keys and quotation marks in values,
// values that look like keys, signs that JSON writes otherwise.
func TestOneValueIsTheOneAmongAll(t *testing.T) {
	word := rapid.OneOf(
		rapid.SampledFrom([]string{"", "harbour.depth", `a":"b`, `","k":"`, `\`, `\"`, "<&>", "Øyra\n", `"k":"x"`, "{}"}),
		rapid.String(),
	)
	key := rapid.Custom(func(t *rapid.T) string { return "k" + word.Draw(t, "key") })
	rapid.Check(t, func(t *rapid.T) {
		all := rapid.MapOf(key, word).Draw(t, "values")
		v := site.ValuesOf(all)
		for key := range all {
			assert.Equal(t, v.All()[key], v.Get(key), "%q in %s", key, v)
		}
		other := key.Draw(t, "other")
		assert.Equal(t, v.All()[other], v.Get(other), "%q in %s", other, v)
	})
}
