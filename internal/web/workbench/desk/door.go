package desk

import (
	"context"
	"errors"
	"net/http"
	"net/url"

	"vineladder/internal/core/grant"
	"vineladder/internal/store"
	"vineladder/internal/web/gate"
)

type accountKey struct{}

// needAccount lets people in who have something to do in the workbench. A script that asks gets 401 as JSON, so that
// what was being edited stays on the screen.
func (s *Server) needAccount(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		account, ok, err := s.Sessions.Account(r.Context())
		switch {
		case err != nil && (r.Method != http.MethodGet || r.Header.Get("X-Part") != ""):
			s.Refuse(w, r, err)
		case err != nil:
			s.Fail(w, r, err)
		case !ok && (r.Method != http.MethodGet || r.Header.Get("X-Part") != ""):
			s.Say(
				w,
				http.StatusUnauthorized,
				Reply{
					Error: "You are signed out. What you typed is still here: sign in again in another tab, then try once more.",
				},
			)
		case !ok:
			http.Redirect(w, r, "/sign-in?to="+url.QueryEscape(r.URL.RequestURI()), http.StatusSeeOther)
		case !grant.Works(s.Store.Published().Site, account.Roles):
			w.WriteHeader(http.StatusForbidden)
			s.Render(
				w,
				r,
				"sign-in",
				signInView{
					Error: account.Name + " has no permission that the workbench is for. Ask your site keeper, or sign in as " +
						"somebody else.",
					Out: true,
				},
			)
		case s.Store.Published().Site.Settings().SecondFactor && !account.Second:
			w.WriteHeader(http.StatusForbidden)
			s.Render(w, r, "sign-in", signInView{
				Error:  "Who works here signs in with a second factor too. Set one up in your details on the site, then come back.",
				Second: s.Settings.Site + "/my-details", Out: true,
			})
		default:
			next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), accountKey{}, account)))
		}
	})
}

// Who is the account that asks; there is one behind the door.
func Who(r *http.Request) store.Account { return r.Context().Value(accountKey{}).(store.Account) }

type signInView struct {
	To, Login, Error string
	Outside          string // name of the organisation's own sign-in; "" for none
	Second           string // where a second factor is set up, which is missing
	Code             bool   // the code of a device is asked for
	Out              bool   // somebody is signed in who may not be here
	Left             int    // edits of the person who has just signed out that are not public
}

func (s *Server) showSignIn(w http.ResponseWriter, r *http.Request) {
	s.Render(
		w,
		r,
		"sign-in",
		s.asking(signInView{To: gate.LocalPath(r.URL.Query().Get("to")), Left: s.Sessions.PopInt(r.Context(), left)}),
	)
}

func (s *Server) signIn(w http.ResponseWriter, r *http.Request) {
	to, login := gate.LocalPath(r.FormValue("to")), r.FormValue("login")
	_, err := s.Sessions.SignIn(r, login, r.FormValue("password"))
	if errors.Is(err, gate.ErrNeedsCode) {
		http.Redirect(w, r, "/sign-in/code?to="+url.QueryEscape(to), http.StatusSeeOther)
		return
	}
	if status, fault := gate.SignInFault(w, err); status != 0 {
		w.WriteHeader(status)
		s.Render(w, r, "sign-in", s.asking(signInView{To: to, Login: login, Error: fault}))
		return
	}
	if err != nil {
		s.Fail(w, r, err)
		return
	}
	s.Sessions.Put(r.Context(), welcome, true)
	http.Redirect(w, r, to, http.StatusSeeOther)
}

// showCode asks for the code of a device.
func (s *Server) showCode(w http.ResponseWriter, r *http.Request) {
	s.Render(w, r, "sign-in", signInView{To: gate.LocalPath(r.URL.Query().Get("to")), Code: true})
}

func (s *Server) signInCode(w http.ResponseWriter, r *http.Request) {
	to := gate.LocalPath(r.FormValue("to"))
	_, err := s.Sessions.SignInCode(r, r.FormValue("code"))
	switch status, fault := gate.SignInFault(w, err); {
	case errors.Is(err, store.ErrSignIn):
		http.Redirect(w, r, "/sign-in?to="+url.QueryEscape(to), http.StatusSeeOther)
	case status != 0:
		w.WriteHeader(status)
		s.Render(w, r, "sign-in", signInView{To: to, Code: true, Error: fault})
	case err != nil:
		s.Fail(w, r, err)
	default:
		s.Sessions.Put(r.Context(), welcome, true)
		http.Redirect(w, r, to, http.StatusSeeOther)
	}
}

func (s *Server) signOut(w http.ResponseWriter, r *http.Request) {
	if err := s.leave(r); err != nil {
		s.Fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
}
