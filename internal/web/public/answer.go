package public

import (
	"context"
	"net/http"
	"net/url"
	"strings"

	"vineladder/internal/core/grant"
	"vineladder/internal/web/gate"
)

// A Response is what the visitor gets: everything of an HTTP answer that the site decides. The server adds headers
// that are the same for all, validators, and the packing that the browser takes.
type Response struct {
	Status     int
	Location   string // for redirects
	Robots     string // what search engines may do with it; "": anything
	RetryAfter string // seconds; while the site is closed
	Type       string // of the body; "" for redirects
	Cache      string // Cache-Control
	Tag        string // of the body, where that is made with it; else the server makes one
	Body       []byte
	File       *File // whose bytes are sent in place of the body; nil: none
	Paged      bool  // the answer hangs on the number of a page in the query
}

// How long an answer may be kept, by whom.
const (
	cacheAsk     = "no-cache"          // by anybody who asks each time whether it still holds
	cachePrivate = "private, no-store" // by nobody: it is one visitor's
	cacheNever   = "no-store"          // by nobody: it is one moment's
	cacheProgram = "private, no-cache" // by the program that asked
)

// closedFor is when to come back while the site is closed, in seconds (RFC 9110, 10.2.3). Nobody knows how long it
// will be; half an hour keeps search engines from taking the pages for gone.
const closedFor = "1800"

const htmlWords = "text/html; charset=utf-8"

const jsonWords = "application/json"

// Answer says what the public site answers to whoever asks for an address: pages, the forms of accounts, menus for
// programs, redirects and errors (rules 3.6, 4.3, 5.9). It is the one place where that is decided; the server sends
// it, previews show it, and consequences are held against it.
func (r *Renderer) Answer(ctx context.Context, q Request) (Response, error) {
	answer, err := r.routed(ctx, q)
	if err != nil {
		return Response{}, err
	}
	answer.Cache = answer.caching(q)
	if answer.Status == http.StatusServiceUnavailable {
		answer.RetryAfter = closedFor
	}
	if answer.Location == "" && answer.Type == "" {
		answer.Type = htmlWords
	}
	return answer, nil
}

func (r *Renderer) routed(ctx context.Context, q Request) (Response, error) {
	switch {
	case q.Path == "/sign-in":
		return r.askToSignIn(ctx, q)
	case q.Path == "/register" && q.Site.Settings().Register && !grant.ClosedTo(q.Site, q.Lens.Roles):
		return r.form(ctx, q, "register", "Register", func(*view) {}, http.StatusOK)
	case q.Path == "/sign-in/password":
		return r.lost(ctx, q, "")
	case q.Path == "/my-details" && q.Lens.SignedIn:
		return r.details(ctx, q, "", "", http.StatusOK)
	case q.Path == "/my-details":
		return Response{Status: http.StatusSeeOther, Location: q.Base + "/sign-in?to=%2Fmy-details"}, nil
	case q.Path == sitemapPath:
		return r.sitemap(q), nil
	case q.Path == robotsPath:
		return r.robots(q), nil
	case strings.HasPrefix(q.Path, programPath) && !strings.Contains(q.Path[len(programPath):], "/"):
		return r.menuForPrograms(q)
	}
	return r.Render(ctx, q)
}

// caching is how long an answer may be kept.
func (a *Response) caching(q Request) string {
	switch {
	case a.Cache != "":
		return a.Cache
	case q.Lens.SignedIn:
		return cachePrivate
	case a.Status == http.StatusSeeOther:
		return cacheNever
	}
	return cacheAsk
}

// askToSignIn is the form, or the way back for who is signed in already.
func (r *Renderer) askToSignIn(ctx context.Context, q Request) (Response, error) {
	query, _ := url.ParseQuery(q.Query) // what can't be read asks for nothing
	to := gate.LocalPath(query.Get("to"))
	if q.Lens.SignedIn {
		return Response{Status: http.StatusSeeOther, Location: to}, nil
	}
	return r.signIn(ctx, q, to, "", "", http.StatusOK)
}
