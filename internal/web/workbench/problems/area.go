// Package problems is the area of what is wrong with a site: what checks found, what mends it, and what is meant so.
package problems

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
	r.Get("/problems", s.At(s.show))
	r.Post("/problems/fix", s.At(s.fix))
	r.Post("/problems/meant", s.At(s.mean))
	r.Post("/problems/meant-no-more", s.At(s.meanNoMore))
}
