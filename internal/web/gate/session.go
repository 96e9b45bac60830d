package gate

import (
	"context"
	"errors"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"

	"vineladder/internal/store"
)

// A visit is a request's session as its rows know it: whether it was there when the request began, and whose it is.
type visit struct {
	found   string // its token; "" for a session that is new
	account int64
	mark    int64 // how far the instance had heard of people when the request began
}

type visitKey struct{}

func visitOf(ctx context.Context) *visit {
	v, _ := ctx.Value(visitKey{}).(*visit)
	return v
}

// rows keeps the sessions of one site in the store. The session package writes a session at the end of a request that
// changed it; what was there when the request began is only ever changed, never made again, so that a slow request
// brings no ended session back.
type rows struct {
	store *store.Store
	site  string
}

var _ scs.CtxStore = rows{}

var errContext = errors.New("sessions are asked with a context")

// writing is how long a session may take to be written, even if the browser has gone.
const writing = 5 * time.Second

func (r rows) FindCtx(ctx context.Context, token string) (data []byte, exists bool, err error) {
	s, err := r.store.Session(ctx, r.site, token)
	if s == nil || err != nil {
		return nil, false, err
	}
	if v := visitOf(ctx); v != nil {
		v.found, v.account = token, s.Account
	}
	return s.Data, true, nil
}

func (r rows) CommitCtx(ctx context.Context, token string, data []byte, expiry time.Time) error {
	v := visitOf(ctx)
	if v == nil {
		return errContext
	}
	s := store.Session{Account: v.account, Data: data, Expiry: expiry}
	ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), writing)
	defer cancel()
	if v.found == token {
		return r.store.WriteSession(ctx, r.site, token, s)
	}
	v.found = token
	return r.store.BeginSession(ctx, r.site, token, s)
}

func (r rows) DeleteCtx(ctx context.Context, token string) error {
	if v := visitOf(ctx); v != nil && v.found == token {
		*v = visit{mark: v.mark}
	}
	return r.store.EndSession(ctx, r.site, token)
}

func (rows) Find(string) ([]byte, bool, error)      { return nil, false, errContext }
func (rows) Commit(string, []byte, time.Time) error { return errContext }
func (rows) Delete(string) error                    { return errContext }

// token gives the session's token out of the request's cookie; "" for none, and for one that was not made here: those
// cost no query.
func (s *Sessions) token(r *http.Request) string {
	cookie, err := r.Cookie(s.Cookie.Name)
	if err != nil {
		return ""
	}
	token, err := s.signer.Unseal(cookie.Value)
	if err != nil {
		return ""
	}
	return token
}

// Load begins a request: with the session that its cookie stands for, or a new one.
func (s *Sessions) load(ctx context.Context, token string) (context.Context, error) {
	return s.Load(context.WithValue(ctx, visitKey{}, &visit{mark: s.store.PeopleMark()}), token)
}

// LoadAndSave has a request's session at hand and writes it where the request changed it. An answer sets the cookie
// only where it changes: a slow answer to a request from before a sign-in or sign-out must not bring the browser's old
// cookie back.
func (s *Sessions) LoadAndSave(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		token := s.token(r)
		ctx, err := s.load(r.Context(), token)
		if err != nil {
			s.ErrorFunc(w, r, err)
			return
		}
		s.serve(w, r.WithContext(ctx), token, next)
	})
}

func (s *Sessions) serve(w http.ResponseWriter, r *http.Request, token string, next http.Handler) {
	w.Header().Add("Vary", "Cookie")
	answer := &sessionAnswer{ResponseWriter: w, sessions: s, request: r, token: token}
	next.ServeHTTP(answer, r)
	answer.begin()
}

// A sessionAnswer writes the session before the answer begins.
type sessionAnswer struct {
	http.ResponseWriter
	sessions *Sessions
	request  *http.Request
	token    string // that the browser has
	begun    bool
	failed   bool
}

// Unwrap lets http.ResponseController find the writer below.
func (a *sessionAnswer) Unwrap() http.ResponseWriter { return a.ResponseWriter }

func (a *sessionAnswer) begin() {
	if a.begun {
		return
	}
	a.begun = true
	s, ctx := a.sessions, a.request.Context()
	switch s.Status(ctx) {
	case scs.Modified:
		token, expiry, err := s.Commit(ctx)
		if err != nil {
			a.failed = true
			s.ErrorFunc(a.ResponseWriter, a.request, err)
			return
		}
		if token != a.token {
			s.WriteSessionCookie(ctx, a.ResponseWriter, s.signer.Seal(token), expiry)
		}
	case scs.Destroyed:
		s.WriteSessionCookie(ctx, a.ResponseWriter, "", time.Time{})
	}
}

func (a *sessionAnswer) WriteHeader(status int) {
	if a.begin(); !a.failed {
		a.ResponseWriter.WriteHeader(status)
	}
}

func (a *sessionAnswer) Write(body []byte) (int, error) {
	if a.begin(); a.failed {
		return len(body), nil
	}
	return a.ResponseWriter.Write(body)
}

// HasCookie says whether a request has a cookie of these sessions, good or not.
func (s *Sessions) HasCookie(r *http.Request) bool {
	return slices.ContainsFunc(r.Header["Cookie"], func(line string) bool {
		return strings.Contains(line, s.Cookie.Name+"=")
	})
}

// Known says whether a request's cookie was made here, which is told without asking the database.
func (s *Sessions) Known(r *http.Request) bool { return s.HasCookie(r) && s.token(r) != "" }

// Recalled gives who is signed in without looking it up, where that is remembered.
func (s *Sessions) Recalled(r *http.Request) (store.Account, bool) {
	token := s.token(r)
	if token == "" {
		return store.Account{}, false
	}
	return s.store.Recall(s.Store.(rows).site, token)
}

// Remember has the session of a request be remembered, as it was found to be an account's.
func (s *Sessions) Remember(ctx context.Context, a store.Account) {
	if v := visitOf(ctx); v != nil && v.found != "" && v.account == a.ID {
		s.store.Remember(s.Store.(rows).site, v.found, a, s.Deadline(ctx), v.mark)
	}
}

// clean deletes old sessions every now and then, until stop is closed.
func (r rows) clean(stop <-chan struct{}, fault func(error)) {
	for {
		select {
		case <-stop:
			return
		case <-time.After(10 * time.Minute):
		}
		ctx, cancel := context.WithTimeout(context.Background(), time.Minute)
		if err := r.store.ClearSessions(ctx); err != nil {
			fault(err)
		}
		cancel()
	}
}
