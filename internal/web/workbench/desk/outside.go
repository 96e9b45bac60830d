package desk

import (
	"errors"
	"net/http"

	"vineladder/internal/store"
	"vineladder/internal/web/gate"
)

// Who comes back from the organisation's own sign-in comes here.
const outsideBack = "/sign-in/outside/back"

// goOutside sends somebody to the organisation's own sign-in.
func (s *Server) goOutside(w http.ResponseWriter, r *http.Request) {
	if s.Settings.Outside == nil {
		http.NotFound(w, r)
		return
	}
	to := r.URL.Query().Get("to")
	at, err := s.Settings.Outside.Begin(r.Context(), s.Sessions, s.Settings.Origin+outsideBack, to)
	if err != nil {
		s.Log.Warn("the organisation's sign-in", "error", err)
		w.WriteHeader(http.StatusServiceUnavailable)
		s.Render(w, r, "sign-in", s.asking(signInView{
			To: gate.LocalPath(to),
			Error: "The organisation's sign-in does not answer at this moment. Try again later, or sign in with a password " +
				"if you have one here.",
		}))
		return
	}
	http.Redirect(w, r, at, http.StatusSeeOther)
}

// fromOutside signs in who comes back.
func (s *Server) fromOutside(w http.ResponseWriter, r *http.Request) {
	if s.Settings.Outside == nil {
		http.NotFound(w, r)
		return
	}
	to, err := s.Sessions.EnterOutside(r, s.Settings.Outside, s.Settings.Origin+outsideBack)
	switch {
	case err == nil:
		s.Sessions.Put(r.Context(), welcome, true)
		http.Redirect(w, r, to, http.StatusSeeOther)
	case errors.Is(err, gate.ErrOutside), errors.Is(err, store.ErrDisabled):
		s.Log.Warn("the organisation's sign-in", "error", err)
		w.WriteHeader(http.StatusForbidden)
		s.Render(w, r, "sign-in", s.asking(signInView{
			To: to, Error: "The organisation's sign-in did not let you in. Try it once more from here.",
		}))
	default:
		s.Fail(w, r, err)
	}
}

// asking adds what the form of signing in offers beside the password.
func (s *Server) asking(v signInView) signInView {
	if s.Settings.Outside != nil {
		v.Outside = s.Settings.Outside.Name
	}
	return v
}
