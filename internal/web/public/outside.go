package public

import (
	"errors"
	"net/http"

	"vineladder/internal/core/say"
	"vineladder/internal/store"
	"vineladder/internal/web/gate"
)

// Who comes back from the organisation's own sign-in comes here.
const outsideBack = "/sign-in/outside/back"

// goOutside sends somebody to the organisation's own sign-in.
func (s *Server) goOutside(w http.ResponseWriter, r *http.Request) {
	if s.settings.Outside == nil {
		s.answer(w, r)
		return
	}
	to := r.URL.Query().Get("to")
	at, err := s.settings.Outside.Begin(r.Context(), s.sessions, s.settings.Origin+outsideBack, to)
	if err != nil {
		s.log.Warn("the organisation's sign-in", "error", err)
		s.answerSignIn(w, r, gate.LocalPath(to), "", outsideDown, http.StatusServiceUnavailable)
		return
	}
	http.Redirect(w, r, at, http.StatusSeeOther)
}

const outsideDown = "The organisation's sign-in does not answer at this moment. Try again later, or sign in with a " +
	"password if you have one here."

// fromOutside signs in who comes back.
func (s *Server) fromOutside(w http.ResponseWriter, r *http.Request) {
	if s.settings.Outside == nil {
		s.answer(w, r)
		return
	}
	to, err := s.sessions.EnterOutside(r, s.settings.Outside, s.settings.Origin+outsideBack)
	switch {
	case err == nil:
		http.Redirect(w, r, to, http.StatusSeeOther)
	case errors.Is(err, store.ErrLinkedElsewhere):
		s.answerSignIn(w, r, to, "", say.Capital(err.Error())+".", http.StatusConflict)
	case errors.Is(err, gate.ErrOutside), errors.Is(err, store.ErrDisabled):
		s.log.Warn("the organisation's sign-in", "error", err)
		const no = "The organisation's sign-in did not let you in. Try it once more from here."
		s.answerSignIn(w, r, to, "", no, http.StatusForbidden)
	default:
		s.fail(w, r, err)
	}
}
