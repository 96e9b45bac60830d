package desk

import (
	"net/http"
	"slices"

	"vineladder/internal/core/consequence"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
)

// A dock is the line that says what will change.
type dock struct {
	Sentences []consequence.Sentence
	Edits     int
	Held      int
	Undo      string
	Redo      string
}

// Changes says what will change, at the moment of the lens or at the one that the draft is set to. Now is the usual
// moment, and computed once for all who ask.
func (s *Server) Changes(r *http.Request, d *Desk) ([]consequence.Sentence, error) {
	if d.At == "" && d.Draft.Planned.IsZero() && !d.Veiled {
		return s.Store.Consequences(r.Context(), d.Draft)
	}
	viewers, err := s.Viewers(r, d)
	if err != nil {
		return nil, err
	}
	return s.Store.Compare(r.Context(), d.Draft.Base.Site, d.Draft.After(s.Now()), viewers)
}

func (s *Server) dock(r *http.Request, d *Desk) (dock, error) {
	made := dock{Edits: len(d.Draft.Steps), Held: len(d.Draft.Held)}
	var err error
	made.Sentences, err = s.Changes(r, d)
	if made.Sentences = d.Readable(made.Sentences); err != nil {
		return dock{}, err
	}
	if at := store.LastOf(d.Draft.Steps, d.Who.ID); at >= 0 {
		made.Undo = d.Draft.Steps[at].Said
	}
	for _, step := range d.Draft.Undone {
		if step.By == d.Who.ID {
			made.Redo = step.Said
			break
		}
	}
	return made, nil
}

// Readable leaves out of sentences the words of pages that the person may not read.
func (d *Desk) Readable(sentences []consequence.Sentence) []consequence.Sentence {
	made, reads := slices.Clone(sentences), d.Reader()
	for i, s := range made {
		if len(s.Words) > 0 && s.Block == 0 &&
			slices.ContainsFunc(s.Pages, func(id site.PageID) bool { return !reads(id) }) {
			made[i].Words = nil
		}
	}
	return made
}

// WindowRows is the number of rows of a ladder that are sent at once.
const WindowRows = 80

// SelectLimit bounds the pages that one selection can hold, so that it fits into one request.
const SelectLimit = 100_000
