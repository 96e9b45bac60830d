package main

import (
	"context"
	"net/http"
	"net/http/cookiejar"
	"net/url"
	"time"

	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/demo"
)

// These rows measure who sees and who may (rules 4 and 8).
func init() {
	rows = append(rows, []row{
		{
			name: "signed-in", what: "the page for somebody who is signed in, over loopback, 8 connections, against the " +
				"same signed out",
			aim: 0.25, atLeast: true, unit: " req/s", measure: signedInBeside,
		},
		{
			name: "rights", what: "audience and rights of all pages for one set of roles, with permissions on 20 branches, " +
				"against a bare pass that follows the parent and writes one result",
			aim: 10, unit: " ms", measure: rightsOfAll,
		},
		{
			name: "one-right", what: "10,000 answers to who may edit a page, at 100,000 pages against 1,000",
			aim: 2, unit: " ms", measure: oneRight,
		},
		{
			name: "what-if", what: "consequences of another audience of the home page for 12 viewers, against one walk that " +
				"decides reach for the same viewers",
			aim: 10, unit: " ms", measure: whatIf,
		},
		{
			name: "what-if-role", what: "consequences of a role that another comes to include, 12 viewers, against one walk " +
				"that decides reach for them",
			aim: 10, unit: " ms", measure: whatIfRole,
		},
	}...)
}

func signedInBeside(ctx context.Context, w *world) (ours, baseline func() float64) {
	const login, password = "bench-reader", "a fine long password"
	must(w.store.AddAccount(ctx, login, "A Reader", password, []string{"staff"}))
	ctx, stop := context.WithCancel(ctx)
	w.ends = append(w.ends, stop)
	go w.store.Follow(ctx)
	jar := must(cookiejar.New(nil))
	c := client()
	c.Jar = jar
	must(c.PostForm(w.server.URL+"/sign-in", url.Values{"login": {login}, "password": {password}})).Body.Close()
	page := w.server.URL + publicPath(w)
	cookies := jar.Cookies(must(url.Parse(page)))
	if len(cookies) == 0 {
		panic("nobody is signed in")
	}
	ours = func() float64 {
		return loadWith(page, func(r *http.Request) { r.Header.Set("Cookie", cookies[0].Name+"="+cookies[0].Value) })
	}
	return ours, func() float64 { return load(page) }
}

// permitted gives a site a role with permissions on 20 branches.
func permitted(s *site.Site) *site.Site {
	role := site.Role{Key: "tenders", Name: "Tenders", Includes: []string{"staff"}}
	kids := s.Children(s.Home())
	for i := range 20 {
		role.Grants = append(role.Grants, site.Grant{Action: site.ActionEdit, On: site.PageThing(kids[i%len(kids)])})
	}
	b := s.Builder()
	b.SetRoles(append(append([]site.Role{}, s.Roles()...), role))
	return b.Site()
}

func rightsOfAll(_ context.Context, w *world) (ours, baseline func() float64) {
	s := permitted(w.store.Published().Site)
	roles := []string{"tenders"}
	ours = func() float64 {
		return milliseconds(func() {
			found := make(map[grant.Rights]int, 8)
			panel := reach.NewPanel(reach.Lens{Visitor: reach.As(s, roles), At: time.Now()})
			grant.Holding(s, roles).Walk(func(_ *site.Page, rights grant.Rights) bool { found[rights]++; return true })
			reach.Walk(s, panel, func(_ *site.Page, state reach.State) bool {
				found[grant.Rights(state.Admitted)]++
				return true
			})
		})
	}
	return ours, barePass(s)
}

// barePass follows the parent of each page and writes one result.
func barePass(s *site.Site) func() float64 {
	var ids []site.PageID
	s.Walk(s.Home(), func(p *site.Page) bool { ids = append(ids, p.ID); return true })
	return func() float64 {
		results := make([]site.PageID, len(ids))
		return milliseconds(func() {
			reader := site.NewReader(s)
			for i, id := range ids {
				results[i] = reader.Page(id).Parent
			}
		})
	}
}

func oneRight(context.Context, *world) (ours, baseline func() float64) {
	ask := func(pages int) func() float64 {
		s := permitted(demo.InMemory(demo.Synthetic{Pages: pages, Seed: 1}))
		var ids []site.PageID
		s.Walk(s.Home(), func(p *site.Page) bool {
			if s.Level(p.ID) == 1 {
				ids = append(ids, p.ID)
			}
			return true
		})
		return func() float64 {
			h := grant.Holding(s, []string{"tenders"})
			return milliseconds(func() {
				for i := range 10_000 {
					h.Through(site.ActionEdit, site.PageThing(ids[i*7919%len(ids)]))
				}
			})
		}
	}
	return ask(100_000), ask(1_000)
}

// viewersOf12 gives a dozen viewers.
func viewersOf12(s *site.Site) (*site.Site, consequence.Viewers) {
	roles := append([]site.Role{}, s.Roles()...)
	for i := len(roles); i < 10; i++ {
		roles = append(roles, site.Role{Key: "r" + string(rune('a'+i)), Name: "Role"})
	}
	b := s.Builder()
	b.SetRoles(roles)
	made := b.Site()
	return made, consequence.ViewersOf(made, nil, time.Now())
}

func whatIf(_ context.Context, w *world) (ours, baseline func() float64) {
	s, viewers := viewersOf12(w.store.Published().Site)
	op := edit.OpEdit{Page: s.Home(), Fields: []edit.FieldChange{
		{Field: edit.FieldAudience, Old: string(s.Page(s.Home()).Audience), New: "staff"},
	}}
	return compared(s, op, viewers), walked(s, viewers)
}

func whatIfRole(_ context.Context, w *world) (ours, baseline func() float64) {
	s, viewers := viewersOf12(w.store.Published().Site)
	op := edit.OpEditRole{Role: "operators", Fields: []edit.FieldChange{{Field: edit.FieldIncludes, New: "staff"}}}
	return compared(s, op, viewers), walked(s, viewers)
}

func compared(s *site.Site, op edit.Op, viewers consequence.Viewers) func() float64 {
	next, _, err := edit.Apply(s, op, time.Now())
	if err != nil {
		panic(err)
	}
	return func() float64 {
		return milliseconds(func() { consequence.Compare(s, next, viewers, nil).Sentences() })
	}
}

func walked(s *site.Site, viewers consequence.Viewers) func() float64 {
	return func() float64 {
		return milliseconds(func() {
			n := 0
			reach.Walk(s, viewers.Panel, func(_ *site.Page, state reach.State) bool {
				n += state.Reachable().Count()
				return true
			})
		})
	}
}
