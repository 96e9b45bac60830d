// Package layouts is the area of layouts: the map of regions, the blocks in them, and where they show.
package layouts

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
	r.Get("/layouts", s.At(s.layouts))
	r.Post("/layouts/edit", s.At(s.layoutEdit))
	r.Post("/layouts/try", s.At(s.layoutTry))
	r.Post("/layouts/selection", s.At(s.selection))
	r.Get("/layouts/find", s.At(s.findBlocks))
	r.Get("/layouts/counts", s.At(s.counts))
	r.Get("/layouts/cover", s.At(s.cover))
	r.Get("/layouts/text", s.At(s.blockText))
}
