package desk

import (
	"context"
	"fmt"
	"net/http"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
	"vineladder/internal/store"
)

// Operations turns what a form asks for into operations on a Site, with what they do in words.
type Operations func(*site.Site) ([]edit.Op, string, error)

// InDraft does operations in the draft at hand. Words are settled before the lock; the operations are made again under
// it, on what stands then.
func (s *Server) InDraft(r *http.Request, d *Desk, make Operations) (*store.Draft, string, error) {
	if err := d.MustBeToday(); err != nil {
		return nil, "", err
	}
	if d.State == "now" {
		return nil, "", &edit.Refusal{
			Sentence: "You are looking at what is public now. To edit, go to “After publishing”.",
		}
	}
	_, words, err := make(d.Draft.Site)
	if err != nil {
		return nil, "", err
	}
	made, err := s.Store.AddStep(r.Context(), d.Draft.ID, d.Who, words, func(draft *store.Draft) ([]edit.Op, error) {
		ops, _, err := make(draft.Site)
		if err == nil {
			err = s.Allowed(d, draft, ops)
		}
		return ops, err
	})
	return made, words, err
}

// Tried gives the Site as operations would make it, and what that would change; everything stays as it is.
func (s *Server) Tried(r *http.Request, d *Desk, make Operations) (*site.Site, []string, error) {
	ops, _, err := make(d.Draft.Site)
	if err == nil {
		err = s.Allowed(d, d.Draft, ops)
	}
	if err != nil {
		return nil, nil, err
	}
	next, _, err := d.Draft.Next(ops, s.Now())
	if err != nil {
		return nil, nil, err
	}
	viewers, err := s.Viewers(r, d)
	if err != nil {
		return nil, nil, err
	}
	next = edit.Settle(d.Draft.Base.Site, next, s.Now())
	said, err := s.Store.Compare(r.Context(), d.Draft.After(s.Now()), next, viewers)
	if err != nil {
		return nil, nil, err
	}
	var changes []string
	for _, c := range said {
		changes = append(changes, c.Text)
	}
	return next, changes, nil
}

// Allowed asks whether the person may do what operations do in a draft.
func (s *Server) Allowed(d *Desk, draft *store.Draft, ops []edit.Op) error {
	public, roles := d.Draft.Base.Site, d.Who.Roles
	if answer := grant.MayAll(public, draft.Site, roles, ops); !answer.Yes {
		return fmt.Errorf("%w: %s", ErrForbidden, answer.Why)
	}
	if answer := grant.MayWrite(public, roles, ops); !answer.Yes {
		return fmt.Errorf("%w: %s", ErrForbidden, answer.Why)
	}
	if !grant.CanOpen(ops) {
		return nil
	}
	next, settled, err := draft.Next(ops, s.Now())
	if err != nil {
		return err
	}
	if answer := grant.MayOpen(public, next, roles, settled, s.Now()); !answer.Yes {
		return fmt.Errorf("%w: %s", ErrForbidden, answer.Why)
	}
	return nil
}

// KeepText cleans the text that a form brings, keeps it, and gives its hash.
func (s *Server) KeepText(r *http.Request, d *Desk) (string, error) {
	hashes, err := s.KeepTexts(r.Context(), d, r.FormValue("new"))
	if err != nil {
		return "", err
	}
	return hashes[0], nil
}

// KeepTexts does so with several.
func (s *Server) KeepTexts(ctx context.Context, d *Desk, raw ...string) ([]string, error) {
	clean := make([]string, len(raw))
	for i := range raw {
		if len(raw[i]) > text.Limit {
			return nil, &edit.Refusal{
				Sentence: fmt.Sprintf(
					"A text can have %d KiB at most; this one has %d.",
					text.Limit>>10,
					len(raw[i])>>10,
				),
			}
		}
		clean[i] = s.cleaner.Clean(d.Draft.Site, raw[i], s.Now())
	}
	return s.Store.SaveTexts(ctx, clean...)
}

// TryFacts is what an edit would do, while it is being typed or dragged.
type TryFacts struct {
	Place   string   `json:"place"`
	Address string   `json:"address"`
	Menu    string   `json:"menu"`
	Changes []string `json:"changes"`
}

// TryEntry is a number that no item has, for one that is only tried.
const TryEntry = 1 << 40
