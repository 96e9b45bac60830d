// Package setup is the first screen of an empty site.
package setup

import (
	"embed"
	"net/http"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/httprate"

	"vineladder/internal/web/workbench/desk"
)

// Templates are those of the area.
//
//go:embed *.html
var Templates embed.FS

// An Area answers what is asked of it.
type Area struct{ *desk.Server }

// New opens the area at a desk.
func New(d *desk.Server) *Area { return &Area{d} }

// Routes has what the area answers, behind a link that is known to whoever started the program.
func (s *Area) Routes(r chi.Router) {
	r.Get("/set-up/{token}", s.setUpLink(s.showSetUp))
	client := func(r *http.Request) (string, error) { return s.Settings.Clients.Of(r), nil }
	r.With(httprate.LimitBy(20, time.Minute, client)).Post("/set-up/{token}", s.setUpLink(s.setUp))
}
