package setup

import (
	"errors"
	"fmt"
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"

	"vineladder/internal/core/site"
	"vineladder/internal/founding"
	"vineladder/internal/store"
)

// setUpView is the form that makes a site in an empty database.
type setUpView struct {
	founding.Beginning
	Token, Login, Keeper string
	Faults               map[string]string // by field
	Error                string
	Languages            []site.Language
	Zones                []string
}

// WhileEmpty answers everything while there is no site: the set-up page behind its link, and for all else how to come
// by that.
func (s *Area) WhileEmpty(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if !s.Store.IsEmpty() || strings.HasPrefix(r.URL.Path, "/set-up/") {
			next.ServeHTTP(w, r)
			return
		}
		w.WriteHeader(http.StatusServiceUnavailable)
		s.Render(w, r, "set-up-waits", nil)
	})
}

// setUpLink lets through who has the link that the program printed; anybody else gets what is at any other address.
func (s *Area) setUpLink(next http.HandlerFunc) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		is, err := s.Store.IsSetupLink(r.Context(), chi.URLParam(r, "token"))
		switch {
		case err != nil:
			s.Fail(w, r, err)
		case !is:
			http.NotFound(w, r)
		default:
			next(w, r)
		}
	}
}

func (s *Area) showSetUp(w http.ResponseWriter, r *http.Request) {
	s.answerSetUp(w, r, setUpView{Beginning: founding.Beginning{Language: "en", Zone: "UTC"}}, http.StatusOK)
}

func (s *Area) answerSetUp(w http.ResponseWriter, r *http.Request, v setUpView, status int) {
	var err error
	if v.Zones, err = s.Store.Zones(r.Context()); err != nil {
		s.Fail(w, r, err)
		return
	}
	v.Token, v.Languages = chi.URLParam(r, "token"), site.Languages
	w.WriteHeader(status)
	s.Render(w, r, "set-up", v)
}

// setUp founds the site with its first keeper, and uses the link up.
func (s *Area) setUp(w http.ResponseWriter, r *http.Request) {
	v := setUpView{
		Beginning: founding.Beginning{
			Name:     r.FormValue("name"),
			Language: r.FormValue("language"),
			Zone:     strings.TrimSpace(r.FormValue("zone")),
		},
		Login: r.FormValue("login"), Keeper: strings.Join(strings.Fields(r.FormValue("keeper")), " "),
	}
	v.Faults = v.Check()
	if v.Keeper == "" {
		v.Faults["keeper"] = "Who keeps the site? Write a name."
	}
	if err := store.CheckPassword(v.Login, r.FormValue("password")); err != nil {
		v.Faults["password"] = err.Error()
	} else if r.FormValue("password") != r.FormValue("again") {
		v.Faults["password"] = "The two passwords are not the same."
	}
	if err := store.CheckLogin(v.Login, v.Keeper); err != nil {
		v.Faults["login"] = err.Error()
	}
	if len(v.Faults) > 0 {
		s.answerSetUp(w, r, v, http.StatusUnprocessableEntity)
		return
	}
	err := founding.Begin(r.Context(), s.Store, v.Beginning)
	if err == nil || errors.Is(err, founding.ErrBegun) { // the link is good until there is a keeper too
		_, err = s.Store.AddAccount(r.Context(), v.Login, v.Keeper, r.FormValue("password"), []string{founding.Keeper})
	}
	if err == nil {
		err = s.Store.EndSetup(r.Context())
	}
	switch {
	case err != nil:
		s.Log.Error("the site could not be set up", "error", err)
		v.Error = "The site could not be set up. What you typed is still here; try again in a moment."
		s.answerSetUp(w, r, v, http.StatusInternalServerError)
	default:
		s.Log.Info("set up", "site", v.Name, "by", v.Login)
		if err := s.Store.Audit(r.Context(), store.AuditLine{
			What: "set-up", Account: v.Login,
			About: fmt.Sprintf("set up “%s”", v.Name),
		}); err != nil {
			s.Log.Error("audit", "error", err)
		}
		http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
	}
}
