package desk

import (
	"net/http"

	"vineladder/internal/core/edit"
	"vineladder/internal/store"
)

// named gives a conflict met while editing with the name of who did what it comes from, in the draft or in public.
func (s *Server) named(r *http.Request, d *Desk, met *edit.Conflict) error {
	deed := store.Deed{}
	if draft, err := s.Store.Draft(r.Context(), d.Draft.ID); err == nil {
		deed = draft.DoneIn(met)
	}
	if deed.At.IsZero() {
		found, err := s.Store.PublishedBy(r.Context(), []*edit.Conflict{met})
		if err != nil {
			s.Log.Error("find who met an edit", "error", err)
		} else {
			deed = found[0]
		}
	}
	said := *met
	if who := d.WhoWords(deed); who != "" {
		said.Sentence = met.Said(who)
	}
	return &said
}

// WhoWords names who did something, and when; "" if nobody was found.
func (d *Desk) WhoWords(deed store.Deed) string {
	name := deed.Name
	if deed.By == d.Who.ID {
		name = "you"
	}
	if deed.At.IsZero() || name == "" {
		return ""
	}
	return name + " on " + deed.At.In(d.Site.Settings().Zone).Format("2 January at 15:04")
}
