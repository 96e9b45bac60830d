package gate

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"errors"
	"fmt"
	"net/http"
	"sync"
	"time"

	"github.com/coreos/go-oidc/v3/oidc"
	"golang.org/x/oauth2"

	"vineladder/internal/store"
)

// Outside is the organisation's own sign-in (OpenID Connect Core, authorization code with PKCE, RFC 7636).
type Outside struct {
	Name           string // what its button says
	Issuer, Client string
	Secret         string

	lock     sync.Mutex
	provider *oidc.Provider // once it was reached
}

// ErrOutside is a sign-in with the organisation's account that came to nothing; why is for the log.
var ErrOutside = errors.New("the organisation's sign-in did not vouch for you")

// ErrUnreached is an organisation's sign-in that does not answer.
var ErrUnreached = errors.New("the organisation's sign-in does not answer")

// outsideWithin bounds how long the organisation's sign-in may take to answer.
const outsideWithin = 10 * time.Second

// reach asks the provider what it is, once; while it does not answer, everybody else can still sign in.
func (o *Outside) reach(ctx context.Context) (*oidc.Provider, error) {
	o.lock.Lock()
	defer o.lock.Unlock()
	if o.provider != nil {
		return o.provider, nil
	}
	ctx, cancel := context.WithTimeout(ctx, outsideWithin)
	defer cancel()
	provider, err := oidc.NewProvider(oidc.ClientContext(ctx, &http.Client{Timeout: outsideWithin}), o.Issuer)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrUnreached, err)
	}
	o.provider = provider
	return provider, nil
}

func (o *Outside) config(p *oidc.Provider, back string) *oauth2.Config {
	return &oauth2.Config{
		ClientID: o.Client, ClientSecret: o.Secret, Endpoint: p.Endpoint(), RedirectURL: back,
		Scopes: []string{oidc.ScopeOpenID, "profile", "email", "groups"},
	}
}

// Names in the session of a sign-in that has gone to the organisation.
const (
	outsideState    = "outside_state"
	outsideNonce    = "outside_nonce"
	outsideVerifier = "outside_verifier"
	outsideTo       = "outside_to"
	outsideLink     = "outside_link" // the account that is to be linked, by who has just shown its password
)

// WillLink has the next that comes back from the organisation be linked with an account, not signed in.
func (s *Sessions) WillLink(ctx context.Context, account store.Account) {
	s.Put(ctx, outsideLink, account.ID)
}

func random() (string, error) {
	word := make([]byte, 24)
	_, err := rand.Read(word)
	return base64.RawURLEncoding.EncodeToString(word), err
}

// Begin gives the address at the organisation to which somebody is sent; they come back to back, and go on to to.
func (o *Outside) Begin(ctx context.Context, s *Sessions, back, to string) (string, error) {
	provider, err := o.reach(ctx)
	if err != nil {
		return "", err
	}
	state, err := random()
	if err != nil {
		return "", err
	}
	nonce, err := random()
	if err != nil {
		return "", err
	}
	verifier := oauth2.GenerateVerifier()
	for name, value := range map[string]string{
		outsideState: state, outsideNonce: nonce, outsideVerifier: verifier, outsideTo: LocalPath(to),
	} {
		s.Put(ctx, name, value)
	}
	return o.config(provider, back).AuthCodeURL(state, oidc.Nonce(nonce), oauth2.S256ChallengeOption(verifier)), nil
}

// End reads what the organisation says of who comes back: the state is the session's, the code is exchanged with its
// verifier, the token is signed by the organisation, for us, not over, and has the session's nonce. What is kept of the
// way is used up by that, whatever comes of it.
func (o *Outside) End(r *http.Request, s *Sessions, back string) (claim store.Claim, to string, err error) {
	ctx := r.Context()
	state, nonce := s.PopString(ctx, outsideState), s.PopString(ctx, outsideNonce)
	verifier := s.PopString(ctx, outsideVerifier)
	to = LocalPath(s.PopString(ctx, outsideTo))
	given := r.URL.Query().Get("state")
	if state == "" || subtle.ConstantTimeCompare([]byte(state), []byte(given)) != 1 {
		return claim, to, fmt.Errorf("%w: the state is another one's", ErrOutside)
	}
	provider, err := o.reach(ctx)
	if err != nil {
		return claim, to, err
	}
	within, cancel := context.WithTimeout(ctx, outsideWithin)
	defer cancel()
	token, err := o.config(provider, back).Exchange(within, r.URL.Query().Get("code"), oauth2.VerifierOption(verifier))
	if err != nil {
		return claim, to, fmt.Errorf("%w: the code was not exchanged: %w", ErrOutside, err)
	}
	raw, _ := token.Extra("id_token").(string)
	id, err := provider.VerifierContext(within, &oidc.Config{ClientID: o.Client}).Verify(within, raw)
	if err != nil {
		return claim, to, fmt.Errorf("%w: %w", ErrOutside, err)
	}
	if nonce == "" || subtle.ConstantTimeCompare([]byte(nonce), []byte(id.Nonce)) != 1 {
		return claim, to, fmt.Errorf("%w: the nonce is another one's", ErrOutside)
	}
	var said struct {
		Login  string   `json:"preferred_username"`
		Name   string   `json:"name"`
		Email  string   `json:"email"`
		Groups []string `json:"groups"`
	}
	if err := id.Claims(&said); err != nil {
		return claim, to, fmt.Errorf("%w: %w", ErrOutside, err)
	}
	return store.Claim{
		Issuer: id.Issuer, Subject: id.Subject, Login: said.Login, Name: said.Name, Email: said.Email, Groups: said.Groups,
	}, to, nil
}

// RefusedOutside says to somebody why the way to the organisation's sign-in, or back from it, let nobody in, with the
// status; nothing where the fault is ours.
func RefusedOutside(err error) (sentence string, status int) {
	switch {
	case errors.Is(err, ErrUnreached):
		return "The organisation's sign-in does not answer at this moment. Try again later, or sign in with a password if " +
			"you have one here.", http.StatusServiceUnavailable
	case errors.Is(err, store.ErrLinkedElsewhere):
		return "This account of the organisation belongs to somebody else here.", http.StatusConflict
	case errors.Is(err, ErrOutside), errors.Is(err, store.ErrDisabled):
		return "The organisation's sign-in did not let you in. Try it once more from here.", http.StatusForbidden
	}
	return "", 0
}

// EnterOutside signs in who comes back from the organisation. The session is made anew.
func (s *Sessions) EnterOutside(r *http.Request, o *Outside, back string) (to string, err error) {
	line := store.AuditLine{
		What: "sign-in", Client: s.Clients.Of(r), About: s.Cookie.Name + ", with the organisation's account",
	}
	claim, to, err := o.End(r, s, back)
	link := s.GetInt64(r.Context(), outsideLink)
	s.Remove(r.Context(), outsideLink)
	if link != 0 && err == nil {
		account, here, err := s.Account(r.Context())
		if err != nil || !here || account.ID != link {
			return to, errors.Join(ErrOutside, err)
		}
		return to, s.store.LinkOutside(r.Context(), account, claim)
	}
	if err == nil {
		var account store.Account
		if account, err = s.store.SignInOutside(r.Context(), claim); err == nil {
			line.Account = account.Login
			return to, s.signedIn(r.Context(), account, line)
		}
	}
	line.What, line.Account = "sign-in failed", claim.Login
	return to, errors.Join(err, s.store.AuditFailure(r.Context(), line))
}
