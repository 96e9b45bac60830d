package public

import (
	"encoding/xml"
	"net/http"
	"strings"
	"testing"

	"github.com/mmcdole/gofeed/atom"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/testkit"
)

// A feed says what RFC 4287 asks of one (4.1.1: one id, title and updated, an author, a link to itself; 4.1.2: the same
// of each entry, with a link to what it stands for), as another reader of feeds reads it. Source: the RFC, from memory,
// and the package gofeed as a reader.
func TestAListIsAFeed(t *testing.T) {
	question := edit.FieldChange{Field: edit.FieldListing, New: ";topic:3;branch:4;label;30;;;topic:2"}
	s, _, err := edit.Apply(crowded(t), edit.OpEdit{Page: 4, Fields: []edit.FieldChange{question}}, testkit.Now)
	require.NoError(t, err)
	for target, entries := range map[string]int{
		"/notices?feed=atom": 50, "/places/oyra?feed=atom": 50, "/notices?feed=atom&t2=3": 50,
	} {
		answer := askFor(t, s, target, reach.Visitor{})
		require.Equal(t, http.StatusOK, answer.Status, target)
		assert.Equal(t, "application/atom+xml; charset=utf-8", answer.Type)
		feed, err := (&atom.Parser{}).Parse(strings.NewReader(string(answer.Body)))
		require.NoError(t, err, target)
		assert.NotEmpty(t, feed.ID)
		assert.NotEmpty(t, feed.Title)
		assert.NotNil(t, feed.UpdatedParsed)
		require.Len(t, feed.Authors, 1)
		require.Len(t, feed.Links, 2)
		assert.Equal(t, "self", feed.Links[0].Rel)
		assert.Equal(t, "https://harbour.example"+target, feed.Links[0].Href)
		require.Len(t, feed.Entries, entries, target)
		seen := map[string]bool{feed.ID: true}
		for i, e := range feed.Entries {
			assert.False(t, seen[e.ID], "%s stands for two things", e.ID)
			seen[e.ID] = true
			assert.NotEmpty(t, e.Title)
			require.NotNil(t, e.UpdatedParsed)
			if i > 0 {
				assert.False(t, e.UpdatedParsed.After(*feed.Entries[i-1].UpdatedParsed), "the newest come first")
			}
			require.Len(t, e.Links, 1)
			assert.Equal(t, "alternate", e.Links[0].Rel)
			assert.True(t, strings.HasPrefix(e.Links[0].Href, "https://harbour.example/notices/notice-"))
		}
		var root struct{ XMLName xml.Name }
		require.NoError(t, xml.Unmarshal(answer.Body, &root))
		assert.Equal(t, xml.Name{Space: "http://www.w3.org/2005/Atom", Local: "feed"}, root.XMLName)
	}
	for target, want := range map[string]struct {
		status int
		leads  string
	}{
		"/notices?t2=3&feed=atom":       {http.StatusPermanentRedirect, "/notices?feed=atom&t2=3"},
		"/notices?feed=atom&page=2":     {http.StatusPermanentRedirect, "/notices?feed=atom"},
		"/notices?feed=rss":             {http.StatusNotFound, ""},
		"/notices?feed=atom&t2=99":      {http.StatusNotFound, ""},
		"/notices/notice-1?feed=atom":   {http.StatusNotFound, ""},
		"/notices/notice-001?feed=atom": {http.StatusOK, ""}, // which lists nothing, so that it asks for nothing
	} {
		answer := askFor(t, s, target, reach.Visitor{})
		assert.Equal(t, want.status, answer.Status, target)
		assert.Equal(t, want.leads, answer.Location, target)
	}
	assert.Contains(t, string(askFor(t, s, "/notices", reach.Visitor{}).Body),
		`<link rel="alternate" type="application/atom+xml" title="Notices" href="/notices?feed=atom">`)
}

// A page keeps its name in feeds when it moves and is called otherwise.
func TestEntriesKeepTheirNames(t *testing.T) {
	s := crowded(t)
	named := func() string {
		_, rest, _ := strings.Cut(string(askFor(t, s, "/places/oyra?feed=atom", reach.Visitor{}).Body), "<entry>")
		_, rest, _ = strings.Cut(rest, "<id>")
		id, _, _ := strings.Cut(rest, "</id>")
		return id
	}
	was := named()
	var err error
	for _, op := range []edit.Op{
		edit.OpEdit{Page: 4, Fields: []edit.FieldChange{{Field: edit.FieldLabel, Old: "Notices", New: "News"}}},
		edit.OpMove{Page: 4, To: edit.Place{Parent: 1}},
	} {
		s, _, err = edit.Apply(s, op, testkit.Now)
		require.NoError(t, err)
	}
	assert.Equal(t, was, named())
	assert.True(t, strings.HasPrefix(was, "https://harbour.example/#"))
}
