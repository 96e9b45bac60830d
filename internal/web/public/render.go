// Package public is the visitors' site: it finds the page of an address, renders it for the visitor, and keeps what it
// rendered while that is true. The same renderer makes the workbench's preview from a draft's Site.
package public

import (
	"bytes"
	"context"
	"embed"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"vineladder/internal/core/address"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

//go:embed templates/*.html
var templateFiles embed.FS

// A Request asks for one address, as a visitor, at a moment.
type Request struct {
	Site  *site.Site
	Lens  reach.Lens
	Path  string // escaped, as it came
	Query string
	Base  string // "" or "/proof/<token>", before every link to a page
	Frame string // of a preview: the origin of the workbench, in whose frame it stands
	Note  string // above a preview that somebody else looks at
	Name  string // of who is signed in, and the login and roles that they were given
	Login string
	Roles []string
	Lost  bool     // there is a session, and it could not be read
	Edit  *Editing // for who may change the page; else nil
	Kept  *Kept    // what was made for other requests of the same Site and lens; nil: nothing is kept

	number    int               // of the page of a list that is shown; 0: the first
	narrowing listing.Narrowing // of that list
	beyond    string            // the address of a list that has no page of the number asked for
}

// Texts gives page texts by their hashes.
type Texts interface {
	Texts(ctx context.Context, hashes []string) (map[string]string, error)
}

// A Renderer turns requests into responses. It holds no state of any request and is safe for concurrent use.
type Renderer struct {
	texts     Texts
	asset     func(string) string
	templates *template.Template
	origin    string
	finder    Finder // nil: nothing is found
	outside   string // name of the organisation's own sign-in; "" for none
}

// NewRenderer parses the theme's templates. origin is the public site's own, as in "https://harbour.example".
func NewRenderer(texts Texts, asset func(string) string, origin string) (*Renderer, error) {
	templates, err := template.New(
		"",
	).Funcs(
		template.FuncMap{"asset": asset},
	).ParseFS(
		templateFiles,
		"templates/*.html",
	)
	if err != nil {
		return nil, fmt.Errorf("parse the theme's templates: %w", err)
	}
	kept, err := keepTexts(texts)
	if err != nil {
		return nil, err
	}
	return &Renderer{texts: kept, asset: asset, templates: templates, origin: origin}, nil
}

// Render answers a request (rules 3.6 and 4.3): the page, a redirect to its address, the way to sign-in, or one of the
// pages for those who get nothing.
func (r *Renderer) Render(ctx context.Context, q Request) (Response, error) {
	normal, err := address.Normal(q.Path)
	if err != nil {
		return r.instead(ctx, q, http.StatusNotFound)
	}
	if grant.ClosedTo(q.Site, q.Lens.Roles) {
		return r.instead(ctx, q, http.StatusServiceUnavailable)
	}
	found := address.Resolve(q.Site, normal, q.Lens.At)
	switch {
	case found.Page == 0:
		return r.instead(ctx, q, http.StatusNotFound)
	case found.Gone && reach.AdmittedBefore(q.Site, found.Page, q.Lens):
		return r.instead(ctx, q, http.StatusGone)
	case found.Gone, found.Via != 0 && !reach.AdmittedBefore(q.Site, found.Via, q.Lens):
		return r.instead(ctx, q, http.StatusNotFound)
	}
	switch reach.Ask(q.Site, found.Page, q.Lens) {
	case reach.NotThere:
		return r.instead(ctx, q, http.StatusNotFound)
	case reach.SignIn:
		return Response{
			Status:   http.StatusSeeOther,
			Location: q.Base + "/sign-in?to=" + url.QueryEscape(withQuery(normal, q.Query)),
		}, nil
	case reach.NoAccess:
		return r.instead(ctx, q, http.StatusForbidden)
	}
	if at := address.Of(q.Site, found.Page); at != q.Path {
		return Response{Status: http.StatusPermanentRedirect, Location: q.Base + withQuery(at, q.Query)}, nil
	}
	if p := q.Site.Page(found.Page); p.IsFile() {
		return r.file(q, p), nil
	}
	if found.Page == q.Site.Settings().Search {
		return r.searching(ctx, q, found.Page)
	}
	if _, lists := listing.Of(q.Site, found.Page); lists || q.Site.Page(found.Page).IsTopic() {
		return r.listing(ctx, q, found.Page)
	}
	return r.page(ctx, q, found.Page, http.StatusOK)
}

func withQuery(path, query string) string {
	if query == "" {
		return path
	}
	return path + "?" + query
}

// instead renders the page that the settings choose for a status, or a few words where there is none (rules 4.5).
func (r *Renderer) instead(ctx context.Context, q Request, status int) (Response, error) {
	if canKeepMissing(q, status) {
		return r.keptMissing(ctx, q, status)
	}
	return r.insteadNow(ctx, q, status)
}

func (r *Renderer) insteadNow(ctx context.Context, q Request, status int) (Response, error) {
	settings := q.Site.Settings()
	id := map[int]site.PageID{
		http.StatusForbidden:          settings.NoAccess,
		http.StatusServiceUnavailable: settings.Shut,
	}[status]
	if status == http.StatusNotFound || status == http.StatusGone {
		id = settings.NotFound
	}
	if id != 0 && reach.Ask(q.Site, id, q.Lens) == reach.Sees {
		return r.page(ctx, q, id, status)
	}
	v, err := r.view(ctx, q, 0)
	if err != nil {
		return Response{}, err
	}
	v.Title = map[int]string{
		http.StatusNotFound: "Page not found", http.StatusGone: "This page is gone", http.StatusForbidden: "No access",
		http.StatusServiceUnavailable: "Closed for the moment",
	}[status]
	v.Text = "<p>There is nothing for you to see at this address.</p>"
	return r.execute("page", v, status)
}

// listing renders a topic with one page of what it gathers, or a page with one of what it lists, narrowed to what the
// visitor asks for (rules 7.6). The first page of all has no query; another way of writing one leads to the one way,
// and there is nothing past the end.
func (r *Renderer) listing(ctx context.Context, q Request, id site.PageID) (Response, error) {
	query, _ := url.ParseQuery(q.Query) // what can't be read asks for nothing
	narrowing, narrows, can := narrowedBy(q, id, query)
	if query.Has(feedKey) {
		q.narrowing = narrowing
		return r.asFeed(ctx, q, id, can && query.Get(feedKey) == feedAtom)
	}
	if !query.Has(numberKey) && !narrows {
		answer, err := r.page(ctx, q, id, http.StatusOK)
		answer.Paged = true
		return answer, err
	}
	q.narrowing, q.number = narrowing, 1
	if query.Has(numberKey) {
		q.number, _ = strconv.Atoi(query.Get(numberKey)) // 0, of which there is no page, for what is no number
	}
	if !can || !isThere(q, id) {
		q.number, q.narrowing, q.beyond = 0, nil, address.Of(q.Site, id)
		return r.insteadNow(ctx, q, http.StatusNotFound)
	}
	if normal := narrowing.Query(q.number); q.Query != normal {
		to := q.Base + withQuery(address.Of(q.Site, id), normal)
		return Response{Status: http.StatusPermanentRedirect, Location: to, Paged: true}, nil
	}
	answer, err := r.page(ctx, q, id, http.StatusOK)
	answer.Paged = true
	return answer, err
}

// asFeed answers with a list as a feed, at its one address.
func (r *Renderer) asFeed(ctx context.Context, q Request, id site.PageID, can bool) (Response, error) {
	if !can {
		q.narrowing, q.beyond = nil, address.Of(q.Site, id)
		return r.insteadNow(ctx, q, http.StatusNotFound)
	}
	if normal := feedQuery(q.narrowing); q.Query != normal {
		to := q.Base + withQuery(address.Of(q.Site, id), normal)
		return Response{Status: http.StatusPermanentRedirect, Location: to, Paged: true}, nil
	}
	return r.feed(q, id)
}

// numberKey asks for a page of a list by its number.
const numberKey = "page"

func (r *Renderer) page(ctx context.Context, q Request, id site.PageID, status int) (Response, error) {
	v, err := r.view(ctx, q, id)
	if err != nil {
		return Response{}, err
	}
	if status == http.StatusOK {
		if _, lists := listing.Of(q.Site, id); lists || q.Site.Page(id).IsTopic() {
			v.Feed = withQuery(q.Base+address.Of(q.Site, id), feedQuery(q.narrowing))
		}
		v.Canonical = r.origin + withQuery(address.Of(q.Site, id), q.narrowing.Query(q.number))
	}
	return r.execute("page", v, status)
}

func (r *Renderer) execute(name string, v *view, status int) (Response, error) {
	var out bytes.Buffer
	if err := r.templates.ExecuteTemplate(&out, name, v); err != nil {
		return Response{}, fmt.Errorf("render %s: %w", name, err)
	}
	answer := Response{Status: status, Body: bytes.TrimLeft(out.Bytes(), "\n")}
	if v.KeptOut && status == http.StatusOK {
		answer.Robots = notIndexed
	}
	return answer, nil
}

// signIn renders the sign-in form, on the page that the settings choose for it; it must work whatever the tree is like.
func (r *Renderer) signIn(ctx context.Context, q Request, to, login, fault string, status int) (Response, error) {
	return r.signInSaying(ctx, q, to, login, notice{fault: fault}, status)
}

// A notice is what a form says above its fields.
type notice struct{ fault, said string }

func (r *Renderer) signInSaying(
	ctx context.Context,
	q Request,
	to, login string,
	tell notice,
	status int,
) (Response, error) {
	id := q.Site.Settings().SignIn
	if id != 0 && reach.Ask(q.Site, id, q.Lens) != reach.Sees {
		id = 0
	}
	v, err := r.view(ctx, q, id)
	if err != nil {
		return Response{}, err
	}
	if id == 0 {
		v.Title = "Sign in"
	}
	v.To, v.Login, v.Error, v.Said, v.Outside = to, login, tell.fault, tell.said, r.outside
	name := "sign-in"
	if strings.HasPrefix(q.Base, "/proof/") {
		name = "sign-in-proof"
	}
	answer, err := r.execute(name, v, status)
	answer.Type, answer.Cache = htmlWords, cacheNever
	return answer, err
}
