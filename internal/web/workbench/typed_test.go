package workbench

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"math/rand/v2"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/go-chi/chi/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/demo"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
	"vineladder/internal/web/assets"
	"vineladder/internal/web/gate"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// bench is the workbench over the demo, with somebody signed in.
type bench struct {
	*httptest.Server
	store  *store.Store
	server *Server
	client *http.Client
}

func openBench(t *testing.T, login string) *bench {
	st := storetest.New(t)
	require.NoError(t, demo.Load(context.Background(), st))
	built, err := assets.New()
	require.NoError(t, err)
	b := &bench{store: st, Server: httptest.NewUnstartedServer(nil)}
	host := b.Listener.Addr().String()
	settings := Settings{Origin: "http://" + host, Hosts: []string{host}, Site: "http://site.example"}
	b.server, err = New(
		st,
		settings,
		built,
		gate.NewSigner([]byte("key")),
		slog.New(slog.NewTextHandler(t.Output(), &slog.HandlerOptions{Level: slog.LevelError})),
	)
	require.NoError(t, err)
	b.Config.Handler = b.server.Handler()
	b.Start()
	t.Cleanup(func() { b.server.EndNews(); b.Server.Close(); b.server.Close() })
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	b.client = &http.Client{Jar: jar}
	for _, a := range demo.Accounts {
		if a.Login == login {
			answer, err := b.client.PostForm(b.URL+"/sign-in", url.Values{"login": {a.Login}, "password": {a.Password}})
			require.NoError(t, err)
			answer.Body.Close()
		}
	}
	return b
}

func (b *bench) ask(t *testing.T, method, path string, form url.Values) (int, string) {
	request, err := http.NewRequest(method, b.URL+path, strings.NewReader(form.Encode()))
	require.NoError(t, err)
	if method == http.MethodPost {
		request.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	} else {
		request.URL.RawQuery = form.Encode()
	}
	answer, err := b.client.Do(request)
	require.NoError(t, err)
	defer answer.Body.Close()
	body, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	return answer.StatusCode, string(body)
}

// aim makes a form one that sets a field of a page that is there, from what it holds to something odd.
func (b *bench) aim(form url.Values, field, value string, random *rand.Rand) {
	on := b.store.Published().Site
	page := on.Page(site.PageID(1 + random.IntN(on.Count())))
	if page == nil {
		return
	}
	clear(form)
	form.Set("do", "field")
	form.Set("page", fmt.Sprint(page.ID))
	form.Set("field", field)
	form.Set("old", edit.Value(page, edit.Field(field)))
	form.Set("new", value)
}

// words finds what the handlers read of forms: the names of their fields, and the words that they tell apart.
func words(t *testing.T) (names, told []string) {
	name := regexp.MustCompile(`(?:FormValue|form|Get)\("([a-z_-]+)"\)`)
	choice := regexp.MustCompile(`(?:case|==) "([a-z-]+)"`)
	files, err := filepath.Glob("*/*.go")
	require.NoError(t, err)
	for _, file := range files {
		source, err := os.ReadFile(file)
		require.NoError(t, err)
		for _, found := range name.FindAllStringSubmatch(string(source), -1) {
			names = append(names, found[1])
		}
		for _, found := range choice.FindAllStringSubmatch(string(source), -1) {
			told = append(told, found[1])
		}
	}
	slices.Sort(names)
	slices.Sort(told)
	return slices.Compact(names), slices.Compact(told)
}

// Whatever is sent, to whatever address of the workbench, is done or refused in words: never a fault of the program's,
// and never taken into a draft that can't be published.
func TestWhateverIsSentIsDoneOrRefused(t *testing.T) {
	b := openBench(t, "keeper")
	var posts, gets []string
	require.NoError(
		t,
		chi.Walk(
			b.server.routes(),
			func(method, route string, _ http.Handler, _ ...func(http.Handler) http.Handler) error {
				switch {
				case strings.Contains(route, "*"), route == "/news", route == "/sign-out", route == "/files":
				case method == http.MethodPost:
					posts = append(posts, route)
				case method == http.MethodGet:
					gets = append(gets, route)
				}
				return nil
			},
		),
	)
	names, told := words(t)
	require.Greater(t, len(posts), 15)
	require.Greater(t, len(names), 30)
	require.Greater(t, len(told), 40)
	odd := []string{
		"", "0", "-1", "99999999999999999999", "7", "b3", "p2", "e5", "x", "a\x00b", "\xff\xfe", strings.Repeat("n",
			250), strings.Repeat("é", 5000),
		"text:" + strings.Repeat(
			"a",
			64,
		), "text:unknown", "image:none.png:x", "menu:999:1:1:trail:0:trail", "menu:1:-5:1:trail:0:trail", "branch:999:0:not",
		"page:999999", "web:javascript:alert(1)", "9999-12-31T23:59", "0000-01-01", "0001-01-01T00:00", "2026-02-30",
		"<script>", "'; --", "{{.}}", "/a/../b",
		"pattern:/**/**/**", "role|role", "no-such-kind", "no-such-role", "2026-12-24T18:00", "live", "offline", "yes", "no",
		"manual", "label",
	}
	var fields []string
	for _, all := range edit.Fields() {
		for _, f := range all {
			fields = append(fields, string(f))
		}
	}
	slices.Sort(fields)
	random := rand.New(rand.NewPCG(3, 4))
	pick := func(from []string) string { return from[random.IntN(len(from))] }
	ids := func() string { return fmt.Sprint(random.IntN(90)) }
	answers, edited := map[int]int{}, 0
	for n := range 2500 {
		method, route := http.MethodPost, pick(posts)
		if n%5 == 0 {
			method, route = http.MethodGet, pick(gets)
		}
		acts := []string{"new", "plan", "rename", "hand", "part", "throw", "only", "join", "x", "share"}
		route = strings.NewReplacer("{do}", pick(acts), "{token}", "x.y").Replace(route)
		form := url.Values{}
		for range 2 + random.IntN(8) {
			form.Set(pick(names), pick(odd))
		}
		form.Set("do", pick(told))
		form.Set("field", pick(fields))
		for _, name := range []string{"page", "target", "item", "menu", "block", "chip"} {
			switch random.IntN(3) {
			case 0:
				form.Set(name, ids())
			case 1:
				form.Set(name, pick([]string{"p", "b", "e"})+ids())
			}
		}
		for _, name := range []string{"draft", "at", "state"} {
			if random.IntN(30) > 0 {
				form.Del(name) // most of what is sent belongs to a draft that is there, as it is now
			}
		}
		if n%2 == 0 {
			b.aim(form, pick(fields), pick(odd), random)
			method, route = http.MethodPost, "/edit"
		}
		status, body := b.ask(t, method, route, form)
		if !assert.Less(t, status, 500, "%s %s %q", method, route, form) {
			return
		}
		if answers[status]++; method == http.MethodPost && status == http.StatusOK && route == "/edit" {
			edited++
		}
		assert.NotContains(t, body, "SQLSTATE")
	}
	for _, status := range []int{200, 400, 404, 409, 422} {
		assert.NotZero(t, answers[status], "no answer was %d: %v", status, answers)
	}
	assert.Greater(t, edited, 50)
	account, err := b.store.Authenticate(context.Background(), "keeper", passwordOf("keeper"))
	require.NoError(t, err)
	lines, err := b.store.DraftsOf(context.Background(), account.ID)
	require.NoError(t, err)
	published := 0
	for _, line := range lines {
		d, err := b.store.Draft(context.Background(), line.ID)
		require.NoError(t, err)
		_, err = b.store.Publish(
			context.Background(),
			line.ID,
			account,
			store.Reviewed{Revision: d.Base.Revision, Version: d.Version},
		)
		var refusal *edit.Refusal
		if errors.Is(err, store.ErrNothing) || errors.Is(err, store.ErrHeld) {
			continue
		}
		if published++; err != nil && !assert.ErrorAs(t, err, &refusal, "%v", err) {
			return
		}
	}
	assert.NotZero(t, published, "something odd was taken, and is published or refused")
}

func passwordOf(login string) string {
	for _, a := range demo.Accounts {
		if a.Login == login {
			return a.Password
		}
	}
	return ""
}
