// Package gate guards both sites the same way: hosts, headers, sessions, signed tokens and sign-in.
package gate

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"database/sql"
	"encoding/base64"
	"encoding/json"
	"errors"
	"log/slog"
	"net"
	"net/http"
	"net/url"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/go-chi/chi/v5/middleware"

	"vineladder/internal/clock"
	"vineladder/internal/store"
)

// Hosts lets requests through whose Host header is one of those given, with or without a port; others get 421
// (RFC 9110 §15.5.20). Cookies know hosts, not ports, so each site must refuse the other's (RFC 6265 §8.5).
func Hosts(next http.Handler, allowed ...string) http.Handler {
	names := map[string]bool{}
	for _, host := range allowed {
		names[host] = true
		if name, _, err := net.SplitHostPort(host); err == nil {
			names[name] = true
		}
	}
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if names[r.Host] {
			next.ServeHTTP(w, r)
			return
		}
		name := r.Host
		if host, _, err := net.SplitHostPort(r.Host); err == nil {
			name = host
		}
		if !names[strings.ToLower(name)] {
			http.Error(w, "This address is not served here.", http.StatusMisdirectedRequest)
			return
		}
		next.ServeHTTP(w, r)
	})
}

// Headers sets what every answer carries. frame is who may frame it, as in "'none'".
func Headers(h http.Header, policy, frame string) {
	h.Set("Content-Security-Policy", policy+"; frame-ancestors "+frame)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
}

// Strict has browsers stay with https for a year (RFC 6797).
func Strict(h http.Header, secure bool) {
	if secure {
		h["Strict-Transport-Security"] = strict
	}
}

var strict = []string{"max-age=31536000"}

// Sessions keeps the sessions of one site in the database. name tells the sites' cookies, and what is in them, apart.
type Sessions struct {
	*scs.SessionManager
	Clients Clients // who counts as one client when sign-ins fail
	store   *store.Store
	key     string
	signer  *Signer
	stop    chan struct{}
}

// ErrTooMany is a client or an account with too many failed sign-ins.
var ErrTooMany = errors.New("too many sign-ins have failed; try again in ten minutes")

// NewSessions makes a session manager; secure cookies are for https.
func NewSessions(
	st *store.Store,
	name string,
	secure bool,
	clients Clients,
	signer *Signer,
	log *slog.Logger,
) *Sessions {
	m := scs.New()
	kept := rows{st, name}
	m.Store = kept
	m.Lifetime = 12 * time.Hour
	m.Cookie.Name = "vineladder_" + name
	if secure { // the prefix has browsers hold it to this host and to https (RFC 6265bis 4.1.3)
		m.Cookie.Name = "__Host-" + m.Cookie.Name
	}
	m.Cookie.HttpOnly = true
	m.Cookie.Persist = false // how long a session lasts is for the server to say
	m.Cookie.SameSite = http.SameSiteLaxMode
	m.Cookie.Secure = secure
	m.ErrorFunc = func(w http.ResponseWriter, r *http.Request, err error) {
		log.Error(
			"a session can't be read or written",
			"path",
			Path(r),
			"request",
			middleware.GetReqID(r.Context()),
			"error",
			err,
		)
		w.Header().Set("Retry-After", "30")
		http.Error(
			w,
			"We can't tell at this moment who you are. Please try again in half a minute.",
			http.StatusServiceUnavailable,
		)
	}
	s := &Sessions{
		SessionManager: m,
		Clients:        clients,
		store:          st,
		key:            name + "_account",
		signer:         signer,
		stop:           make(chan struct{}),
	}
	go kept.clean(s.stop, func(err error) { log.Error("old sessions stay for now", "error", err) })
	return s
}

// Close ends the manager's cleaning.
func (s *Sessions) Close() { close(s.stop) }

// SignIn checks a name and password and starts a new session for the account, so that a session from before is of no
// use. Only failures count against a client; they are counted in the database, for all instances.
func (s *Sessions) SignIn(r *http.Request, login, password string) (store.Account, error) {
	ctx, line := r.Context(), store.AuditLine{
		What:    "sign-in",
		Account: strings.ToLower(strings.TrimSpace(login)),
		Client:  s.Clients.Of(r),
		About:   s.Cookie.Name,
	}
	may, err := s.store.MayTrySignIn(ctx, line.Client, login)
	if err != nil {
		return store.Account{}, err
	}
	if !may {
		line.What = "limit"
		return store.Account{}, errors.Join(ErrTooMany, s.store.AuditFailure(ctx, line))
	}
	account, err := s.store.Authenticate(store.ForClient(ctx, line.Client), login, password)
	if errors.Is(err, store.ErrSignIn) {
		line.What = "sign-in failed"
		return account, errors.Join(err, s.store.AuditFailure(ctx, line))
	}
	if err != nil {
		return account, err
	}
	if account.Second {
		return account, errors.Join(s.halfway(ctx, account), ErrNeedsCode)
	}
	return account, s.signedIn(ctx, account, line)
}

// signedIn begins the session of who has shown that they are themselves.
func (s *Sessions) signedIn(ctx context.Context, account store.Account, line store.AuditLine) error {
	if err := s.store.Audit(ctx, line); err != nil {
		return err
	}
	if err := s.RenewToken(ctx); err != nil {
		return err
	}
	return s.begin(ctx, account)
}

// ErrNeedsCode is a sign-in with the right password of an account that asks for a code as well.
var ErrNeedsCode = errors.New("a code of your device is needed as well")

// half is where a session keeps who has given the right password, and until when they may give the code.
const (
	half      = "half_account"
	halfUntil = "half_until"
	halfLasts = 5 * time.Minute
)

// halfway notes that somebody has given the right password; they are nobody yet.
func (s *Sessions) halfway(ctx context.Context, account store.Account) error {
	if err := s.RenewToken(ctx); err != nil {
		return err
	}
	s.Put(ctx, half, account.ID)
	s.Put(ctx, halfUntil, clock.Now().Add(halfLasts).Unix())
	return nil
}

// SignInCode ends a sign-in that needs a code. Wrong ones count as wrong passwords do.
func (s *Sessions) SignInCode(r *http.Request, code string) (store.Account, error) {
	ctx := r.Context()
	id := s.GetInt64(ctx, half)
	if id == 0 || clock.Now().Unix() > s.GetInt64(ctx, halfUntil) {
		return store.Account{}, store.ErrSignIn
	}
	account, err := s.store.Account(ctx, id)
	if err != nil {
		return store.Account{}, errors.Join(store.ErrSignIn, err)
	}
	line := store.AuditLine{
		What: "sign-in", Account: account.Login, Client: s.Clients.Of(r), About: s.Cookie.Name + ", with a code",
	}
	may, err := s.store.MayTrySignIn(ctx, line.Client, account.Login)
	if err != nil {
		return store.Account{}, err
	}
	if !may {
		line.What = "limit"
		return store.Account{}, errors.Join(ErrTooMany, s.store.AuditFailure(ctx, line))
	}
	if err := s.store.CheckCode(ctx, id, code); err != nil {
		if errors.Is(err, store.ErrCode) {
			line.What = "sign-in failed"
			return store.Account{}, errors.Join(err, s.store.AuditFailure(ctx, line))
		}
		return store.Account{}, err
	}
	s.Remove(ctx, half)
	s.Remove(ctx, halfUntil)
	return account, s.signedIn(ctx, account, line)
}

// SignInFault gives the status and the sentence for a sign-in that a person can do something about; 0 for none, and for
// faults of the program's own.
func SignInFault(w http.ResponseWriter, err error) (status int, sentence string) {
	switch {
	case errors.Is(err, store.ErrSignIn):
		return http.StatusUnprocessableEntity, "The name or the password is not right. Nothing else was lost; try again."
	case errors.Is(err, store.ErrCode):
		return http.StatusUnprocessableEntity, "The code is not right, or was used already. Wait for the next one."
	case errors.Is(err, ErrTooMany):
		w.Header().Set("Retry-After", "600")
		return http.StatusTooManyRequests, "Too many sign-ins have failed. Try again in ten minutes."
	case errors.Is(err, store.ErrBusy):
		w.Header().Set("Retry-After", "5")
		return http.StatusServiceUnavailable, "Too many people are signing in at this moment. Try again in a few seconds."
	}
	return 0, ""
}

// begin makes the session one of an account, good for the account's epoch.
func (s *Sessions) begin(ctx context.Context, account store.Account) error {
	if v := visitOf(ctx); v != nil {
		v.account = account.ID
	}
	s.Put(ctx, s.key, account.ID)
	s.Put(ctx, s.key+"_epoch", account.Epoch)
	return nil
}

// Renew lets the session at hand go on where the account's others have ended, under a token of its own.
func (s *Sessions) Renew(ctx context.Context, account store.Account) error {
	if err := s.RenewToken(ctx); err != nil {
		return err
	}
	return s.begin(ctx, account)
}

// Account gives who is signed in; ok is false for nobody, and for a session from before the account's password changed
// or it was disabled. A database that does not answer is an error: it says nothing about who is there.
func (s *Sessions) Account(ctx context.Context) (account store.Account, ok bool, err error) {
	id := s.GetInt64(ctx, s.key)
	if id == 0 {
		return account, false, nil
	}
	account, err = s.store.Account(ctx, id)
	switch {
	case errors.Is(err, sql.ErrNoRows), errors.Is(err, store.ErrDisabled):
		return store.Account{}, false, nil
	case err != nil:
		return store.Account{}, false, err
	case account.Epoch != s.GetInt(ctx, s.key+"_epoch"):
		return store.Account{}, false, nil
	}
	return account, true, nil
}

// Alive says whether the session that a request began with is still one, for requests that stay open.
func (s *Sessions) Alive(ctx context.Context) (bool, error) {
	row, err := s.store.Session(ctx, s.Store.(rows).site, s.Token(ctx))
	if row == nil || err != nil {
		return false, err
	}
	_, ok, err := s.Account(ctx)
	return ok, err
}

// LocalPath keeps a return path on the own site: it starts with exactly one slash and has no host in any reading.
func LocalPath(path string) string {
	u, err := url.Parse(path)
	if err != nil || u.IsAbs() || u.Host != "" || !strings.HasPrefix(path, "/") || strings.HasPrefix(path, "//") ||
		strings.ContainsAny(path, "\\\r\n\t") {
		return "/"
	}
	return path
}

// A Signer signs what is handed to browsers and comes back.
type Signer struct{ key []byte }

// NewSigner takes the site's secret.
func NewSigner(key []byte) *Signer { return &Signer{key} }

// ErrToken is a token that was not made here, or not any more.
var ErrToken = errors.New("this link is not valid any more")

// Sign makes a token of a value, in characters that a path segment may hold.
func (s *Signer) Sign(value any) (string, error) {
	data, err := json.Marshal(value)
	if err != nil {
		return "", err
	}
	body := base64.RawURLEncoding.EncodeToString(data)
	return body + "." + s.mac(body), nil
}

// Open checks a token and reads its value.
func (s *Signer) Open(token string, value any) error {
	body, mac, _ := strings.Cut(token, ".")
	if !hmac.Equal([]byte(mac), []byte(s.mac(body))) {
		return ErrToken
	}
	data, err := base64.RawURLEncoding.DecodeString(body)
	if err != nil {
		return ErrToken
	}
	return json.Unmarshal(data, value)
}

func (s *Signer) mac(body string) string {
	mac := hmac.New(sha256.New, s.key)
	mac.Write([]byte(body))
	return base64.RawURLEncoding.EncodeToString(mac.Sum(nil)[:18])
}

// Seal makes a short text one that can be told to have been made here.
func (s *Signer) Seal(text string) string { return text + "." + s.mac("sealed:"+text) }

// Unseal gives the text back; ErrToken for one that was not sealed here.
func (s *Signer) Unseal(sealed string) (string, error) {
	text, mac, _ := strings.Cut(sealed, ".")
	if !hmac.Equal([]byte(mac), []byte(s.mac("sealed:"+text))) {
		return "", ErrToken
	}
	return text, nil
}

// Path is a request's path for the log: the tokens of previews are left out, since who has one sees what it shows.
func Path(r *http.Request) string {
	const previews = "/proof/"
	if rest, is := strings.CutPrefix(r.URL.Path, previews); is {
		_, path, _ := strings.Cut(rest, "/")
		return previews + "…/" + path
	}
	return r.URL.Path
}
