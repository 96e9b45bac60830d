package edit

import (
	"maps"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func names[T any](t table[T]) []Field {
	var fields []Field
	for _, c := range t {
		fields = append(fields, c.field)
	}
	return fields
}

// Every field is called by words, never by a key.
func TestEveryFieldHasWords(t *testing.T) {
	all := slices.Concat(
		names(pageTable),
		names(menuTable),
		names(entryTable),
		names(blockTable),
		names(placementTable),
		names(settingsTable),
		names(kindTable),
	)
	for _, field := range all {
		assert.NotContains(t, field.Words(), "_", string(field))
	}
	for field := range maps.Keys(fieldWords) {
		assert.Contains(t, all, field, "words for a field that there is not")
		assert.Equal(t, strings.TrimSpace(field.Words()), field.Words())
	}
}
