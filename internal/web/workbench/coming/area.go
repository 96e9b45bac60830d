// Package coming is the area in which what stands elsewhere is brought in: looked at first, then as an edit of the
// draft.
package coming

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
	r.Get(desk.ImportPath, s.At(s.screen))
	r.Post(desk.ImportPath, s.At(s.bring))
	r.Get("/export", s.At(s.export))
}
