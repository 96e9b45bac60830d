package topic_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"vineladder/internal/core/ask"
	"vineladder/internal/core/testkit"
	"vineladder/internal/core/topic"
)

// Labels that differ in case, accents, or a letter of a long word are told; short words and other words are not.
func TestLabelsThatAreNearlyAlike(t *testing.T) {
	s := testkit.Outline(t, `
Home
  Places | kind=topic-list
    Øyra | kind=topic
      Moorings | kind=topic
    OYRA | kind=topic
    Fuel | kind=topic
    Duel | kind=topic
  Services | kind=topic-list
    Mooring | kind=topic
    Morings here | kind=topic
    Visitors' berths | kind=topic
    Visitor berths | kind=topic`)
	for label, want := range map[string]string{
		"Øyra": "OYRA", "Moorings": "Mooring", "Fuel": "", "Visitors' berths": "Visitor berths", "Morings here": "",
	} {
		var alike []string
		for _, id := range topic.Alike(s, testkit.Find(t, s, label), ask.Folded) {
			alike = append(alike, s.Page(id).Label)
		}
		assert.Equal(t, want, strings.Join(alike, ", "), label)
	}
	assert.Empty(t, topic.Alike(s, s.Home(), ask.Folded))
}
