package edit

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

// Every field is called by words, never by a key; families that share a field call it by the same words.
func TestEveryFieldHasWords(t *testing.T) {
	said := map[Field]string{}
	for family, facts := range Facts() {
		for _, fact := range facts {
			words := fact.Field.Words()
			assert.NotContains(t, words, "_", "%s of %s", fact.Field, family)
			assert.Equal(t, strings.TrimSpace(words), words)
			if fact.Words != "" {
				assert.Contains(t, []string{"", fact.Words}, said[fact.Field], "%s of %s", fact.Field, family)
				said[fact.Field] = fact.Words
			}
		}
	}
}
