package public

import (
	"context"
	"crypto/rand"
	"crypto/rsa"
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/demo"
	"vineladder/internal/standin"
	"vineladder/internal/store"
	"vineladder/internal/store/storetest"
	"vineladder/internal/web/gate"
)

// An organised site has a stand-in for the organisation's own sign-in.
type organised struct {
	store    *store.Store
	provider *standin.Provider
	at, site *httptest.Server
}

func organise(t *testing.T) *organised {
	t.Helper()
	o := &organised{store: storetest.New(t)}
	require.NoError(t, demo.Load(context.Background(), o.store))
	vouch := func(w http.ResponseWriter, r *http.Request) { o.provider.ServeHTTP(w, r) }
	o.at = httptest.NewServer(http.HandlerFunc(vouch))
	t.Cleanup(o.at.Close)
	var err error
	o.provider, err = standin.New(o.at.URL, "vine", "secret", demo.Organisation())
	require.NoError(t, err)
	outside := &gate.Outside{Name: "the Board's account", Issuer: o.at.URL, Client: "vine", Secret: "secret"}
	o.site, _ = serve(t, o.store, Settings{Outside: outside})
	return o
}

// enter signs somebody in at the organisation, in a browser of their own, and gives what they see in the end.
func (o *organised) enter(t *testing.T, as string, on func(back *url.URL)) (int, string) {
	t.Helper()
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	client := &http.Client{Jar: jar, CheckRedirect: func(r *http.Request, _ []*http.Request) error {
		if strings.HasPrefix(r.URL.String(), o.at.URL) {
			q := r.URL.Query()
			q.Set("as", as)
			r.URL.RawQuery = q.Encode()
		} else if r.URL.Path == outsideBack && on != nil {
			on(r.URL)
		}
		return nil
	}}
	answer, err := client.Get(o.site.URL + "/sign-in/outside?to=/staff-handbook")
	require.NoError(t, err)
	defer answer.Body.Close()
	body, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	return answer.StatusCode, string(body)
}

// Who the organisation vouches for has an account from the first time on, with the roles of their groups, replaced each
// time; a group that nobody mapped gives nothing, and an address links nothing.
func TestTheOrganisationsOwnAccounts(t *testing.T) {
	o := organise(t)
	ctx := context.Background()
	_, err := o.store.AddAccount(ctx, "astrid", "Another Astrid", "a fine long password", nil)
	require.NoError(t, err)
	_, err = o.store.DB().Exec(`UPDATE accounts SET email = 'astrid@skerrow.example' WHERE login = 'astrid'`)
	require.NoError(t, err)

	status, body := o.enter(t, "astrid", nil)
	assert.Equal(t, http.StatusOK, status)
	assert.True(t, strings.Contains(body, "Astrid Moen") && strings.Contains(body, "Staff handbook"))
	a, err := o.store.AccountByLogin(ctx, "astrid-2")
	require.NoError(t, err, "another name, since that was taken: never linked by name or address")
	assert.Equal(t, []string{"staff"}, a.Roles)
	other, err := o.store.AccountByLogin(ctx, "astrid")
	require.NoError(t, err)
	assert.Empty(t, other.Roles)

	keeper, err := o.store.AccountByLogin(ctx, "keeper")
	require.NoError(t, err)
	require.NoError(t, o.store.SetRolesBy(ctx, keeper, "astrid-2", []string{"staff", "operators"}))
	o.provider.People[0].Groups = []string{"canteen"}
	status, _ = o.enter(t, "astrid", nil)
	assert.Equal(t, http.StatusForbidden, status, "no longer of the office: no access")
	a, err = o.store.AccountByLogin(ctx, "astrid-2")
	require.NoError(t, err)
	assert.Equal(t, []string{"operators"}, a.Roles, "what was given by hand stays")

	status, _ = o.enter(t, "bjarne", nil)
	assert.Equal(t, http.StatusForbidden, status, "a group that nobody mapped")
	require.NoError(t, o.store.DisableBy(ctx, keeper, "bjarne", 0))
	status, body = o.enter(t, "bjarne", nil)
	assert.Equal(t, http.StatusForbidden, status)
	assert.True(t, strings.Contains(body, "did not let you in"))
}

// OpenID Connect Core 1.0, 3.1.3.7 and RFC 6749, 10.12: what must be refused. Nobody is signed in, and no account made.
func TestWhatMustBeRefused(t *testing.T) {
	o := organise(t)
	another, err := rsa.GenerateKey(rand.Reader, 2048)
	require.NoError(t, err)
	set := func(claim string, value any) func(map[string]any) {
		return func(claims map[string]any) { claims[claim] = value }
	}
	for name, c := range map[string]struct {
		change func(map[string]any)
		key    *rsa.PrivateKey
		back   func(*url.URL)
	}{
		"another nonce":    {change: set("nonce", "another")},
		"no nonce":         {change: func(claims map[string]any) { delete(claims, "nonce") }},
		"another audience": {change: set("aud", "another")},
		"another issuer":   {change: set("iss", "https://login.example")},
		"over":             {change: set("exp", time.Now().Add(-time.Minute).Unix())},
		"another key":      {key: another},
		"another state":    {back: func(u *url.URL) { q := u.Query(); q.Set("state", "another"); u.RawQuery = q.Encode() }},
		"another code":     {back: func(u *url.URL) { q := u.Query(); q.Set("code", "another"); u.RawQuery = q.Encode() }},
		"no state":         {back: func(u *url.URL) { u.RawQuery = "code=x" }},
	} {
		o.provider.Change, o.provider.Sign = c.change, c.key
		status, body := o.enter(t, "astrid", c.back)
		assert.Equal(t, http.StatusForbidden, status, name)
		assert.True(t, strings.Contains(body, "did not let you in"), name)
	}
	_, err = o.store.AccountByLogin(context.Background(), "astrid")
	assert.Error(t, err)
}

// While the organisation does not answer, who has a password here still signs in.
func TestTheOrganisationIsDown(t *testing.T) {
	o := organise(t)
	o.at.Close()
	status, body := o.enter(t, "astrid", nil)
	assert.Equal(t, http.StatusServiceUnavailable, status)
	assert.True(t, strings.Contains(body, "does not answer at this moment"))
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	client := &http.Client{Jar: jar}
	answer, err := client.PostForm(o.site.URL+"/sign-in", url.Values{
		"login": {"keeper"}, "password": {"nine-islands-keeper"}, "to": {"/board-papers"},
	})
	require.NoError(t, err)
	answer.Body.Close()
	assert.Equal(t, http.StatusOK, answer.StatusCode)
	assert.Equal(t, "/board-papers", answer.Request.URL.Path)
}

// An account that has a password here is linked by who knows that, and by nobody else; one of the organisation's
// accounts is one person's here.
func TestLinkingAsksForThePassword(t *testing.T) {
	o := organise(t)
	link := func(login, password, typed, as string) (int, string) {
		jar, err := cookiejar.New(nil)
		require.NoError(t, err)
		client := &http.Client{Jar: jar, CheckRedirect: func(r *http.Request, _ []*http.Request) error {
			if strings.HasPrefix(r.URL.String(), o.at.URL) {
				q := r.URL.Query()
				q.Set("as", as)
				r.URL.RawQuery = q.Encode()
			}
			return nil
		}}
		answer, err := client.PostForm(o.site.URL+"/sign-in", url.Values{"login": {login}, "password": {password}})
		require.NoError(t, err)
		answer.Body.Close()
		answer, err = client.PostForm(o.site.URL+securityPath, url.Values{"do": {"link"}, "password": {typed}})
		require.NoError(t, err)
		defer answer.Body.Close()
		body, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		return answer.StatusCode, string(body)
	}
	const keeper = "nine-islands-keeper"
	status, body := link("keeper", keeper, "not that", "astrid")
	assert.Equal(t, http.StatusUnprocessableEntity, status)
	assert.True(t, strings.Contains(body, "The password is not right."))
	status, body = link("keeper", keeper, keeper, "astrid")
	assert.Equal(t, http.StatusOK, status)
	assert.True(t, strings.Contains(body, "You can sign in with it."))
	_, body = o.enter(t, "astrid", nil)
	assert.True(t, strings.Contains(body, "Runa Tveit"), "who signs in so is the keeper now")
	status, _ = link("staff", "nine-islands-staff", "nine-islands-staff", "astrid")
	assert.Equal(t, http.StatusConflict, status)
}
