// Package types is the area of page types: what each asks for on its pages.
package types

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
	r.Get("/types", s.At(s.types))
	r.Post("/types/edit", s.At(s.edit))
	r.Post("/types/try", s.At(s.try))
}
