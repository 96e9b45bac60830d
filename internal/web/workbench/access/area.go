// Package access is the area of who sees what and who may do what: branches, roles, people, and why.
package access

import (
	"embed"
	"net/http"
	"time"

	"github.com/go-chi/chi/v5"

	"vineladder/internal/core/grant"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// Templates are those of the area.
//
//go:embed *.html
var Templates embed.FS

// An Area answers what is asked of it.
type Area struct {
	*desk.Server
}

// New opens the area at a desk.
func New(d *desk.Server) *Area { return &Area{Server: d} }

// Routes has what the area answers; people are signed in.
func (s *Area) Routes(r chi.Router) {
	r.Get("/access", s.At(s.branches))
	r.Get("/access/roles", s.At(s.roles))
	r.Get("/access/people", s.At(s.people))
	r.Get("/access/why", s.At(s.why))
	r.Get("/access/trail", s.At(s.trail))
	r.Post("/access/edit", s.At(s.edit))
	r.Post("/access/people", s.At(s.changePeople))
}

// A view is what every screen of the area has.
type view struct {
	desk.Screen
	Part   string       // "branches", "roles", "people", "why" or "trail"
	Steer  grant.Answer // whether the person may set who sees and who may, on the whole site
	Locked bool         // nothing can be changed here now
}

func (s *Area) view(r *http.Request, d *desk.Desk, part string) (view, error) {
	v := view{Part: part, Steer: d.May(string(site.ActionAdmit))}
	var err error
	if v.Screen, err = s.Screen(r, d, "access"); err != nil {
		return v, err
	}
	v.Screen.Path = pathOf(part)
	v.Locked = d.State == "now" || !d.MayAnywhere(string(site.ActionAdmit)).Yes
	return v, nil
}

func pathOf(part string) string {
	if part == "branches" {
		return "/access"
	}
	return "/access/" + part
}

// show renders a screen, or its parts for who has it already.
func (s *Area) show(w http.ResponseWriter, r *http.Request, v any) {
	name := "access"
	if r.Header.Get("X-Part") != "" {
		name = "access-parts"
	}
	s.Render(w, r, name, v)
}

// Moment says when something was.
func (v view) Moment(at time.Time) string { return desk.LongMoment(v.Site, at) }

// actionWords gives all actions, as the screens say them.
func actionWords() []desk.Option {
	var all []desk.Option
	for _, action := range site.Actions() {
		all = append(all, desk.Option{Value: string(action), Words: grant.Words(action)})
	}
	return all
}
