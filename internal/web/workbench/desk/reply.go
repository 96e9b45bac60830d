package desk

import (
	"bytes"
	"encoding/json"
	"errors"
	"net/http"

	"github.com/go-chi/chi/v5/middleware"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/say"
	"vineladder/internal/store"
	"vineladder/internal/web/gate"
)

// Render answers with a template. What it writes is held until it is whole.
func (s *Server) Render(w http.ResponseWriter, r *http.Request, name string, view any) {
	var out bytes.Buffer
	if err := s.templates.ExecuteTemplate(&out, name, view); err != nil {
		s.Fail(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	_, _ = out.WriteTo(w) // the reader may have left
}

// A reply is what a script gets for an edit.
type Reply struct {
	Said     string    `json:"said,omitempty"`     // what was done, in words
	Page     int64     `json:"page,omitempty"`     // to go to
	Error    string    `json:"error,omitempty"`    // why nothing was done
	Conflict bool      `json:"conflict,omitempty"` // about one field, with Mine and Their
	Mine     string    `json:"mine,omitempty"`     // of a conflict
	Their    string    `json:"theirs,omitempty"`
	Facts    *TryFacts `json:"facts,omitempty"`
	Hits     []Hit     `json:"hits,omitempty"`
	Sides    any       `json:"sides,omitempty"`
	URL      string    `json:"url,omitempty"`
	IDs      []int64   `json:"ids,omitempty"`
	Draft    int64     `json:"draft,omitempty"`
	Menu     int64     `json:"menu,omitempty"`
	Item     string    `json:"item,omitempty"`
	Chip     string    `json:"chip,omitempty"` // on the map of a layout
	Keys     []string  `json:"keys,omitempty"` // of items

	Parts string `json:"parts,omitempty"` // of the screen, after an edit
	At    string `json:"at,omitempty"`    // the query for which they are
}

// Say answers a script.
func (s *Server) Say(w http.ResponseWriter, status int, what Reply) {
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(what) // the reader may have left
}

// Refuse turns an error into the sentence that the person reads; anything unforeseen is logged and said as such.
func (s *Server) Refuse(w http.ResponseWriter, r *http.Request, err error) {
	var refusal *edit.Refusal
	var conflict *edit.Conflict
	switch {
	case errors.As(err, &refusal):
		s.Say(w, http.StatusUnprocessableEntity, Reply{Error: refusal.Sentence})
	case errors.As(err, &conflict):
		s.Say(
			w,
			http.StatusConflict,
			Reply{
				Error:    conflict.Sentence,
				Conflict: conflict.Field != "",
				Mine:     conflict.Mine,
				Their:    conflict.Theirs,
			},
		)
	case errors.Is(err, ErrForbidden):
		line := store.AuditLine{
			What:    "refused",
			Account: Who(r).Login,
			Client:  s.Settings.Clients.Of(r),
			About:   r.URL.Path,
		}
		if err := s.Store.AuditFailure(r.Context(), line); err != nil {
			s.Log.Error("audit", "error", err)
		}
		s.Say(w, http.StatusForbidden, Reply{Error: say.Capital(err.Error())})
	case errors.Is(err, store.ErrNoUndo), errors.Is(err, store.ErrNoRedo), errors.Is(err, store.ErrNothing),
		errors.Is(err, store.ErrHeld), errors.Is(err, store.ErrReview), errors.Is(err, store.ErrNoDraft):
		s.Say(w, http.StatusConflict, Reply{Error: sentence(err)})
	case errors.Is(err, store.ErrNoPublication):
		s.Say(w, http.StatusNotFound, Reply{Error: sentence(err)})
	default:
		status, sentence := s.unforeseen(w, r, err)
		s.Say(w, status, Reply{Error: sentence})
	}
}

// unforeseen logs a fault that is none of the person's, and gives what they are told of it.
func (s *Server) unforeseen(w http.ResponseWriter, r *http.Request, err error) (status int, sentence string) {
	request := middleware.GetReqID(r.Context())
	s.Log.Error("a workbench request failed", "path", gate.Path(r), "request", request, "error", err)
	if store.IsDown(err) {
		w.Header().Set("Retry-After", retryAfter)
		return http.StatusServiceUnavailable, down
	}
	return http.StatusInternalServerError, broken
}

// What is said while the database does not answer: nobody is signed out by that, and no edit is half done.
const (
	down = "The database does not answer at this moment. Nothing was changed, and you are still signed in; " +
		"try again in half a minute."
	retryAfter = "30"
	broken     = "Something went wrong on our side and nothing was changed. Try again in a moment."
)

// Fail answers who asked for a whole screen with an error.
func (s *Server) Fail(w http.ResponseWriter, r *http.Request, err error) {
	var refusal *edit.Refusal
	switch {
	case errors.Is(err, store.ErrNoDraft):
		http.Error(w, sentence(err), http.StatusNotFound)
		return
	case errors.Is(err, ErrForbidden):
		http.Error(w, say.Capital(err.Error()), http.StatusForbidden)
		return
	case errors.As(err, &refusal):
		http.Error(w, refusal.Sentence, http.StatusUnprocessableEntity)
		return
	}
	status, sentence := s.unforeseen(w, r, err)
	http.Error(w, sentence, status)
}
