package public

import (
	"bytes"
	"errors"
	"image/png"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/pquerna/otp"

	"vineladder/internal/store"
	"vineladder/internal/web/gate"
)

// How somebody signs in: where they are signed in, and the second factor. It stands below their details, and answers
// from the account alone; no Site decides anything of it.
const securityPath = "/my-details/sign-in"

// newSecond is where a session keeps the secret of a device until its first code has been typed.
const newSecond = "new_second"

// A security is what that form shows.
type security struct {
	Linked   bool   // it is one of the organisation's accounts too
	Has      bool   // there is a second factor
	Secret   string // of a device that is being set up, in groups of four
	Recovery []string
	Sessions []ownSession
}

type ownSession struct {
	Where, Began, Seen string
	Here               bool
}

// showSecurity shows the form to who is signed in.
func (s *Server) showSecurity(w http.ResponseWriter, r *http.Request) {
	if account, ok := s.myself(w, r); ok {
		s.answerSecurity(w, r, account, security{}, notice{}, http.StatusOK)
	}
}

func (s *Server) answerSecurity(
	w http.ResponseWriter, r *http.Request, account store.Account, with security, told notice, status int,
) {
	sessions, err := s.store.OwnSessions(r.Context(), account.ID, s.sessions.Token(r.Context()))
	if err != nil {
		s.fail(w, r, err)
		return
	}
	zone := s.store.Published().Site.Settings().Zone
	for _, o := range sessions {
		where := "on this site"
		if o.Site == "workbench" {
			where = "in the workbench"
		}
		const form = "2 January, 15:04"
		line := ownSession{where, o.Began.In(zone).Format(form), o.Seen.In(zone).Format(form), o.Here}
		with.Sessions = append(with.Sessions, line)
	}
	with.Has, with.Linked = account.Second, account.Outside
	if uri := s.sessions.GetString(r.Context(), newSecond); uri != "" && !with.Has {
		if key, err := otp.NewKeyFromURL(uri); err == nil {
			with.Secret = grouped(key.Secret())
		}
	}
	s.answerForm(w, r, "security", "How I sign in", status, func(v *view) {
		v.Login, v.Error, v.Said, v.Security, v.Outside = account.Login, told.fault, told.said, with, s.outside
	})
}

// grouped writes a secret so that it can be typed.
func grouped(secret string) string {
	var groups []string
	for len(secret) > 4 {
		groups, secret = append(groups, secret[:4]), secret[4:]
	}
	return strings.Join(append(groups, secret), " ")
}

// changeSecurity sets the second factor up, takes it off, or signs out everywhere else.
func (s *Server) changeSecurity(w http.ResponseWriter, r *http.Request) {
	account, ok := s.myself(w, r)
	if !ok {
		return
	}
	r.Body = http.MaxBytesReader(w, r.Body, 16<<10)
	ctx, with, told := r.Context(), security{}, notice{}
	var err error
	switch r.FormValue("do") {
	case "begin":
		var key *otp.Key
		if key, err = s.store.NewSecond(account); err == nil {
			s.sessions.Put(ctx, newSecond, key.URL())
		}
	case "set":
		var key *otp.Key
		if key, err = otp.NewKeyFromURL(s.sessions.GetString(ctx, newSecond)); err == nil {
			with.Recovery, err = s.store.SetSecond(ctx, account, key.Secret(), r.FormValue("code"))
		}
		if err == nil {
			s.sessions.Remove(ctx, newSecond)
			account.Second, told.said = true, "From now on you are asked for a code at sign-in."
		}
	case "drop":
		if err = s.store.DropSecond(ctx, account, r.FormValue("code")); err == nil {
			account.Second, told.said = false, "You are not asked for codes any more."
		}
	case "link":
		if _, err = s.store.Authenticate(ctx, account.Login, r.FormValue("password")); err == nil {
			s.sessions.WillLink(ctx, account)
			http.Redirect(w, r, "/sign-in/outside?to="+url.QueryEscape(securityPath), http.StatusSeeOther)
			return
		}
	case "others":
		if account, err = s.store.EndOtherSessions(ctx, account); err == nil {
			err, told.said = s.sessions.Renew(ctx, account), "Signed out everywhere else."
		}
	}
	status := http.StatusOK
	switch {
	case errors.Is(err, store.ErrSignIn):
		told.fault, status = "The password is not right. Nothing was linked.", http.StatusUnprocessableEntity
	case errors.Is(err, store.ErrCode):
		status = http.StatusUnprocessableEntity
		told.fault = "The code is not right, or was used already. Wait for the next one."
	case err != nil:
		s.fail(w, r, err)
		return
	}
	s.answerSecurity(w, r, account, with, told, status)
}

// drawSecond draws the secret that is being set up, for the camera of a device.
func (s *Server) drawSecond(w http.ResponseWriter, r *http.Request) {
	key, err := otp.NewKeyFromURL(s.sessions.GetString(r.Context(), newSecond))
	if err != nil || key.Secret() == "" {
		http.NotFound(w, r)
		return
	}
	drawn, err := key.Image(220, 220)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	var picture bytes.Buffer
	if err := png.Encode(&picture, drawn); err != nil {
		s.fail(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "image/png")
	w.Header().Set("Cache-Control", cacheNever)
	http.ServeContent(w, r, "", time.Time{}, bytes.NewReader(picture.Bytes()))
}

// showCode asks for the code of a device, after the right password.
func (s *Server) showCode(w http.ResponseWriter, r *http.Request) {
	s.answerCode(w, r, gate.LocalPath(r.URL.Query().Get("to")), "", http.StatusOK)
}

func (s *Server) answerCode(w http.ResponseWriter, r *http.Request, to, fault string, status int) {
	s.answerForm(w, r, "sign-in-code", "Sign in", status, func(v *view) { v.To, v.Error = to, fault })
}

func (s *Server) signInCode(w http.ResponseWriter, r *http.Request) {
	r.Body = http.MaxBytesReader(w, r.Body, 16<<10)
	to := gate.LocalPath(r.FormValue("to"))
	_, err := s.sessions.SignInCode(r, r.FormValue("code"))
	switch status, fault := gate.SignInFault(w, err); {
	case errors.Is(err, store.ErrSignIn):
		http.Redirect(w, r, "/sign-in?to="+url.QueryEscape(to), http.StatusSeeOther)
	case status != 0:
		s.answerCode(w, r, to, fault, status)
	case err != nil:
		s.fail(w, r, err)
	default:
		http.Redirect(w, r, to, http.StatusSeeOther)
	}
}
