package desk

import (
	"net/http"
	"slices"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
)

// A screen is what every area of the workbench has around it: the bar with lens, draft, undo and publishing, and the
// line that says what will change.
type Screen struct {
	*Desk
	Area   string
	Path   string // of the area
	Name   string // of the site
	Origin string // of the public site
	Roles  []site.Role
	Dock   dock
	Drafts []store.DraftLine
	Waits  []Wait        // on the first screen after sign-in
	Wrong  []ProblemLine // with what is selected
}

// Screen makes what stands around an area.
func (s *Server) Screen(r *http.Request, d *Desk, area string) (Screen, error) {
	made := Screen{
		Desk:   d,
		Area:   area,
		Path:   "/" + area,
		Name:   d.Site.Settings().Name,
		Origin: s.Settings.Site,
		Roles:  d.Site.Roles(),
	}
	var err error
	if made.Drafts, err = s.Store.DraftsOf(r.Context(), d.Who.ID); err != nil {
		return made, err
	}
	if r.Header.Get("X-Part") == "" && s.Sessions.PopBool(r.Context(), welcome) {
		asked, err := s.ToApprove(r, d)
		if err != nil {
			return made, err
		}
		made.Waits = s.Waits(d, made.Drafts, asked)
	}
	made.Dock, err = s.dock(r, d)
	return made, err
}

// Here gives the address of the same area with one thing changed.
func (v Screen) Here(key, value string) string { return v.Link(v.Path, key, value) }

// EmptyDraft says that nothing was edited.
func (v Screen) EmptyDraft() bool { return len(v.Draft.Steps) == 0 }

// OnlyThis says whether the draft has edits of the selected page, and others that could go on waiting.
func (v Screen) OnlyThis() bool {
	of := 0
	for _, step := range v.Draft.Steps {
		if slices.ContainsFunc(step.Ops, func(op edit.Op) bool { return edit.IsAbout(op, v.Selected) }) {
			of++
		}
	}
	return v.State == "after" && 0 < of && of < len(v.Draft.Steps)
}

// Begins says that nothing stands in the tree yet but what was there from the beginning.
func (v Screen) Begins() bool { return Begins(v.Site) }

// Begins says so of a site.
func Begins(s *site.Site) bool { return s.Count() <= 1+len(edit.Specials(s.Settings())) }
