package workbench

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

	"vineladder/internal/core/site"
)

// A door is a route of the workbench, something that is asked of it, and the status that each who asks gets: signed
// out, without permissions, of the Freight department, an approver, a site keeper.
type door struct {
	route string
	form  string // as a query; {Label} stands for the number of a page, {menu Name} of a menu, {role} for a key
	want  string
}

// Kept by hand. Signed out is 401 for a script that asks, 303 to sign-in for a screen; 403 is refused for want of a
// permission, 422 and 409 are refusals of what was asked for, after the permission.
var doors = []door{
	{"GET /", "", "303 403 303 303 303"},
	{"GET /tree", "", "303 403 200 200 200"},
	{"GET /topics", "", "303 403 200 200 200"},
	{"GET /files", "", "303 403 200 200 200"},
	{"GET /files/ask", "", "303 403 200 200 200"},
	{"GET /files/bytes", "page={Freight rates}", "303 403 422 422 422"},
	{"POST /files/withdraw", "page={Freight rates}", "401 403 422 422 422"},
	{"GET /text/parts", "of={Freight rates}", "303 403 200 200 200"},
	{"GET /write", "page={Freight rates}", "303 403 200 200 200"},
	{"GET /wording", "find=freight", "303 403 200 200 200"},
	{"POST /wording", "find=x&hit=1|label|0", "401 403 409 409 409"},
	{"GET /versions", "page={Freight rates}", "303 403 200 200 200"},
	{"POST /versions", "page={Freight rates}&was=&is=&take=is", "401 403 409 403 409"},
	{"POST /versions", "page={Fares}&was=&is=&take=is", "401 403 403 403 409"},
	{"POST /versions", "page={Board papers}&was=&is=&take=is", "401 403 403 403 409"},
	{"GET /import", "", "303 403 200 200 200"},
	{"POST /import", "page={Freight}", "401 403 422 403 422"},
	{"POST /import", "page={Fares}", "401 403 422 403 422"},
	{"GET /export", "format=csv", "303 403 403 403 200"},
	{"GET /export", "format=xlsx", "303 403 403 403 200"},
	{"GET /export", "format=json", "303 403 200 200 200"},
	{"GET /export", "format=opml&menu={menu Footer}", "303 403 200 200 200"},
	{"GET /types", "", "303 403 200 200 200"},
	{"GET /menus", "", "303 403 200 200 200"},
	{"GET /layouts", "", "303 403 200 200 200"},
	{"GET /picture", "", "303 403 200 200 200"},
	{"GET /drafts", "", "303 403 200 200 200"},
	{"GET /settings", "", "303 403 200 200 200"},
	{"GET /access", "", "303 403 200 200 200"},
	{"GET /access/roles", "", "303 403 200 200 200"},
	{"GET /access/people", "", "303 403 200 200 200"},
	{"GET /access/why", "", "303 403 200 200 200"},
	{"GET /access/trail", "", "303 403 403 403 200"},
	{"GET /access/trail", "format=csv", "303 403 403 403 200"},
	{"GET /problems", "", "303 403 200 200 200"},
	{"GET /table", "", "303 403 200 200 200"},
	{"GET /numbers", "number=level-1", "303 403 200 200 200"},
	{"GET /compare", "from=5", "303 403 403 403 200"},
	{"GET /reviews", "", "303 403 200 200 200"},
	{"GET /start", "", "303 403 200 200 200"},
	{"GET /owners", "", "303 403 200 200 200"},
	{"GET /history-of", "page={Freight rates}", "303 403 200 200 200"},
	{"GET /find", "q=board", "303 403 200 200 200"},
	{"GET /moment", "moment=2027-01-01", "303 403 200 200 200"},
	{"GET /key", "", "303 403 200 200 200"},
	{"GET /layouts/counts", "", "303 403 200 200 200"},
	{"GET /layouts/cover", "", "303 403 200 200 200"},
	{"GET /layouts/find", "q=menu", "303 403 200 200 200"},
	{"GET /layouts/text", "", "303 403 200 200 200"},
	{"GET /menus/ask", "", "303 403 200 200 200"},
	{"GET /menus/find", "q=a", "303 403 200 200 200"},
	{"GET /menus/key", "", "303 403 200 200 200"},
	{"GET /preview", "", "303 403 200 200 200"},
	{"GET /review", "", "303 403 200 200 200"},
	{"GET /sides", "", "303 403 200 200 200"},
	{"GET /text", "page={Freight rates}", "303 403 200 200 200"},
	{"GET /text", "page={Board papers}", "303 403 403 403 200"},
	{"GET /topics/export", "page={Places}&format=turtle", "303 403 200 200 200"},
	{"GET /tree/ask", "", "303 403 200 200 200"},
	{"GET /topics/ask", "", "303 403 200 200 200"},

	{"POST /edit", "do=field&page={Freight rates}&field=label&old=Freight rates&new=Rates", "401 403 200 403 200"},
	{"POST /edit", "do=field&page={Fares}&field=label&old=Fares&new=Prices", "401 403 403 403 200"},
	{"POST /edit", "do=field&page={Freight rates}&field=audience&old=&new=staff", "401 403 403 403 200"},
	{"POST /edit", "do=field&page={Freight rates}&field=second_person&old=no&new=yes", "401 403 403 403 200"},
	{"POST /edit", "do=bin&page={Livestock}", "401 403 200 403 200"},
	{"POST /edit", "do=bin&page={Fares}", "401 403 403 403 200"},
	{"POST /try", "do=field&page={Contact}&field=label&old=Contact&new=Us", "401 403 403 403 200"},
	{"POST /tally", "do=bin&pages={Contact}", "401 403 200 200 200"},
	{"POST /selection", "pages={Contact}", "401 403 200 200 200"},
	{"POST /tree/open", "page={Freight}&open=yes", "401 403 200 200 200"},
	{"POST /files/open", "page={Freight}&open=yes", "401 403 200 200 200"},
	{"POST /topics/open", "page={Freight}&open=yes", "401 403 200 200 200"},
	{"POST /topics/import", "do=look", "401 403 422 422 422"},
	{"POST /menus/edit", "do=menu-field&menu={menu Freight}&field=name&old=Freight&new=Ship", "401 403 200 403 200"},
	{"POST /menus/edit", "do=menu-field&menu={menu Footer}&field=name&old=Footer&new=Foot", "401 403 403 403 200"},
	{"POST /menus/edit", "do=take-menu&menu={menu Freight}", "401 403 422 422 422"},
	{"POST /menus/try", "do=menu-field&menu={menu Footer}&field=name&old=Foot&new=Feet", "401 403 403 403 200"},
	{"POST /menus/open", "menu={menu Footer}", "401 403 200 200 200"},
	{"POST /menus/selection", "menu={menu Footer}&items=", "401 403 200 200 200"},
	{"POST /menus/tally", "menu={menu Footer}&items=", "401 403 200 200 200"},
	{"POST /files", "", "401 403 422 403 422"},
	{"POST /layouts/edit", "do=make&name=Words&sort=text", "401 403 200 403 200"},
	{"POST /layouts/edit", "do=make&name=Other&sort=text&region=header", "401 403 403 403 200"},
	{
		"POST /layouts/edit", "do=block-field&chip=b{block Footer menu}&field=name&old=Footer menu&new=F",
		"401 403 403 403 200",
	},
	{"POST /layouts/selection", "chips=p1", "401 403 200 200 200"},
	{"POST /layouts/try", "do=make&name=More&sort=text", "401 403 200 403 200"},
	{"POST /settings/edit", "do=settings&field=closed&old=no&new=yes", "401 403 403 403 200"},
	{"POST /settings/try", "do=settings&field=closed&old=no&new=yes", "401 403 403 403 200"},
	{"POST /types/edit", "do=make-kind&name=Vessel", "401 403 403 403 200"},
	{
		"POST /problems/meant",
		"id=audience-wider page:{Visitors to the office} everyone staff&reason=Public&until=2027-03-01",
		"401 403 403 403 200",
	},
	{
		"POST /problems/meant-no-more", "id=audience-wider page:{Visitors to the office} everyone staff",
		"401 403 403 403 200",
	},
	{
		"POST /problems/fix", "id=audience-wider page:{Visitors to the office} everyone staff",
		"401 403 403 403 200",
	},
	{"POST /table/try", "cells=[[{Freight rates},\"note\",\"\",\"x\"]]", "401 403 200 403 200"},
	{"POST /table/edit", "cells=[[{Freight rates},\"note\",\"\",\"x\"]]", "401 403 200 403 200"},
	{"POST /table/turn", "cells=[]", "401 403 200 200 200"},
	{"POST /bring-back", "page={Contact}&then=5", "401 403 422 422 422"},
	{"POST /start/keep", "page={Contact}&kept=yes", "401 403 200 200 200"},
	{"POST /reviews/still-right", "id={Freight rates}", "401 403 200 403 200"},
	{"POST /still-right", "page={Freight rates}", "401 403 200 403 200"},
	{"POST /types/try", "do=make-kind&name=Vessel", "401 403 403 403 200"},
	{"POST /access/edit", "do=make-role&name=Crew", "401 403 403 403 200"},
	{"POST /access/edit", "do=permit&role=staff&may=edit&on=page:{Freight}", "401 403 403 403 200"},
	{"POST /access/people", "do=sign-out&login=operator", "401 403 403 403 200"},
	{"POST /access/people", "do=roles&login=operator&role=staff", "401 403 403 403 200"},
	{"POST /undo", "", "401 403 200 409 200"},
	{"POST /redo", "", "401 403 200 409 200"},
	{"POST /held", "held=0&keep=mine&version=0", "401 403 409 409 409"},
	{"POST /take-back", "revision=4", "401 403 403 403 200"},
	{"POST /drafts/new", "name=Winter", "401 403 200 200 200"},
	{"POST /drafts/plan", "moment=2030-01-01", "401 403 403 409 403"},
	{"POST /approval/ask", "words=Please", "401 403 200 409 200"},
	{"POST /approval/send-back", "words=No", "401 403 403 422 403"},
	{"POST /approval/remark", "words=Well", "401 403 200 200 200"},
	{"POST /bin/empty", "", "401 403 403 403 422"},
	{"POST /publish", "", "401 403 403 409 403"},
	{"GET /sign-in/outside", "", "404 404 404 404 404"},
	{"GET /sign-in/outside/back", "", "404 404 404 404 404"},
	{"GET /sign-in/code", "", "200 200 200 200 200"},
	{"POST /sign-in/code", "code=1", "303 303 303 303 303"},
	{"POST /sign-in", "login=x&password=y", "422 422 422 422 422"},
}

// outside are the routes that stand outside the table: what is served to everybody, and what has a test of its own.
var outside = []string{
	"GET /assets/*", "GET /set-up/{token}", "POST /set-up/{token}", "GET /sign-in", "POST /sign-out", "GET /news",
}

func (b *bench) fillIn(t *testing.T, form string) url.Values {
	t.Helper()
	on := b.store.Published().Site
	on.Walk(on.Home(), func(p *site.Page) bool {
		form = strings.ReplaceAll(form, "{"+p.Label+"}", fmt.Sprint(p.ID))
		return true
	})
	for i := range on.Menus() {
		m := &on.Menus()[i]
		form = strings.ReplaceAll(form, "{menu "+m.Name+"}", fmt.Sprint(m.ID))
	}
	for i := range on.Blocks() {
		b := &on.Blocks()[i]
		form = strings.ReplaceAll(form, "{block "+b.Name+"}", fmt.Sprint(b.ID))
	}
	require.NotContains(t, form, "{")
	values, err := url.ParseQuery(strings.ReplaceAll(form, " ", "+"))
	require.NoError(t, err)
	return values
}

// Every route of the workbench answers everybody as the table says; a route without a row fails.
func TestEveryDoorForEverybody(t *testing.T) {
	b := openBench(t, "")
	clients := make([]*http.Client, 5)
	for i, login := range []string{"", "staff", "freight", "approver", "keeper"} {
		jar, err := cookiejar.New(nil)
		require.NoError(t, err)
		clients[i] = &http.Client{Jar: jar, CheckRedirect: func(*http.Request, []*http.Request) error {
			return http.ErrUseLastResponse
		}}
		if login != "" {
			b.client = clients[i]
			b.ask(t, http.MethodPost, "/sign-in", url.Values{"login": {login}, "password": {passwordOf(login)}})
		}
	}
	routed := slices.Clone(outside)
	for _, d := range doors {
		method, route, _ := strings.Cut(d.route, " ")
		form := b.fillIn(t, d.form)
		var got []string
		for _, client := range clients {
			b.client = client
			status, _ := b.ask(t, method, route, form)
			got = append(got, fmt.Sprint(status))
		}
		assert.Equal(t, d.want, strings.Join(got, " "), "%s %s", d.route, d.form)
		routed = append(routed, d.route)
	}
	known := func(method, route string) bool {
		pattern := strings.ReplaceAll(route, "{do}", "")
		return slices.ContainsFunc(routed, func(r string) bool {
			of, path, _ := strings.Cut(r, " ")
			return of == method && (path == route || pattern != route && strings.HasPrefix(path, pattern))
		})
	}
	require.NoError(t, chi.Walk(b.server.routes(),
		func(method, route string, _ http.Handler, _ ...func(http.Handler) http.Handler) error {
			asset := strings.HasPrefix(route, "/assets/") || strings.HasSuffix(route, ".css")
			assert.True(t, asset || known(method, route), "%s %s has no row in the table", method, route)
			return nil
		}))
}
