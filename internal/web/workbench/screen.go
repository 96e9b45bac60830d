package workbench

import (
	"net/http"
	"slices"
	"strconv"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
)

// A screen is what every area of the workbench has around it: the bar with lens, draft, undo and publishing, and the
// line that says what will change.
type screen struct {
	*desk
	Area   string
	Path   string // of the area
	Name   string // of the site
	Origin string // of the public site
	Roles  []site.Role
	Dock   dock
	Drafts []store.DraftLine
	Waits  []wait // on the first screen after sign-in
}

func (s *Server) screen(r *http.Request, d *desk, area string) (screen, error) {
	made := screen{
		desk:   d,
		Area:   area,
		Path:   "/" + area,
		Name:   d.Site.Settings().Name,
		Origin: s.settings.Site,
		Roles:  d.Site.Roles(),
	}
	var err error
	if made.Drafts, err = s.store.DraftsOf(r.Context(), d.Who.ID); err != nil {
		return made, err
	}
	if r.Header.Get("X-Part") == "" && s.sessions.PopBool(r.Context(), welcome) {
		made.Waits = s.waits(d, made.Drafts)
	}
	made.Dock, err = s.dock(r, d)
	return made, err
}

// Here gives the address of the same area with one thing changed.
func (v screen) Here(key, value string) string { return v.Link(v.Path, key, value) }

// EmptyDraft says that nothing was edited.
func (v screen) EmptyDraft() bool { return len(v.Draft.Steps) == 0 }

// OnlyThis says whether the draft has edits of the selected page, and others that could go on waiting.
func (v screen) OnlyThis() bool {
	of := 0
	for _, step := range v.Draft.Steps {
		if slices.ContainsFunc(step.Ops, func(op edit.Op) bool { return edit.IsAbout(op, v.Selected) }) {
			of++
		}
	}
	return v.State == "after" && 0 < of && of < len(v.Draft.Steps)
}

func number[T ~int64](typed string) T {
	n, _ := strconv.ParseInt(typed, 10, 64)
	return T(n)
}
