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
	"strings"

	"vineladder/internal/core/address"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
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
	Name  string // of who is signed in
}

// A Response is what the visitor gets.
type Response struct {
	Status   int
	Location string // for redirects
	Body     []byte
}

// Texts gives page texts by hash.
type Texts interface {
	Text(ctx context.Context, hash string) (string, error)
}

// A Renderer turns requests into responses. It holds no state of any request and is safe for concurrent use.
type Renderer struct {
	texts     Texts
	asset     func(string) string
	templates *template.Template
	origin    string
}

// NewRenderer parses the theme. origin is the public site's own, as in "https://harbour.example".
func NewRenderer(texts Texts, asset func(string) string, origin string) (*Renderer, error) {
	templates, err := template.New("").Funcs(template.FuncMap{"asset": asset}).ParseFS(templateFiles, "templates/*.html")
	if err != nil {
		return nil, fmt.Errorf("parse the theme: %w", err)
	}
	return &Renderer{texts, asset, templates, origin}, nil
}

// Render answers a request (rules 3.6 and 4.3): the page, a redirect to its address, the way to sign-in, or one of the
// pages for those who get nothing.
func (r *Renderer) Render(ctx context.Context, q Request) (Response, error) {
	normal, err := address.Normal(q.Path)
	if err != nil {
		return r.instead(ctx, q, http.StatusNotFound)
	}
	found := address.Resolve(q.Site, normal, q.Lens.At)
	switch {
	case found.Page == 0:
		return r.instead(ctx, q, http.StatusNotFound)
	case found.Gone && reach.AdmittedBefore(q.Site, found.Page, q.Lens):
		return r.instead(ctx, q, http.StatusGone)
	case found.Gone:
		return r.instead(ctx, q, http.StatusNotFound)
	}
	switch reach.Ask(q.Site, found.Page, q.Lens) {
	case reach.NotThere:
		return r.instead(ctx, q, http.StatusNotFound)
	case reach.SignIn:
		return Response{Status: http.StatusSeeOther, Location: q.Base + "/sign-in?to=" + url.QueryEscape(withQuery(normal, q.Query))}, nil
	case reach.NoAccess:
		return r.instead(ctx, q, http.StatusForbidden)
	}
	if at := address.Of(q.Site, found.Page); at != q.Path {
		return Response{Status: http.StatusPermanentRedirect, Location: q.Base + withQuery(at, q.Query)}, nil
	}
	return r.page(ctx, q, found.Page, http.StatusOK)
}

func withQuery(path, query string) string {
	if query == "" {
		return path
	}
	return path + "?" + query
}

// instead renders the page that the settings choose for a status, or a few words where there is none.
func (r *Renderer) instead(ctx context.Context, q Request, status int) (Response, error) {
	id := q.Site.Settings().NotFound
	if status == http.StatusForbidden {
		id = q.Site.Settings().NoAccess
	}
	if id != 0 && reach.Ask(q.Site, id, q.Lens) == reach.Sees {
		return r.page(ctx, q, id, status)
	}
	view := r.frame(q, 0)
	view.Title = map[int]string{http.StatusNotFound: "Page not found", http.StatusGone: "This page is gone", http.StatusForbidden: "No access"}[status]
	view.Text = "<p>There is nothing for you to see at this address.</p>"
	return r.execute("page", view, status)
}

func (r *Renderer) page(ctx context.Context, q Request, id site.PageID, status int) (Response, error) {
	view := r.frame(q, id)
	p := q.Site.Page(id)
	source, err := r.texts.Text(ctx, p.Text)
	if err != nil {
		return Response{}, err
	}
	panel := reach.NewPanel(q.Lens)
	// Sanitised when it was saved; only links to pages change here.
	view.Text = template.HTML(text.Render(source, func(to site.PageID) (string, bool) {
		return q.Base + address.Of(q.Site, to), panel.At(q.Site, to).Reachable() != 0
	}))
	view.Title, view.Summary = p.Heading(), p.Summary
	if status == http.StatusOK {
		view.Canonical = r.origin + address.Of(q.Site, id)
	}
	return r.execute("page", view, status)
}

// A view is what the templates show.
type view struct {
	Site       string
	Language   string
	Title      string
	Summary    string
	Canonical  string
	Base       string
	Home       bool
	Header     nav
	Side       nav
	Quick      nav
	Footer     nav
	Breadcrumb []crumb
	Data       any // the breadcrumb as linked data
	Text       template.HTML
	Name       string // of who is signed in
	To         string // where sign-in leads
	Error      string
	Login      string
}

type nav struct {
	Title string
	Items []item
}

// An item is a line as the theme shows it. A heading has no Href; SignOut is a button, since it changes something.
type item struct {
	Label    string
	Href     string
	Hint     string // where it leads, as the link's title text
	Icon     string
	Badge    site.Badge
	NewTab   bool
	SignOut  bool
	Trail    bool
	Current  string
	Children []item
}

type crumb struct {
	Label string
	Href  string // "" renders as plain text
}

// LastCrumb is the index of the page's own crumb.
func (v view) LastCrumb() int { return len(v.Breadcrumb) - 1 }

// frame gives all that stands around the content of a page; 0 is no page of the tree.
func (r *Renderer) frame(q Request, id site.PageID) view {
	s := q.Site
	v := view{Site: s.Settings().Name, Language: s.Settings().Language, Base: q.Base, Name: q.Name, Home: id == s.Home(),
		Header: block(q, "header", id), Side: block(q, "side", id), Quick: block(q, "quick", id),
		Footer: block(q, "footer", id), To: withQuery(q.Path, q.Query)}
	v.Breadcrumb = breadcrumb(q, id)
	if len(v.Breadcrumb) > 0 {
		v.Data = r.linkedData(q, id)
	}
	return v
}

func block(q Request, key string, current site.PageID) nav {
	b := q.Site.Block(key)
	if b == nil || !b.StandsOn(q.Site, current) {
		return nav{}
	}
	m := q.Site.Menu(b.Menu)
	lines := menu.NewView(q.Site, m, q.Lens).Window(b.Window, current)
	return nav{b.Title, items(q, m, lines)}
}

func items(q Request, m *site.Menu, nodes []menu.Node) []item {
	made := make([]item, len(nodes))
	for i, n := range nodes {
		made[i] = item{Label: n.Label, Trail: n.Trail, Current: n.Current, Children: items(q, m, n.Children)}
		if n.Page != 0 {
			made[i].Href = q.Base + address.Of(q.Site, n.Page)
		}
		if e := m.Entry(n.Entry); n.Own && e != nil {
			made[i].dress(q, e)
		}
	}
	return made
}

// dress gives a line what its entry says of it.
func (i *item) dress(q Request, e *site.Entry) {
	i.Hint, i.Icon, i.Badge, i.NewTab = e.Hint, e.Icon, e.Badge, e.NewTab
	switch to := e.Shows.(type) {
	case site.ToWeb:
		i.Href = to.Address
	case site.ToFile:
		i.Href = "/files/" + to.File
	case site.ToAccount:
		if i.SignOut = to.Does == site.SignOutLink; !i.SignOut {
			i.Href = q.Base + "/sign-in?to=" + url.QueryEscape(withQuery(q.Path, q.Query))
		}
	}
}

// breadcrumb gives the way from the home page: an ancestor out of reach as plain text, left out if it is concealed
// (rules 4.4). The home page and pages right below nothing have none.
func breadcrumb(q Request, id site.PageID) []crumb {
	path := q.Site.Path(id)
	if len(path) < 2 {
		return nil
	}
	panel := reach.NewPanel(q.Lens)
	var crumbs []crumb
	for _, p := range path {
		state := panel.At(q.Site, p.ID)
		switch {
		case state.Reachable() != 0:
			crumbs = append(crumbs, crumb{p.Label, q.Base + address.Of(q.Site, p.ID)})
		case !state.Concealed:
			crumbs = append(crumbs, crumb{Label: p.Label})
		}
	}
	return crumbs
}

type listItem struct {
	Type     string `json:"@type"`
	Position int    `json:"position"`
	Name     string `json:"name"`
	Item     string `json:"item,omitempty"`
}

type breadcrumbList struct {
	Context string     `json:"@context"`
	Type    string     `json:"@type"`
	Items   []listItem `json:"itemListElement"`
}

// linkedData is the breadcrumb as a schema.org BreadcrumbList in JSON-LD 1.1.
func (r *Renderer) linkedData(q Request, id site.PageID) any {
	list := breadcrumbList{Context: "https://schema.org", Type: "BreadcrumbList"}
	for i, c := range breadcrumb(Request{Site: q.Site, Lens: q.Lens}, id) {
		entry := listItem{Type: "ListItem", Position: i + 1, Name: c.Label}
		if c.Href != "" {
			entry.Item = r.origin + c.Href
		}
		list.Items = append(list.Items, entry)
	}
	return list
}

func (r *Renderer) execute(name string, v view, status int) (Response, error) {
	var out bytes.Buffer
	if err := r.templates.ExecuteTemplate(&out, name, v); err != nil {
		return Response{}, fmt.Errorf("render %s: %w", name, err)
	}
	return Response{Status: status, Body: bytes.TrimLeft(out.Bytes(), "\n")}, nil
}

// signIn renders the sign-in page. It is outside the tree: it must work whatever the tree is like.
func (r *Renderer) signIn(q Request, to, login, fault string, status int) (Response, error) {
	v := r.frame(q, 0)
	v.Title, v.To, v.Login, v.Error = "Sign in", to, login, fault
	name := "sign-in"
	if strings.HasPrefix(q.Base, "/proof/") {
		name = "sign-in-proof"
	}
	return r.execute(name, v, status)
}
