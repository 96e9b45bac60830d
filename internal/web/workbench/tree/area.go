// Package tree is the areas of the site tree and of the topics in it: the ladder of pages, the sheet of the one that
// is selected, and what is done with one or many.
package tree

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
	for _, g := range []grove{treeGrove, topicGrove, fileGrove} {
		r.Get("/"+g.area, s.At(s.ladder(g)))
		r.Post("/"+g.area+"/open", s.openBranch(g))
		r.Get("/"+g.area+"/ask", s.At(s.ask(g)))
	}
	r.Get("/topics/export", s.At(s.exportTopics))
	r.Post("/topics/import", s.At(s.importTopics))
	r.Post("/files", s.At(s.upload))
	r.Get("/files/bytes", s.At(s.fileBytes))
	r.Post("/files/withdraw", s.At(s.withdraw))
	r.Post("/edit", s.At(s.edit))
	r.Post("/try", s.At(s.try))
	r.Post("/still-right", s.At(s.stillRight))
	r.Get("/text", s.At(s.text))
	r.Get("/text/parts", s.At(s.parts))
	r.Get("/write", s.At(s.write))
	r.Post("/tally", s.At(s.tally))
	r.Post("/selection", s.At(s.selection))
	r.Get("/key", s.At(s.key))
}
