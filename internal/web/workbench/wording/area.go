// Package wording is the area of what pages say over more than one page or moment: words that are looked for in a
// branch and replaced, and the versions of a text.
package wording

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
	r.Get("/wording", s.At(s.found))
	r.Post("/wording", s.At(s.replace))
	r.Get("/versions", s.At(s.versions))
	r.Post("/versions", s.At(s.join))
}
