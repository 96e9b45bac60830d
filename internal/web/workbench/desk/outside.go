package desk

import (
	"net/http"

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
	to := gate.LocalPath(r.URL.Query().Get("to"))
	at, err := s.Settings.Outside.Begin(r.Context(), s.Sessions, s.Settings.Origin+outsideBack, to)
	if err != nil {
		s.refuseOutside(w, r, to, err)
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
	if err != nil {
		s.refuseOutside(w, r, to, err)
		return
	}
	s.Sessions.Put(r.Context(), welcome, true)
	http.Redirect(w, r, to, http.StatusSeeOther)
}

// refuseOutside gives the form of signing in, with why the organisation's account did not do.
func (s *Server) refuseOutside(w http.ResponseWriter, r *http.Request, to string, err error) {
	sentence, status := gate.RefusedOutside(err)
	if sentence == "" {
		s.Fail(w, r, err)
		return
	}
	s.Log.Warn("the organisation's sign-in", "error", err)
	w.WriteHeader(status)
	s.Render(w, r, "sign-in", s.asking(signInView{To: to, Error: sentence}))
}

// asking adds what the form of signing in offers beside the password.
func (s *Server) asking(v signInView) signInView {
	if s.Settings.Outside != nil {
		v.Outside = s.Settings.Outside.Name
	}
	return v
}
