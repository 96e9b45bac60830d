package public

import (
	"cmp"
	"fmt"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/topic"
	"vineladder/internal/store"
)

// Visitors find what they reach, and nothing else: held against PostgreSQL's own full text over the same tables, asked
// page by page, and against what each page answers. What is sought is marked, and nothing typed is anything but words.
func TestVisitorsFindWhatTheyReach(t *testing.T) {
	server, s, st, _ := serveFiles(t)
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	staff := &http.Client{Jar: jar}
	answer, err := staff.PostForm(
		server.URL+"/sign-in",
		url.Values{"login": {"staff"}, "password": {"nine-islands-staff"}},
	)
	require.NoError(t, err)
	answer.Body.Close()
	get := func(client *http.Client, words string, page int) string {
		answer, err := client.Get(fmt.Sprintf("%s/search?q=%s&page=%d", server.URL, url.QueryEscape(words), page))
		require.NoError(t, err)
		defer answer.Body.Close()
		body, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		require.Equal(t, http.StatusOK, answer.StatusCode)
		_, found, _ := strings.Cut(string(body), "</h1>")
		return found
	}
	assert.Contains(t, get(http.DefaultClient, "pennant", 1), "<mark>pennant</mark>, we own the chain")
	assert.Contains(
		t,
		get(http.DefaultClient, "mooring chains", 1),
		"Swinging moorings",
		"words are cut down to their stems",
	)
	assert.Contains(
		t,
		get(http.DefaultClient, "chart of Øyra depths", 1),
		"/files/chart-oyra.png",
		"files are found by what they show",
	)
	assert.NotContains(t, get(http.DefaultClient, "expenses", 1), "Claim for expenses")
	assert.Contains(t, get(staff, "expenses", 1), "Claim for expenses")
	for _, odd := range []string{"", " ", `"unfinished`, "-", "a' OR 1=1 --", "<script>alert(1)</script>", "\x00\xff", "& | !", strings.Repeat("long ", 200)} {
		body := get(http.DefaultClient, odd, 1)
		assert.NotContains(t, body, "<script>alert", odd)
	}
	assert.Contains(t, get(http.DefaultClient, "zeppelin", 1), "Nothing was found")

	// Page after page, each hit once, and all of them.
	on := st.Published().Site
	out := reach.NewPanel(reach.Lens{At: s.now()})
	for _, words := range []string{"harbour", "ferry", "pier or berth", "board -papers", aTopic(on)} {
		all, err := st.FindPages(t.Context(), on.Settings().Language, words, 0, 10_000)
		require.NoError(t, err)
		var want []string
		var about []site.PageID
		for _, id := range all {
			if out.At(on, id).Reachable() != 0 && findable(on, id) {
				want = append(want, address.Of(on, id))
				if on.Page(id).IsTopic() {
					about = append(about, topic.Bearers(on, id)...)
				}
			}
		}
		on.SortByTree(about)
		for _, id := range about { // of one topic at most, by the words below
			if out.At(on, id).Reachable() != 0 && !slices.Contains(want, address.Of(on, id)) {
				want = append(want, address.Of(on, id))
			}
		}
		require.NotEmpty(t, want, words)
		var got []string
		for page := 1; ; page++ {
			body := get(http.DefaultClient, words, page)
			for part := range strings.SplitSeq(body, `<h2><a href="`) {
				if at, _, is := strings.Cut(part, `"`); is && strings.HasPrefix(at, "/") {
					got = append(got, at)
				}
			}
			if !strings.Contains(body, ">More</a>") {
				break
			}
		}
		assert.Equal(t, want, slices.Compact(got), words)
	}

	// What is published is found at once, and what goes is not found any more.
	page := on.Child(on.Home(), "jobs")
	publish := func(ops ...edit.Op) {
		_, err := st.PublishDirect(t.Context(), store.Account{Name: "test"}, "test", ops)
		require.NoError(t, err)
	}
	publish(
		edit.OpEdit{
			Page:   page,
			Fields: []edit.FieldChange{{Field: edit.FieldTitle, New: "Work as a zeppelin pilot"}},
		},
	)
	assert.Contains(t, get(http.DefaultClient, "zeppelins", 1), `href="/jobs"`)
	publish(edit.OpEdit{Page: page, Fields: []edit.FieldChange{
		{Field: edit.FieldStatus, Old: string(site.StatusLive), New: string(site.StatusOffline)},
	}})
	assert.Contains(t, get(http.DefaultClient, "zeppelins", 1), "Nothing was found")
}

// aTopic gives the label of a topic that pages bear whose words don't have it.
func aTopic(s *site.Site) string {
	for _, list := range s.TopicLists() {
		for _, id := range s.Children(list) {
			if len(topic.Bearers(s, id)) > 2 && !strings.Contains(s.Page(id).Label, " ") {
				return s.Page(id).Label
			}
		}
	}
	return ""
}

// What is found can be narrowed by type and topic, each value leads to exactly those hits that have it, and labels are
// proposed while words are typed; words that nothing has are spelt as others have them, for who would find something,
// and are counted without anything about who it was.
func TestWhatIsFoundIsNarrowedProposedAndSpelt(t *testing.T) {
	server, s, st, _ := serveFiles(t)
	get := func(query url.Values) string {
		answer, err := http.Get(server.URL + "/search?" + query.Encode())
		require.NoError(t, err)
		defer answer.Body.Close()
		body, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		_, found, _ := strings.Cut(string(body), "</h1>")
		found, _, _ = strings.Cut(found, "<footer")
		return cmp.Or(found, string(body))
	}
	on := st.Published().Site
	out := reach.NewPanel(reach.Lens{At: s.now()})
	all, err := st.FindPages(t.Context(), on.Settings().Language, "harbour", 0, askedAtOnce)
	require.NoError(t, err)
	byKind, byTopic := map[string]int{}, map[site.PageID]int{}
	for _, id := range all {
		if out.At(on, id).Reachable() != 0 && findable(on, id) {
			byKind[on.Page(id).Kind]++
			for _, of := range on.TopicsOf(on.Page(id)) {
				byTopic[of]++
			}
		}
	}
	require.Greater(t, len(byKind), 1)
	require.NotEmpty(t, byTopic)
	for kind, n := range byKind {
		body := get(url.Values{"q": {"harbour"}, "type": {kind}})
		assert.GreaterOrEqual(t, strings.Count(body, `<h2><a href="`), min(n, hitsPerPage), kind)
		assert.Contains(t, body, `aria-current="true" dir="auto">`)
	}
	for of := range byTopic {
		if out.At(on, of).Reachable() != 0 {
			body := get(url.Values{"q": {"harbour"}, "topic": {fmt.Sprint(of)}})
			assert.Contains(t, body, on.Page(of).Label)
			assert.NotZero(t, strings.Count(body, `<h2><a href="`))
		}
	}
	assert.NotContains(t, get(url.Values{"q": {"harbour"}, "type": {"none"}, "topic": {"-4"}}), `<h2><a href="`)

	assert.Contains(t, get(url.Values{"begun": {"moor"}}), "moorings")
	assert.NotContains(t, get(url.Values{"begun": {"expen"}}), "expenses", "nobody is told of what they don't reach")
	for _, odd := range []string{"a & b | !c", "'", ":*", strings.Repeat("x ", 150)} {
		assert.NotEmpty(t, get(url.Values{"begun": {odd}}), odd)
	}

	assert.Contains(t, get(url.Values{"q": {"harbuor"}}), `?q=harbour">harbour</a>?`)
	assert.NotContains(t, get(url.Values{"q": {"expensses"}}), "expenses</a>", "that would find nothing")
	get(url.Values{"q": {"Ice  Swimming"}})
	get(url.Values{"q": {"ice swimming"}})
	get(url.Values{"q": {"me@example.example"}})
	get(url.Values{"q": {"call 5550199"}})
	sought, err := st.SoughtInVain(t.Context(), 10)
	require.NoError(t, err)
	var words []string
	for _, vain := range sought {
		words = append(words, fmt.Sprintf("%s %d", vain.Words, vain.Times))
	}
	assert.ElementsMatch(t, []string{"ice swimming 2", "harbuor 1", "expensses 1"}, words)

	// A detail is found once others see it, and no more when only editors do.
	page := on.Child(on.Home(), "jobs")
	publish := func(ops ...edit.Op) {
		_, err := st.PublishDirect(t.Context(), store.Account{Name: "test"}, "test", ops)
		require.NoError(t, err)
	}
	key := on.Page(page).Kind + ".wreck"
	publish(
		edit.OpMakeDetail{Detail: key, Fields: map[edit.Field]string{
			edit.FieldLabel: "Wreck", edit.FieldType: string(site.DetailLine), edit.FieldShown: string(site.DetailBoth),
		}},
		edit.OpEdit{Page: page, Fields: []edit.FieldChange{{Field: edit.DetailField(key), New: "Bathyscaphe"}}},
	)
	assert.Contains(t, get(url.Values{"q": {"bathyscaphe"}}), `href="/jobs"`)
	publish(edit.OpEditDetail{Detail: key, Fields: []edit.FieldChange{
		{Field: edit.FieldShown, Old: string(site.DetailBoth), New: string(site.DetailEditors)},
	}})
	assert.NotContains(t, get(url.Values{"q": {"bathyscaphe"}}), `href="/jobs"`)
}
