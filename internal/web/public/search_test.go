package public

import (
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
	for _, words := range []string{"harbour", "ferry", "pier or berth", "board -papers"} {
		all, err := st.FindPages(t.Context(), on.Settings().Language, words, 0, 10_000)
		require.NoError(t, err)
		var want []string
		for _, id := range all {
			if out.At(on, id).Reachable() != 0 && findable(on, id) {
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
