package public

import (
	"context"
	"errors"
	"net/http"

	"vineladder/internal/core/say"
	"vineladder/internal/store"
)

// Personal links lead here: somebody who was invited, or has lost a password, chooses one.
const linkPath = "/sign-in/link"

// showLink shows the form behind a personal link, if it is still good.
func (s *Server) showLink(w http.ResponseWriter, r *http.Request) {
	s.answerLink(w, r, r.URL.Query().Get("link"), "", http.StatusOK)
}

// answerLink sends the form of a link, with what was wrong; of one that is good no more, that.
func (s *Server) answerLink(w http.ResponseWriter, r *http.Request, token, fault string, status int) {
	account, purpose, err := s.store.LinkedAccount(r.Context(), token)
	if errors.Is(err, store.ErrLink) {
		s.answerForm(w, r, "password-link", "A link", http.StatusGone, func(v *view) {
			v.Error, v.To = say.Capital(store.ErrLink.Error())+".", ""
		})
		return
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	title := "Choose a password"
	if purpose == store.ForPassword {
		title = "Choose another password"
	}
	s.answerForm(w, r, "password-link", title, status, func(v *view) {
		v.Error, v.To, v.Login, v.Name = fault, token, account.Login, account.Name
	})
}

// useLink gives the account of a link its password and signs it in.
func (s *Server) useLink(w http.ResponseWriter, r *http.Request) {
	r.Body = http.MaxBytesReader(w, r.Body, 16<<10)
	token := r.FormValue("link")
	account, err := s.store.UseLink(r.Context(), token, r.FormValue("password"))
	fault, told := accountFault(err)
	switch {
	case errors.Is(err, store.ErrLink):
		s.answerLink(w, r, token, "", http.StatusGone)
		return
	case told:
		s.answerLink(w, r, token, fault, http.StatusUnprocessableEntity)
		return
	case err != nil:
		s.fail(w, r, err)
		return
	}
	line := store.AuditLine{
		What: "password", Account: account.Login, Client: s.settings.Clients.Of(r), About: "chosen by a personal link",
	}
	if err := s.store.Audit(r.Context(), line); err != nil {
		s.fail(w, r, err)
		return
	}
	if account.Second { // a letter alone lets nobody in
		http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
		return
	}
	if err := s.sessions.Renew(r.Context(), account); err != nil {
		s.fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/my-details", http.StatusSeeOther)
}

// lost is the form of who has lost a password.
func (r *Renderer) lost(ctx context.Context, q Request, said string) (Response, error) {
	return r.form(ctx, q, "password-lost", "Another password", func(v *view) { v.Said = said }, http.StatusOK)
}

// sendLost writes a letter to the account of a sign-in name, if there is one with an address. The answer is the same in
// any case, and so is its time: the letter is written when it was given.
func (s *Server) sendLost(w http.ResponseWriter, r *http.Request) {
	r.Body = http.MaxBytesReader(w, r.Body, 16<<10)
	login, origin := r.FormValue("login"), s.settings.Origin
	go s.writeLost(context.WithoutCancel(r.Context()), login, origin)
	answer, err := s.lost(r.Context(), s.request(r, s.store.Published(), s.now()),
		"If there is such an account with a mail address, a letter is on its way. The link in it is good for an hour.")
	if err != nil {
		s.fail(w, r, err)
		return
	}
	s.send(w, answer)
}

func (s *Server) writeLost(ctx context.Context, login, origin string) {
	account, err := s.store.AccountByLogin(ctx, login)
	if err != nil || account.Email == "" {
		return
	}
	if err := s.store.SendPasswordLink(ctx, account, account, origin); err != nil {
		s.log.Error("a letter was not written", "error", err)
	}
}
