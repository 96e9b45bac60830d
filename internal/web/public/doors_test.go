package public

import (
	"fmt"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"slices"
	"strings"
	"testing"

	"github.com/go-chi/chi/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/demo"
)

// A door is a route of the public site, an address that it answers, and the status that each who asks gets: signed out,
// of the staff, an operator, a site keeper.
type door struct{ route, path, want string }

// Kept by hand: pages by whom they are for (rules 4.3), forms by whether somebody is signed in.
var doors = []door{
	{"GET /*", "/", "200 200 200 200"},
	{"HEAD /*", "/", "200 200 200 200"},
	{"GET /*", "/sailings/fares", "200 200 200 200"},
	{"GET /*", "/freight/for-regular-shippers", "303 200 200 200"},
	{"GET /*", "/staff-handbook", "303 200 403 200"},
	{"GET /*", "/staff-handbook/visitors-to-the-office", "200 200 200 200"},
	{"GET /*", "/staff-handbook/harbour-masters-notes", "303 403 403 200"},
	{"GET /*", "/operators-room", "404 404 200 200"},
	{"GET /*", "/board-papers", "303 403 403 200"},
	{"HEAD /*", "/board-papers", "303 403 403 200"},
	{"GET /*", "/topics/places", "200 200 200 200"},
	{"GET /*", "/nowhere", "404 404 404 404"},
	{"GET /*", "/api/menus/operators.json", "404 404 404 404"},
	{"GET /*", "/register", "404 404 404 404"},
	{"GET /*", "/my-details", "303 200 200 200"},
	{"GET /*", "/sign-in", "200 303 303 303"},
	{"GET /*", "/sign-in/password", "200 200 200 200"},
	{"GET /sign-in/link", "/sign-in/link?link=x", "410 410 410 410"},
	{"POST /sign-in/link", "/sign-in/link", "410 410 410 410"},
	{"POST /sign-in/password", "/sign-in/password", "200 200 200 200"},
	{"POST /register", "/register", "404 404 404 404"},
	{"POST /my-details", "/my-details", "303 422 422 422"},
	{"GET /my-details/sign-in", "/my-details/sign-in", "303 200 200 200"},
	{"GET /my-details/sign-in/code.png", "/my-details/sign-in/code.png", "404 404 404 404"},
	{"POST /my-details/sign-in", "/my-details/sign-in", "303 200 200 200"},
	{"GET /sign-in/outside", "/sign-in/outside", "404 404 404 404"},
	{"GET /sign-in/outside/back", "/sign-in/outside/back", "404 404 404 404"},
	{"GET /sign-in/code", "/sign-in/code", "200 200 200 200"},
	{"POST /sign-in/code", "/sign-in/code", "303 303 303 303"},
	{"GET /files/{name}", "/files/none.pdf", "404 404 404 404"},
	{"GET /files/{name}", "/files/tern.png?w=480", "200 200 200 200"},
	{"GET /files/{name}", "/files/claim-for-expenses.pdf", "303 200 403 200"},
	{"GET /files/{name}", "/files/accounts-to-approve.pdf", "303 403 403 200"},
	{"HEAD /files/{name}", "/files/accounts-to-approve.pdf", "303 403 403 200"},
	{"GET /proof/{token}", "/proof/x", "410 410 410 410"},
	{"GET /proof/{token}/*", "/proof/x/", "410 410 410 410"},
	{"POST /sign-in", "/sign-in", "422 422 422 422"},
	{"POST /sign-out", "/sign-out", "303 303 303 303"},
}

// Every route of the public site answers everybody as the table says; a route without a row fails.
func TestEveryDoorForEverybody(t *testing.T) {
	server, site, _, _ := serveFiles(t)
	var clients []*http.Client
	for _, login := range []string{"", "staff", "operator", "keeper"} {
		jar, err := cookiejar.New(nil)
		require.NoError(t, err)
		client := &http.Client{Jar: jar, CheckRedirect: func(*http.Request, []*http.Request) error {
			return http.ErrUseLastResponse
		}}
		for _, a := range demo.Accounts {
			if a.Login == login {
				answer, err := client.PostForm(server.URL+"/sign-in", url.Values{"login": {a.Login}, "password": {a.Password}})
				require.NoError(t, err)
				answer.Body.Close()
			}
		}
		clients = append(clients, client)
	}
	for _, d := range doors {
		var got []string
		for _, client := range clients {
			method, _, _ := strings.Cut(d.route, " ")
			request, err := http.NewRequest(method, server.URL+d.path, http.NoBody)
			require.NoError(t, err)
			if method == http.MethodPost {
				request.Header.Set("Content-Type", "application/x-www-form-urlencoded")
			}
			answer, err := client.Do(request)
			require.NoError(t, err)
			answer.Body.Close()
			got = append(got, fmt.Sprint(answer.StatusCode))
		}
		assert.Equal(t, d.want, strings.Join(got, " "), "%s %s", d.route, d.path)
	}
	require.NoError(t, chi.Walk(site.routes().(chi.Routes),
		func(method, route string, _ http.Handler, _ ...func(http.Handler) http.Handler) error {
			known := slices.ContainsFunc(doors, func(d door) bool { return d.route == method+" "+route })
			asset := strings.HasPrefix(route, "/assets/") || strings.HasSuffix(route, ".css")
			assert.True(t, asset || known, "%s %s has no row in the table", method, route)
			return nil
		}))
}
