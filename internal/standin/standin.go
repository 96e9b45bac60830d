// Package standin is a small provider of OpenID Connect for the demo and the tests, in place of an organisation's own:
// whoever asks chooses who they are. It is for nothing else.
package standin

import (
	"crypto/rand"
	"crypto/rsa"
	"crypto/sha256"
	"encoding/base64"
	"encoding/json"
	"html/template"
	"net/http"
	"net/url"
	"sync"
	"time"

	"github.com/go-jose/go-jose/v4"
	"github.com/go-jose/go-jose/v4/jwt"
)

// A Person is somebody of the organisation.
type Person struct {
	Subject, Login, Name, Email string
	Groups                      []string
}

// A Provider vouches for its people to one client.
type Provider struct {
	Issuer, Client, Secret string
	People                 []Person
	Lasts                  time.Duration
	Change                 func(claims map[string]any) // what the tests say falsely; nil: nothing
	Sign                   *rsa.PrivateKey             // with which tokens are signed; nil: the one that is told

	key   *rsa.PrivateKey
	lock  sync.Mutex
	codes map[string]grant
}

type grant struct {
	person          Person
	nonce, redirect string
	challenge       string // of PKCE, S256
}

// New makes a provider with a key of its own.
func New(issuer, client, secret string, people []Person) (*Provider, error) {
	key, err := rsa.GenerateKey(rand.Reader, 2048)
	if err != nil {
		return nil, err
	}
	return &Provider{
		Issuer: issuer, Client: client, Secret: secret, People: people, Lasts: 5 * time.Minute, key: key,
		codes: map[string]grant{},
	}, nil
}

// ServeHTTP answers as OpenID Connect Discovery and Core have it, as far as the code flow needs.
func (p *Provider) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	switch r.URL.Path {
	case "/.well-known/openid-configuration":
		p.say(w, map[string]any{
			"issuer": p.Issuer, "authorization_endpoint": p.Issuer + "/authorize", "token_endpoint": p.Issuer + "/token",
			"jwks_uri": p.Issuer + "/keys", "response_types_supported": []string{"code"},
			"subject_types_supported":               []string{"public"},
			"id_token_signing_alg_values_supported": []string{"RS256"},
			"code_challenge_methods_supported":      []string{"S256"},
		})
	case "/keys":
		p.say(w, jose.JSONWebKeySet{Keys: []jose.JSONWebKey{{
			Key: p.key.Public(), KeyID: "one", Algorithm: "RS256", Use: "sig",
		}}})
	case "/authorize":
		p.authorize(w, r)
	case "/token":
		p.token(w, r)
	default:
		http.NotFound(w, r)
	}
}

func (p *Provider) say(w http.ResponseWriter, what any) {
	w.Header().Set("Content-Type", "application/json")
	_ = json.NewEncoder(w).Encode(what) // the client may have left
}

var choosing = template.Must(template.New("").Parse(`<!doctype html><html lang="en"><meta charset="utf-8">
<meta name="viewport" content="width=device-width"><title>The organisation's sign-in</title>
<h1>The organisation's sign-in</h1><p>A stand-in of the demo. Who are you?</p>
<ul>{{range .}}<li><a href="{{.Link}}">{{.Name}}</a></li>{{end}}</ul></html>`))

// authorize lets who asks choose who they are, and sends them back with a code.
func (p *Provider) authorize(w http.ResponseWriter, r *http.Request) {
	q := r.URL.Query()
	back, err := url.Parse(q.Get("redirect_uri"))
	if err != nil || q.Get("client_id") != p.Client || q.Get("response_type") != "code" ||
		q.Get("code_challenge_method") != "S256" || q.Get("code_challenge") == "" {
		http.Error(w, "This client is not known, or asks for no code with a proof (RFC 7636).", http.StatusBadRequest)
		return
	}
	for _, person := range p.People {
		if person.Login == q.Get("as") {
			code := rand.Text()
			p.lock.Lock()
			p.codes[code] = grant{person, q.Get("nonce"), q.Get("redirect_uri"), q.Get("code_challenge")}
			p.lock.Unlock()
			back.RawQuery = url.Values{"code": {code}, "state": {q.Get("state")}}.Encode()
			http.Redirect(w, r, back.String(), http.StatusSeeOther)
			return
		}
	}
	type choice struct{ Name, Link string }
	var choices []choice
	for _, person := range p.People {
		q.Set("as", person.Login)
		choices = append(choices, choice{person.Name, "/authorize?" + q.Encode()})
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	_ = choosing.Execute(w, choices)
}

// token gives a token for a code, once, to who has its proof.
func (p *Provider) token(w http.ResponseWriter, r *http.Request) {
	client, secret, basic := r.BasicAuth()
	if !basic {
		client, secret = r.FormValue("client_id"), r.FormValue("client_secret")
	}
	p.lock.Lock()
	g, known := p.codes[r.FormValue("code")]
	delete(p.codes, r.FormValue("code"))
	p.lock.Unlock()
	proof := sha256.Sum256([]byte(r.FormValue("code_verifier")))
	if !known || client != p.Client || secret != p.Secret || r.FormValue("redirect_uri") != g.redirect ||
		base64.RawURLEncoding.EncodeToString(proof[:]) != g.challenge {
		w.WriteHeader(http.StatusBadRequest)
		p.say(w, map[string]string{"error": "invalid_grant"})
		return
	}
	now := time.Now()
	claims := map[string]any{
		"iss": p.Issuer, "aud": p.Client, "sub": g.person.Subject, "nonce": g.nonce, "iat": now.Unix(),
		"exp": now.Add(p.Lasts).Unix(), "preferred_username": g.person.Login, "name": g.person.Name,
		"email": g.person.Email, "groups": g.person.Groups,
	}
	if p.Change != nil {
		p.Change(claims)
	}
	key := p.key
	if p.Sign != nil {
		key = p.Sign
	}
	with := jose.SigningKey{Algorithm: jose.RS256, Key: jose.JSONWebKey{Key: key, KeyID: "one"}}
	signer, err := jose.NewSigner(with, nil)
	if err != nil {
		http.Error(w, err.Error(), http.StatusInternalServerError)
		return
	}
	signed, err := jwt.Signed(signer).Claims(claims).Serialize()
	if err != nil {
		http.Error(w, err.Error(), http.StatusInternalServerError)
		return
	}
	p.say(w, map[string]any{"access_token": rand.Text(), "token_type": "Bearer", "expires_in": 300, "id_token": signed})
}
