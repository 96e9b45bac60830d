package redirects_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/testkit"
	"vineladder/internal/formats/redirects"
)

// Old addresses from elsewhere lead to the pages that a table says; read once more it says nothing new; and what this
// program writes of a site is what it reads.
func TestOldAddressesComeIn(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings\n    Fares\n  Harbours")
	table := "from,to,note\r\n/tickets.php,/sailings/fares,x\r\nhttps://harbour.example/Prices/,/sailings/fares,\r\n" +
		"/old/harbours.html,https://harbour.example/harbours,\r\n/sailings/,/sailings,it is there\r\n"
	read := func(table string) ([]edit.Op, error) {
		return redirects.Read(strings.NewReader(table), s, "https://harbour.example", testkit.Now)
	}
	ops, err := read(table)
	require.NoError(t, err)
	s, _, err = edit.ApplyAll(s, ops, testkit.Now)
	require.NoError(t, err)
	for from, to := range map[string]string{
		"/tickets.php": "/sailings/fares", "/prices": "/sailings/fares", "/old/harbours.html": "/harbours",
	} {
		assert.Equal(t, to, address.Of(s, address.Resolve(s, from, testkit.Now).Page), from)
	}
	ops, err = read(table)
	require.NoError(t, err)
	assert.Empty(t, ops)

	for table, says := range map[string]string{
		"a,b\n":                          "needs the columns “from” and “to”",
		"from,to\n/x,/nowhere\n":         "line 2: there is no page at “/nowhere”",
		"from,to\n/harbours,/sailings\n": "line 2: “/harbours” is the address of “Harbours”",
		"from,to\n/x,/\n/X,/\n":          "line 3: “/X” stands in line 2 already",
		"from,to\n/x?id=4,/\n":           "it has a question mark",
		"from,to\n/,/sailings\n":         "belongs to the home page",
		"from,to\n/x\n":                  "line 2: it has no “from” and “to”",
		"from,to\n\"x,/\n":               "can't be read",
	} {
		_, err := read(table)
		assert.ErrorContains(t, err, says, table)
	}
}
