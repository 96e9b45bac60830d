// Package drafts is the area of drafts and the history: what a draft changes, before and after, publishing, taking
// back, what is held, and the bin.
package drafts

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
	r.Post("/undo", s.At(s.step("Undone: ", s.Store.Undo)))
	r.Post("/redo", s.At(s.step("Done again: ", s.Store.Redo)))
	r.Get("/preview", s.At(s.preview))
	r.Get("/compare", s.At(s.compare))
	r.Post("/bring-back", s.At(s.bringBack))
	r.Get("/review", s.At(s.review))
	r.Get("/sides", s.At(s.showSides))
	r.Post("/publish", s.At(s.publish))
	r.Post("/held", s.At(s.decideHeld))
	r.Post("/take-back", s.At(s.takeBack))
	r.Get("/drafts", s.At(s.drafts))
	r.Post("/drafts/{do}", s.At(s.draftDo))
	r.Post("/approval/{do}", s.At(s.approval))
	r.Post("/bin/empty", s.At(s.emptyBin))
}
