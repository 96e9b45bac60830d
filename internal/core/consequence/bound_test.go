package consequence

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// What is kept of words in the history for ever is bounded, whatever changes: a menu of a hundred thousand lines for
// programs, a text of many megabytes.
func TestWordsAreBounded(t *testing.T) {
	many := make([]string, 100_000)
	for i := range many {
		many[i] = fmt.Sprint("line ", i)
	}
	d := Difference{Was: []string{"one", strings.Repeat("é", WordLineLimit)}, Is: many}
	d.bound()
	assert.Equal(t, "one", d.Was[0])
	assert.LessOrEqual(t, len(d.Was[1]), WordLineLimit+len(" …"))
	assert.Len(t, d.Is, WordLimit+1)
	assert.Equal(t, "… and 99,500 more lines", d.Is[WordLimit])
	assert.Equal(t, "line 500", many[WordLimit], "what was compared is as it was")
	short := Difference{Was: []string{"a"}, Is: nil}
	short.bound()
	assert.Equal(t, Difference{Was: []string{"a"}}, short)
}
