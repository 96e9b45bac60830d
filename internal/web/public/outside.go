package public

import (
	"net/http"

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
	to := gate.LocalPath(r.URL.Query().Get("to"))
	at, err := s.settings.Outside.Begin(r.Context(), s.sessions, s.settings.Origin+outsideBack, to)
	if err != nil {
		s.refuseOutside(w, r, to, err)
		return
	}
	http.Redirect(w, r, at, http.StatusSeeOther)
}

// fromOutside signs in who comes back.
func (s *Server) fromOutside(w http.ResponseWriter, r *http.Request) {
	if s.settings.Outside == nil {
		s.answer(w, r)
		return
	}
	to, err := s.sessions.EnterOutside(r, s.settings.Outside, s.settings.Origin+outsideBack)
	if err != nil {
		s.refuseOutside(w, r, to, err)
		return
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
}

// refuseOutside gives the form of signing in, with why the organisation's account did not do.
func (s *Server) refuseOutside(w http.ResponseWriter, r *http.Request, to string, err error) {
	sentence, status := gate.RefusedOutside(err)
	if sentence == "" {
		s.fail(w, r, err)
		return
	}
	s.log.Warn("the organisation's sign-in", "error", err)
	s.answerSignIn(w, r, to, "", sentence, status)
}
