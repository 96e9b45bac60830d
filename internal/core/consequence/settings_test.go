package consequence_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// texts gives what is said of operations on a site.
func textsOf(t *testing.T, s *site.Site, ops ...edit.Op) []string {
	next, _, err := edit.ApplyAll(s, ops, testkit.Now)
	require.NoError(t, err)
	var said []string
	for _, sentence := range consequence.Compare(s, next, consequence.ViewersOf(s, nil, testkit.Now)).Sentences() {
		said = append(said, sentence.Text)
	}
	return said
}

func set(field edit.Field, old, value string) edit.Op {
	return edit.EditSettings{Fields: []edit.FieldChange{{Field: field, Old: old, New: value}}}
}

func TestSettingsAreSaid(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Closed for repairs\n  Staff | audience=staff\n  Off | status=offline")
	assert.Equal(t, []string{"The site closes: at each of its 2 pages visitors get a few words with the status 503. Who may edit still sees them, signed in."}, textsOf(t, s, set(edit.Closed, "no", "yes")))
	closed, _, err := edit.ApplyAll(s, []edit.Op{set(edit.ClosedPage, "", "2"), set(edit.Closed, "no", "yes")}, testkit.Now)
	require.NoError(t, err)
	assert.Equal(t, []string{"The site opens: 2 pages can be reached again."}, textsOf(t, closed, set(edit.Closed, "yes", "no")))
	assert.Equal(t, []string{"The site closes: at each of its 2 pages visitors get “Closed for repairs” with the status 503. Who may edit still sees them, signed in.",
		"“Closed for repairs” shows while the site is closed."}, textsOf(t, s, set(edit.ClosedPage, "", "2"), set(edit.Closed, "no", "yes")))
	assert.Equal(t, []string{"A few words of the theme show while the site is closed."}, textsOf(t, closed, set(edit.ClosedPage, "2", "")))
	assert.Equal(t, []string{"A rule for those who edit changes; visitors notice nothing of it."}, textsOf(t, s, set(edit.PaleBadges, "no", "yes")))
	assert.Equal(t, []string{"4 pages have the layout “Wide” from now on."}, lastOf(textsOf(t, s, set(edit.Layout, "", "wide"))))
}

func lastOf(texts []string) []string { return texts[len(texts)-1:] }
