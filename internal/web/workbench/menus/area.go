// Package menus is the area of menus: the ladder of their items, what a visitor gets of them, and where they stand.
package menus

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
	ladders itemLadders
	depths  depths
}

// New opens the area at a desk.
func New(d *desk.Server) *Area { return &Area{Server: d} }

// Routes has what the area answers; people are signed in.
func (s *Area) Routes(r chi.Router) {
	r.Get("/menus", s.At(s.menus))
	r.Post("/menus/edit", s.At(s.menuEdit))
	r.Post("/menus/try", s.At(s.menuTry))
	r.Post("/menus/open", s.openItem)
	r.Get("/menus/find", s.At(s.findItems))
	r.Get("/menus/ask", s.At(s.askItems))
	r.Post("/menus/tally", s.At(s.tallyItems))
	r.Post("/menus/selection", s.At(s.selection))
	r.Get("/menus/key", s.At(s.itemKey))
}
