package public

import (
	"context"
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// crowded has a topic that 120 pages bear, of which one in three is for staff.
func crowded(t *testing.T) *site.Site {
	var outline strings.Builder
	outline.WriteString("Home\n  Places | kind=topic-list\n    Øyra | kind=topic\n  Notices\n")
	for n := range 120 {
		audience := ""
		if n%3 == 0 {
			audience = " audience=staff"
		}
		fmt.Fprintf(&outline, "    Notice %03d | topics=page:3%s\n", n, audience)
	}
	return testkit.Outline(t, outline.String())
}

func askFor(t *testing.T, s *site.Site, target string, visitor reach.Visitor) Response {
	return askKept(t, s, NewKept(), target, visitor)
}

func askKept(t *testing.T, s *site.Site, kept *Kept, target string, visitor reach.Visitor) Response {
	r, err := NewRenderer(nothing{}, func(name string) string { return "/" + name }, "https://harbour.example")
	require.NoError(t, err)
	q := Request{Site: s, Lens: reach.Lens{Visitor: visitor, At: testkit.Now}, Kept: kept}
	q.Path, q.Query, _ = strings.Cut(target, "?")
	answer, err := r.Answer(context.Background(), q)
	require.NoError(t, err)
	return answer
}

type nothing struct{}

func (nothing) Texts(context.Context, []string) (map[string]string, error) { return nil, nil }

// holdsHits says how many notices the list of an answer has, and with which it begins.
func holdsHits(t *testing.T, body, target, first string, n int) {
	_, hits, _ := strings.Cut(body, `<ul class="hits">`)
	hits, _, _ = strings.Cut(hits, "</ul>")
	assert.Equal(t, n, strings.Count(hits, `<a href="/notices/notice-`), target)
	if first != "" {
		at := strings.Index(hits, `>Notice `)
		assert.Equal(t, first, hits[at+1:at+1+len(first)], target)
	}
}

// A list is cut into pages, as the visitor reaches what is in it; each has one address, and there is nothing past the
// end.
func TestATopicIsCutIntoPages(t *testing.T) {
	s, out := crowded(t), reach.Visitor{}
	staff := reach.Visitor{SignedIn: true, Roles: []string{"staff"}}
	for _, c := range []struct {
		target  string
		visitor reach.Visitor
		status  int
		leads   string
		first   string
		hits    int
	}{
		{"/places/oyra", out, http.StatusOK, "", "Notice 001", 50},
		{"/places/oyra?page=2", out, http.StatusOK, "", "Notice 076", 30},
		{"/places/oyra?page=3", out, http.StatusNotFound, "", "", 0},
		{"/places/oyra?page=3", staff, http.StatusOK, "", "Notice 100", 20},
		{"/places/oyra?page=1", out, http.StatusPermanentRedirect, "/places/oyra", "", 0},
		{"/places/oyra?page=02", out, http.StatusPermanentRedirect, "/places/oyra?page=2", "", 0},
		{"/places/oyra?x=1&page=2", out, http.StatusPermanentRedirect, "/places/oyra?page=2", "", 0},
		{"/places/oyra?page=0", out, http.StatusNotFound, "", "", 0},
		{"/places/oyra?page=-1", out, http.StatusNotFound, "", "", 0},
		{"/places/oyra?page=two", out, http.StatusNotFound, "", "", 0},
		{"/places/oyra?page=99999999999999999999", out, http.StatusNotFound, "", "", 0},
		{"/places/oyra?utm=1", out, http.StatusOK, "", "Notice 001", 50},
		{"/notices?page=7", out, http.StatusOK, "", "", 0},
	} {
		answer := askFor(t, s, c.target, c.visitor)
		body := string(answer.Body)
		assert.Equal(t, c.status, answer.Status, c.target)
		assert.Equal(t, c.leads, answer.Location, c.target)
		holdsHits(t, body, c.target, c.first, c.hits)
		if c.status == http.StatusNotFound {
			assert.Contains(t, body, `<a href="/places/oyra">/places/oyra</a> has no such page`)
		}
	}
}

// What a page lists is cut and numbered like what a topic gathers, in its own order and size; the list has neither the
// page itself nor what the visitor does not reach.
func TestAListOfAPageIsCutIntoPages(t *testing.T) {
	question := edit.FieldChange{Field: edit.FieldListing, New: ";topic:3;branch:4;label;30"}
	listed := edit.OpEdit{Page: 4, Fields: []edit.FieldChange{question}}
	s, _, err := edit.Apply(crowded(t), listed, testkit.Now)
	require.NoError(t, err)
	staff := reach.Visitor{SignedIn: true, Roles: []string{"staff"}}
	for _, c := range []struct {
		target  string
		visitor reach.Visitor
		status  int
		leads   string
		first   string
		hits    int
	}{
		{"/notices", reach.Visitor{}, http.StatusOK, "", "Notice 001", 30},
		{"/notices?page=3", reach.Visitor{}, http.StatusOK, "", "Notice 091", 20},
		{"/notices?page=4", reach.Visitor{}, http.StatusNotFound, "", "", 0},
		{"/notices?page=4", staff, http.StatusOK, "", "Notice 090", 30},
		{"/notices?page=1", staff, http.StatusPermanentRedirect, "/notices", "", 0},
		{"/notices?utm=1", staff, http.StatusOK, "", "Notice 000", 30},
	} {
		answer := askFor(t, s, c.target, c.visitor)
		assert.Equal(t, c.status, answer.Status, c.target)
		assert.Equal(t, c.leads, answer.Location, c.target)
		holdsHits(t, string(answer.Body), c.target, c.first, c.hits)
	}
}

// Each narrowed state has one address; values that are none, or that the visitor may not know of, are not found.
func TestAListIsNarrowedInItsAddress(t *testing.T) {
	s := testkit.Outline(t, `Home
  Places | kind=topic-list
    Øyra | kind=topic
    Skerrow | kind=topic
    Depot | kind=topic audience=staff
  Notices
    Ice | topics=page:3
    Fog | topics=page:3
    Ebb | topics=page:5`)
	question := edit.FieldChange{Field: edit.FieldListing, New: ";;branch:6;label;1;;;topic:2"}
	s, _, err := edit.Apply(s, edit.OpEdit{Page: 6, Fields: []edit.FieldChange{question}}, testkit.Now)
	require.NoError(t, err)
	for _, c := range []struct {
		target string
		status int
		leads  string
		says   string
	}{
		{"/notices", http.StatusOK, "", `<a href="/notices?t2=3" dir="auto">Øyra</a> <small>2</small>`},
		{"/notices?t2=3", http.StatusOK, "", `<a href="/notices?t2=3" aria-current="true" dir="auto">Øyra</a>`},
		{"/notices?t2=3&page=2", http.StatusPermanentRedirect, "/notices?page=2&t2=3", ""},
		{"/notices?page=2&t2=3", http.StatusOK, "", `rel="canonical" href="https://harbour.example/notices?page=2&amp;t2=3"`},
		{"/notices?page=1&t2=3", http.StatusPermanentRedirect, "/notices?t2=3", ""},
		{"/notices?t2=3&t2=4", http.StatusPermanentRedirect, "/notices?t2=3", ""},
		{"/notices?page=3&t2=3", http.StatusNotFound, "", `<a href="/notices">/notices</a> has no such page`},
		{"/notices?t2=4", http.StatusNotFound, "", "has no such page"}, // which no page bears
		{"/notices?t2=5", http.StatusNotFound, "", "has no such page"},
		{"/notices?t2=03", http.StatusNotFound, "", "has no such page"},
		{"/notices?t2=", http.StatusNotFound, "", "has no such page"},
		{"/notices?t3=3", http.StatusOK, "", "Øyra"},
	} {
		answer := askFor(t, s, c.target, reach.Visitor{})
		assert.Equal(t, c.status, answer.Status, c.target)
		assert.Equal(t, c.leads, answer.Location, c.target)
		assert.Contains(t, string(answer.Body), c.says, c.target)
		assert.NotContains(t, string(answer.Body), "Depot", c.target)
	}
}

// What is kept of a menu is not lit on one narrowed state as on another.
func TestWhatLeadsToANarrowedListIsLitThere(t *testing.T) {
	s := testkit.Outline(t, `Home
  Places | kind=topic-list
    Øyra | kind=topic
    Skerrow | kind=topic
  Notices
    Ice | topics=page:3
    Fog | topics=page:4`)
	for _, op := range []edit.Op{
		edit.OpEdit{Page: 5, Fields: []edit.FieldChange{{Field: edit.FieldListing, New: ";;branch:5;label;1;;;topic:2"}}},
		edit.OpPutEntries{Gap: edit.Gap{Menu: 1}, Entries: []edit.EntryForm{{ID: 50, Fields: map[edit.Field]string{
			edit.FieldShows: "page:5:t2=3", edit.FieldLabel: "About Øyra",
		}}}},
	} {
		next, _, err := edit.Apply(s, op, testkit.Now)
		require.NoError(t, err)
		s = next
	}
	kept, bare := NewKept(), `<a href="/notices?t2=3"`
	for range 2 {
		for target, says := range map[string]string{
			"/notices": bare + ` dir="auto">About`, "/notices?t2=4": bare + ` dir="auto">About`,
			"/notices?t2=3": bare + ` class="trail" aria-current="page" dir="auto">About`,
		} {
			body := string(askKept(t, s, kept, target, reach.Visitor{}).Body)
			assert.True(t, strings.Contains(body, says), "%s says %s", target, says)
			assert.Equal(t, target != "/notices?t2=3", strings.Contains(body, `<a href="/notices" class="trail" aria-current="page"`),
				"on %s the line of the page is current", target)
		}
	}
}

func TestNumbersNearTheOneThatIsShown(t *testing.T) {
	words := func(shown, last int) string {
		var all []string
		for _, n := range numbersOf("/x", nil, shown, last) {
			if n.Current {
				n.Words = "[" + n.Words + "]"
			}
			all = append(all, n.Words)
		}
		return strings.Join(all, " ")
	}
	assert.Empty(t, words(1, 1))
	assert.Equal(t, "[1] 2", words(1, 2))
	assert.Equal(t, "[1] 2 3 … 20", words(1, 20))
	assert.Equal(t, "1 … 8 9 [10] 11 12 … 20", words(10, 20))
	assert.Equal(t, "1 … 18 19 [20]", words(20, 20))
}
