package workbench

import (
	"net/http"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
)

// operations turns what a form asks for into operations on a Site, with what they do in words.
type operations func(*site.Site) ([]edit.Op, string, error)

// inDraft does operations in the draft at hand. Words are settled before the lock; the operations are made again under
// it, on what stands then.
func (s *Server) inDraft(r *http.Request, d *desk, make operations) (*store.Draft, string, error) {
	if d.State == "now" {
		return nil, "", &edit.Refusal{
			Sentence: "You are looking at what is public now. To edit, go to “After publishing”.",
		}
	}
	_, words, err := make(d.Draft.Site)
	if err != nil {
		return nil, "", err
	}
	made, err := s.store.AddStep(r.Context(), d.Draft.ID, d.Who, words, func(draft *store.Draft) ([]edit.Op, error) {
		ops, _, err := make(draft.Site)
		if err == nil {
			err = s.allowed(d, draft, ops)
		}
		return ops, err
	})
	return made, words, err
}

// tried gives the Site as operations would make it, and what that would change; everything stays as it is.
func (s *Server) tried(r *http.Request, d *desk, make operations) (*site.Site, []string, error) {
	ops, _, err := make(d.Draft.Site)
	if err == nil {
		err = s.allowed(d, d.Draft, ops)
	}
	if err != nil {
		return nil, nil, err
	}
	next, _, err := d.Draft.Next(ops, s.now())
	if err != nil {
		return nil, nil, err
	}
	viewers, err := s.viewers(r, d)
	if err != nil {
		return nil, nil, err
	}
	next = edit.Settle(d.Draft.Base.Site, next, s.now())
	said, err := s.store.Compare(r.Context(), d.Draft.After(s.now()), next, viewers)
	if err != nil {
		return nil, nil, err
	}
	var changes []string
	for _, c := range said {
		changes = append(changes, c.Text)
	}
	return next, changes, nil
}
