// Package table is the area in which many pages are edited at once: a selection, what answers a question, or a branch,
// as a grid of chosen columns.
package table

import (
	"embed"

	"github.com/go-chi/chi/v5"

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
	r.Get("/table", s.At(s.show))
	r.Post("/table/try", s.At(s.try))
	r.Post("/table/edit", s.At(s.edit))
	r.Post("/table/turn", s.At(s.turn))
}
