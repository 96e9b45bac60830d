package public

import (
	"context"
	"errors"
	"net/http"
	"strings"

	"vineladder/internal/core/grant"
	"vineladder/internal/store"
)

// form renders one of the account's own forms, in the layout of pages that have no other.
func (r *Renderer) form(
	ctx context.Context,
	q Request,
	name, title string,
	fill func(*view),
	status int,
) (Response, error) {
	v, err := r.view(ctx, q, 0)
	if err != nil {
		return Response{}, err
	}
	v.Title = title
	fill(v)
	if strings.HasPrefix(q.Base, "/proof/") {
		name = "form-proof" // a preview is to look at
	}
	answer, err := r.execute(name, v, status)
	answer.Type, answer.Cache = htmlWords, cacheNever
	return answer, err
}

// answerForm sends a form again, with what was wrong with it.
func (s *Server) answerForm(w http.ResponseWriter, r *http.Request, name, title string, status int, fill func(*view)) {
	answer, err := s.form(r.Context(), s.request(r, s.store.Published(), s.now()), name, title, fill, status)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	s.send(w, answer)
}

// details is the form of one's own details.
func (r *Renderer) details(ctx context.Context, q Request, fault, done string, status int) (Response, error) {
	var roles []string
	for _, key := range q.Roles {
		if role := q.Site.Role(key); role != nil {
			roles = append(roles, role.Name)
		}
	}
	return r.form(ctx, q, "details", "My details", func(v *view) {
		v.Error, v.Said, v.Login, v.Name, v.Roles = fault, done, q.Login, q.Name, strings.Join(roles, ", ")
	}, status)
}

// mayRegister says whether visitors may make themselves an account; where they may not, the form is not there.
func (s *Server) mayRegister(w http.ResponseWriter, r *http.Request) bool {
	if q := s.request(r, s.store.Published(), s.now()); q.Site.Settings().Register &&
		!grant.ClosedTo(q.Site, q.Lens.Roles) {
		return true
	}
	s.answer(w, r)
	return false
}

// register makes an account without any role, and signs it in.
func (s *Server) register(w http.ResponseWriter, r *http.Request) {
	if !s.mayRegister(w, r) {
		return
	}
	r.Body = http.MaxBytesReader(w, r.Body, 16<<10)
	login, name, password := r.FormValue("login"), tidy(r.FormValue("name")), r.FormValue("password")
	fault := ""
	if name == "" {
		fault = "Tell us how we may call you."
	} else if _, err := s.store.AddAccount(r.Context(), login, name, password, nil); err != nil {
		var taken *store.Taken
		switch sentence, told := accountFault(err); {
		case errors.As(err, &taken): // told in no way: the answer is the same
		case told:
			fault = sentence
		default:
			s.fail(w, r, err)
			return
		}
	}
	if fault != "" {
		s.answerForm(
			w,
			r,
			"register",
			"Register",
			http.StatusUnprocessableEntity,
			func(v *view) { v.Error, v.Login, v.Name = fault, login, name },
		)
		return
	}
	q := s.request(r, s.store.Published(), s.now())
	answer, err := s.signInSaying(
		r.Context(),
		q,
		"/my-details",
		login,
		notice{said: "If this name was free, it is yours now: sign in. If that fails, register with another one."},
		http.StatusOK,
	)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	s.send(w, answer)
}

// accountFault gives the sentence of what a person did wrong with an account; any other error is the program's own
// affair.
func accountFault(err error) (sentence string, told bool) {
	var name *store.BadName
	var password *store.BadPassword
	switch {
	case errors.As(err, &name):
		return name.Sentence, true
	case errors.As(err, &password):
		return password.Sentence, true
	case errors.Is(err, store.ErrBusy):
		return "Too many people are signing in at this moment; try again in a few seconds.", true
	}
	return "", false
}

// myself is who is signed in; others are asked to sign in first.
func (s *Server) myself(w http.ResponseWriter, r *http.Request) (store.Account, bool) {
	account, ok, err := s.sessions.Account(r.Context())
	if err != nil {
		s.fail(w, r, err)
		return account, false
	}
	if !ok {
		http.Redirect(w, r, "/sign-in?to=%2Fmy-details", http.StatusSeeOther)
	}
	return account, ok
}

func (s *Server) answerDetails(
	w http.ResponseWriter,
	r *http.Request,
	account store.Account,
	fault, done string,
	status int,
) {
	q := s.request(r, s.store.Published(), s.now())
	q.Name = account.Name
	answer, err := s.details(r.Context(), q, fault, done, status)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	s.send(w, answer)
}

// changeDetails sets the name, or with the old password a new one.
func (s *Server) changeDetails(w http.ResponseWriter, r *http.Request) {
	account, ok := s.myself(w, r)
	if !ok {
		return
	}
	r.Body = http.MaxBytesReader(w, r.Body, 16<<10)
	if name := tidy(r.FormValue("name")); r.FormValue("do") == "name" {
		if name == "" || len(name) > 120 {
			s.answerDetails(
				w,
				r,
				account,
				"A name has between one and 120 characters.",
				"",
				http.StatusUnprocessableEntity,
			)
			return
		}
		if err := s.store.SetName(r.Context(), account.ID, name); err != nil {
			s.fail(w, r, err)
			return
		}
		account.Name = name
		s.answerDetails(w, r, account, "", "Your name is changed.", http.StatusOK)
		return
	}
	changed, err := s.store.SetPassword(r.Context(), account, r.FormValue("old"), r.FormValue("password"))
	sentence, told := accountFault(err)
	switch {
	case errors.Is(err, store.ErrSignIn):
		s.answerDetails(
			w,
			r,
			account,
			"The old password is not right. Nothing was changed.",
			"",
			http.StatusUnprocessableEntity,
		)
	case told:
		s.answerDetails(w, r, account, sentence, "", http.StatusUnprocessableEntity)
	case err != nil:
		s.fail(w, r, err)
	default:
		if err := s.sessions.Renew(r.Context(), changed); err != nil {
			s.fail(w, r, err)
			return
		}
		s.answerDetails(
			w,
			r,
			changed,
			"",
			"Your password is changed. Wherever else you were signed in, you are not any more.",
			http.StatusOK,
		)
	}
}

// tidy gives a line without control characters and needless spaces.
func tidy(typed string) string { return strings.Join(strings.Fields(typed), " ") }
