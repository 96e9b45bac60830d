// Package workbench is the administrator's application: one desk, and an area for each sort of thing that is kept
// there. Handlers read the request, ask core or the store once, and render a template.
package workbench

import (
	"log/slog"
	"net/http"

	"github.com/go-chi/chi/v5"

	"vineladder/internal/store"
	"vineladder/internal/web/assets"
	"vineladder/internal/web/gate"
	"vineladder/internal/web/workbench/access"
	"vineladder/internal/web/workbench/coming"
	"vineladder/internal/web/workbench/desk"
	"vineladder/internal/web/workbench/drafts"
	"vineladder/internal/web/workbench/layouts"
	"vineladder/internal/web/workbench/menus"
	"vineladder/internal/web/workbench/picture"
	"vineladder/internal/web/workbench/problems"
	"vineladder/internal/web/workbench/reviews"
	"vineladder/internal/web/workbench/settings"
	"vineladder/internal/web/workbench/setup"
	"vineladder/internal/web/workbench/start"
	"vineladder/internal/web/workbench/table"
	"vineladder/internal/web/workbench/tree"
	"vineladder/internal/web/workbench/types"
	"vineladder/internal/web/workbench/wording"
)

// Settings of the workbench.
type Settings = desk.Settings

// A Server is the workbench.
type Server struct {
	*desk.Server
	setup *setup.Area
	areas []func(chi.Router)
}

// New makes the workbench.
func New(
	st *store.Store, with Settings, built *assets.Assets, signer *gate.Signer, log *slog.Logger,
) (*Server, error) {
	d, err := desk.New(st, with, built, signer, log, tree.Templates, menus.Templates, layouts.Templates,
		drafts.Templates, settings.Templates, picture.Templates, setup.Templates, types.Templates, access.Templates,
		wording.Templates, coming.Templates, problems.Templates, reviews.Templates,
		start.Templates, table.Templates)
	if err != nil {
		return nil, err
	}
	return &Server{d, setup.New(d), []func(chi.Router){
		tree.New(d).Routes, menus.New(d).Routes, layouts.New(d).Routes, drafts.New(d).Routes, settings.New(d).Routes,
		picture.New(d).Routes, types.New(d).Routes, access.New(d).Routes, wording.New(d).Routes,
		coming.New(d).Routes, problems.New(d).Routes, reviews.New(d).Routes, start.New(d).Routes,
		table.New(d).Routes,
	}}, nil
}

// Handler answers everything on the workbench's host.
func (s *Server) Handler() http.Handler {
	return gate.Hosts(desk.Inside(s.routes()), s.Settings.Hosts...)
}

func (s *Server) routes() chi.Router {
	r := chi.NewRouter()
	s.Guard(r)
	s.setup.Routes(r)
	r.Group(func(r chi.Router) {
		r.Use(s.setup.WhileEmpty)
		s.Door(r, append(s.areas, func(r chi.Router) {
			r.Get(
				"/",
				func(w http.ResponseWriter, r *http.Request) {
					first := "/start"
					if desk.Begins(s.Store.Published().Site) { // nothing waits yet, and the tree says how to begin
						first = "/tree"
					}
					http.Redirect(w, r, first, http.StatusSeeOther)
				},
			)
		})...)
	})
	return r
}
