// Package settings is the area of what holds for the whole site.
package settings

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
	r.Get("/settings", s.At(s.siteSettings))
	r.Post("/settings/edit", s.At(s.settingsEdit))
	r.Post("/settings/try", s.At(s.settingsTry))
}
