// Package picture is the area of the site picture.
package picture

import (
	"embed"
	"sync/atomic"

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
	walks    walks
	counting atomic.Bool // past publications are being counted
}

// New opens the area at a desk.
func New(d *desk.Server) *Area { return &Area{Server: d} }

// Routes has what the area answers; people are signed in.
func (s *Area) Routes(r chi.Router) {
	r.Get("/picture", s.At(s.picture))
	r.Get("/numbers", s.At(s.numbers))
}
