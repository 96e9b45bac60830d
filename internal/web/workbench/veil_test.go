package workbench

import (
	"context"
	"fmt"
	"html"
	"log/slog"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"github.com/go-chi/chi/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/site"
	"vineladder/internal/demo"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
	"vineladder/internal/web/assets"
	"vineladder/internal/web/gate"
)

// A concealed page has no name, no words and no address anywhere in the workbench for who may neither order pages nor
// set who sees them: asked of every screen and part that there is.
func TestNobodyLearnsOfConcealedPages(t *testing.T) {
	ctx, at := context.Background(), storetest.URL(t)
	first := storetest.Open(t, at)
	require.NoError(t, demo.Load(ctx, first))
	_, err := first.PublishDirect(ctx, store.Account{Name: "test"}, "made a role", []edit.Op{edit.OpMakeRole{
		Role: "linker", Fields: map[edit.Field]string{
			edit.FieldName: "Linker", edit.FieldPermissions: "edit:site|link:site|place:site",
		},
	}})
	require.NoError(t, err)
	_, err = first.AddAccount(ctx, "link", "Linker", "a fine long password", []string{"linker"})
	require.NoError(t, err)
	var hidden *site.Page
	on := first.Published().Site
	on.Walk(on.Home(), func(p *site.Page) bool {
		if p.Label == "Board papers" {
			hidden = p
		}
		return true
	})
	require.NotNil(t, hidden)
	_, err = first.PublishDirect(
		ctx,
		store.Account{Name: "test"},
		"concealed “Board papers”",
		[]edit.Op{edit.OpEdit{Page: hidden.ID, Fields: []edit.FieldChange{
			{
				Field: edit.FieldConceal,
				Old:   edit.Value(hidden, edit.FieldConceal),
				New:   "yes",
			}, {Field: edit.FieldAudience, Old: edit.Value(hidden, edit.FieldAudience), New: "board-members"},
		}}},
	)
	require.NoError(t, err)

	st := storetest.Open(t, at)
	built, err := assets.New()
	require.NoError(t, err)
	listener := httptest.NewUnstartedServer(nil)
	host := listener.Listener.Addr().String()
	s, err := New(
		st,
		Settings{Origin: "http://" + host, Hosts: []string{host}, Site: "http://site.example"},
		built,
		gate.NewSigner([]byte("key")),
		slog.New(slog.DiscardHandler),
	)
	require.NoError(t, err)
	listener.Config.Handler = s.Handler()
	listener.Start()
	t.Cleanup(func() { s.EndNews(); listener.Close(); s.Close() })
	ask := func(login, password string) func(path string, form url.Values) string {
		jar, err := cookiejar.New(nil)
		require.NoError(t, err)
		b := &bench{store: st, server: s, Server: listener, client: &http.Client{Jar: jar}}
		b.ask(t, http.MethodPost, "/sign-in", url.Values{"login": {login}, "password": {password}})
		return func(path string, form url.Values) string {
			_, body := b.ask(t, http.MethodGet, path, form)
			return body
		}
	}
	linker, keeper := ask("link", "a fine long password"), ask("keeper", passwordOf("keeper"))
	names := []string{"Board papers", "board-papers"}
	asked, known := 0, 0
	require.NoError(
		t,
		chi.Walk(s.routes(), func(method, route string, _ http.Handler, _ ...func(http.Handler) http.Handler) error {
			if method != http.MethodGet || strings.ContainsAny(route, "*{") || route == "/news" {
				return nil
			}
			for _, form := range []url.Values{
				{},
				{"page": {fmt.Sprint(hidden.ID)}},
				{"words": {"board"}},
				{"q": {"board"}, "words": {"board papers"}},
				{"ask": {"concealed"}},
				{
					"state": {"now"},
					"page":  {fmt.Sprint(hidden.ID)},
				},
			} {
				body, all := linker(route, form), keeper(route, form)
				for _, name := range names {
					assert.NotContains(
						t,
						strings.ReplaceAll(body, `value="board papers"`, ""),
						name,
						"%s %s",
						route,
						form,
					)
					if strings.Contains(all, name) {
						known++
					}
				}
				asked++
			}
			return nil
		}),
	)
	assert.Greater(t, asked, 100)
	assert.Greater(t, known, 5, "the keeper reads of it at these screens")
	assert.Contains(t, linker("/tree", url.Values{"page": {fmt.Sprint(hidden.ID)}}), html.EscapeString(grant.Veiled))
}
