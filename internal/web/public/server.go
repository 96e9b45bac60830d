package public

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"
	chimiddleware "github.com/go-chi/chi/v5/middleware"
	"github.com/go-chi/httprate"
	"golang.org/x/sync/singleflight"

	"vineladder/internal/clock"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
	"vineladder/internal/web/assets"
	"vineladder/internal/web/gate"
	"vineladder/internal/web/skin"
)

// Settings of the public site.
type Settings struct {
	Outside   *gate.Outside // the organisation's own sign-in; nil: there is none
	Origin    string        // as visitors type it, "http://127.0.0.1:8080"
	Hosts     []string      // Host headers that it answers to
	Workbench string        // origin of the workbench, which may frame previews
	Secure    bool
	Files     store.Files
	Clients   gate.Clients // who counts as one client
}

// A Server is the public site.
type Server struct {
	*Renderer
	store    *store.Store
	settings Settings
	assets   *assets.Assets
	sessions *gate.Sessions
	signer   *gate.Signer
	log      *slog.Logger
	cache    cache
	slow     http.Handler
	now      func() time.Time
	flights  singleflight.Group // of answers that are being made
	packs    http.Handler       // sends shared pages packed
}

const policy = "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self'; " +
	"connect-src 'self'; form-action 'self'; base-uri 'none'"

// New makes the public site.
func New(
	st *store.Store,
	settings Settings,
	built *assets.Assets,
	signer *gate.Signer,
	log *slog.Logger,
) (*Server, error) {
	renderer, err := NewRenderer(st, built.Path, settings.Origin)
	if err != nil {
		return nil, err
	}
	if settings.Outside != nil {
		renderer.outside = settings.Outside.Name
	}
	s := &Server{
		Renderer: renderer, store: st, settings: settings, assets: built, signer: signer, log: log, now: clock.Now,
		sessions: gate.NewSessions(st, "visitor", settings.Secure, settings.Clients, signer, log),
	}
	s.finder = patient{st, log}
	s.slow, s.packs = s.routes(), packing()
	return s, nil
}

// Close ends what runs in the background.
func (s *Server) Close() { s.sessions.Close() }

// Handler answers everything on the public host.
func (s *Server) Handler() http.Handler { return gate.Hosts(s, s.settings.Hosts...) }

func (s *Server) routes() http.Handler {
	r := chi.NewRouter()
	r.Use(gate.Recover(s.log), gate.Limits(20*time.Second, time.Minute, ""), s.guard)
	r.Handle("/assets/*", s.assets)
	skin.Mount(r, func() *site.Theme { return s.store.Published().Site.Theme() })
	files := r.With(s.sessions.LoadOrLose)
	files.Get(site.FilesPath+"{name}", s.answerFile)
	files.Head(site.FilesPath+"{name}", s.answerFile)
	r.Get("/proof/{token}", s.proof)
	r.Get("/proof/{token}/*", s.proof)
	r.Group(func(r chi.Router) {
		r.Use(gate.Packed, s.sessions.LoadOrLose)
		forms := r.With(gate.Forms(func(w http.ResponseWriter, _ *http.Request, sentence string) {
			http.Error(w, sentence, http.StatusBadRequest)
		}))
		forms.Post("/sign-in", s.signInNow)
		r.Post("/sign-out", s.signOut)
		forms.With(s.limit(10, time.Hour)).Post("/register", s.register)
		forms.With(s.limit(20, time.Minute)).Post("/my-details", s.changeDetails)
		r.Get(securityPath, s.showSecurity)
		r.Get(securityPath+"/code.png", s.drawSecond)
		forms.With(s.limit(20, time.Minute)).Post(securityPath, s.changeSecurity)
		r.Get("/sign-in/outside", s.goOutside)
		r.Get(outsideBack, s.fromOutside)
		r.Get("/sign-in/code", s.showCode)
		forms.Post("/sign-in/code", s.signInCode)
		r.Get(linkPath, s.showLink)
		forms.With(s.limit(20, time.Hour)).Post(linkPath, s.useLink)
		forms.With(s.limit(10, time.Hour)).Post("/sign-in/password", s.sendLost)
		r.Get("/*", s.answer)
		r.Head("/*", s.answer)
	})
	return r
}

// guard sets the headers of every answer and refuses requests that another site's page sends (Fetch Metadata).
func (s *Server) guard(next http.Handler) http.Handler {
	protected := http.NewCrossOriginProtection().Handler(next)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		frame := "'none'"
		if isProof(r) {
			frame = s.settings.Workbench
		}
		gate.Headers(w.Header(), policy, frame)
		gate.Strict(w.Header(), s.settings.Secure)
		if s.store.IsEmpty() && !strings.HasPrefix(r.URL.Path, "/assets/") {
			w.Header().Set("Retry-After", "600")
			http.Error(w, "This site is being set up. Please come back in a while.", http.StatusServiceUnavailable)
			return
		}
		protected.ServeHTTP(w, r)
	})
}

var (
	htmlType    = []string{"text/html; charset=utf-8"}
	noCache     = []string{"no-cache"}
	vary        = []string{"Accept-Encoding, Cookie"}
	gzipped     = []string{"gzip"}
	policyValue = []string{policy + "; frame-ancestors 'none'"}
	noSniff     = []string{"nosniff"}
	referrer    = []string{"same-origin"}
)

// ServeHTTP has a short way for who is signed out and asks for what was asked before; all else takes the router. What a
// page says does not hang on a query string, which stands only where an address leads on.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	if r.Method != http.MethodGet || r.URL.RawPath != "" || strings.HasPrefix(r.URL.Path, site.FilesPath) {
		s.slow.ServeHTTP(w, r)
		return
	}
	if s.sessions.Known(r) {
		if !s.member(w, r) {
			s.slow.ServeHTTP(w, r)
		}
		return
	}
	answer := s.cache.at(s.store.Published(), s.now()).get(keyOf(r.URL.Path, r.URL.RawQuery))
	if answer != nil && (!answer.paged || r.URL.RawQuery == "") {
		gate.Strict(w.Header(), s.settings.Secure)
		answer.write(w, r)
		return
	}
	s.slow.ServeHTTP(w, r)
}

// writeAsked sends a stored answer to who asked with a query string, which stands in the way to sign-in and nowhere
// else.
func (a *stored) writeAsked(w http.ResponseWriter, r *http.Request) {
	h, back := w.Header(), signInQuery+url.QueryEscape(r.URL.EscapedPath())
	h["Content-Security-Policy"], h["X-Content-Type-Options"], h["Referrer-Policy"] = policyValue, noSniff, referrer
	h["Cache-Control"], h["Vary"], h["Content-Type"] = noCache, vary, htmlType
	if a.robots != nil {
		h["X-Robots-Tag"] = a.robots
	}
	body := bytes.ReplaceAll(a.body, []byte(back+`"`), []byte(back+url.QueryEscape("?"+r.URL.RawQuery)+`"`))
	_, _ = w.Write(body) // the visitor may have left
}

// write sends a stored answer. Headers are set by key, since all keys here are canonical already.
func (a *stored) write(w http.ResponseWriter, r *http.Request) {
	if r.URL.RawQuery != "" && a.kind[0] == htmlWords {
		a.writeAsked(w, r)
		return
	}
	h := w.Header()
	h["Content-Security-Policy"], h["X-Content-Type-Options"], h["Referrer-Policy"] = policyValue, noSniff, referrer
	h["Cache-Control"], h["Vary"] = noCache, vary
	if a.robots != nil {
		h["X-Robots-Tag"] = a.robots
	}
	body, length, tag, packed := a.body, a.length, a.etag, a.packed != nil &&
		gate.TakesGzip(r.Header.Get("Accept-Encoding"))
	if packed { // another representation, so another strong tag (RFC 9110 8.8.3.3)
		body, length, tag = a.packed, a.squeezed, a.packedTag
	}
	h["Etag"] = tag
	if asked := r.Header.Get("If-None-Match"); asked != "" && gate.IsTag(asked, tag[0]) {
		w.WriteHeader(http.StatusNotModified)
		return
	}
	h["Content-Type"] = a.kind
	if packed {
		h["Content-Encoding"] = gzipped
	}
	h["Content-Length"] = length
	_, _ = w.Write(body) // the visitor may have left
}

// answer sends what the site answers.
func (s *Server) answer(w http.ResponseWriter, r *http.Request) {
	published, now := s.store.Published(), s.now()
	q := s.request(r, published, now)
	if page, err := s.forMembers(r.Context(), q, s.cache.at(published, now)); err == nil && page != nil {
		s.writeShared(w, page, q.Name)
		return
	}
	answer, err := s.answerOnce(r.Context(), q, s.cache.at(published, now))
	if err == nil && q.Query != "" && answer.Type == htmlWords &&
		s.keeps(q, answer) { // a kept page is everybody's: it has nobody's query string
		q.Query = ""
		answer, err = s.answerOnce(r.Context(), q, s.cache.at(published, now))
	}
	switch {
	case err != nil:
		s.fail(w, r, err)
	case s.keeps(q, answer):
		generation := s.cache.at(published, now)
		tag := cmp.Or(answer.Tag, etag(generation, answer))
		generation.put(keyOf(r.URL.EscapedPath(), q.Query), answer, tag).write(w, r)
	case answer.Type == jsonWords:
		s.sendProgram(w, r, answer)
	default:
		s.send(w, answer)
	}
}

// answerOnce makes what many ask for at the same time once, as far as it is the same for all of them. Who waits and
// goes away ends it for nobody else.
func (s *Server) answerOnce(ctx context.Context, q Request, g *generation) (Response, error) {
	if q.Lens.SignedIn || q.Lost {
		return s.Answer(ctx, q)
	}
	made, err, _ := s.flights.Do(fmt.Sprintf("%p %s?%s", g, q.Path, q.Query), func() (any, error) {
		ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), making)
		defer cancel()
		return s.Answer(ctx, q)
	})
	if err != nil {
		return Response{}, err
	}
	return made.(Response), nil
}

// making is how long a page may take that is made for several.
const making = 10 * time.Second

// keeps says whether an answer is kept for others: pages and menus for programs of who is signed out are; addresses
// that lead nowhere have no end, and nor have query strings, so they are not.
func (s *Server) keeps(q Request, answer Response) bool {
	if answer.Paged && q.Query != "" {
		return false
	}
	return !q.Lens.SignedIn && !q.Lost && answer.Status == http.StatusOK && answer.Cache == cacheAsk &&
		(answer.Type == htmlWords || q.Query == "" || fewQueries.MatchString(q.Query))
}

// fewQueries are those that menus for programs are kept for.
var fewQueries = regexp.MustCompile(`^levels=[1-9][0-9]?$`)

// request reads who asks for what.
func (s *Server) request(r *http.Request, published *store.Published, now time.Time) Request {
	on := published.Site
	q := Request{Site: on, Path: r.URL.EscapedPath(), Query: r.URL.RawQuery, Lens: reach.Lens{At: now}}
	account, ok, err := s.sessions.Account(r.Context())
	q.Lost = err != nil || gate.Lost(r.Context()) // whoever it is gets what is for everyone
	if ok {
		q.Name, q.Login, q.Roles = account.Name, account.Login, account.Roles
		q.Lens.Visitor = reach.As(on, account.Roles)
		q.Edit = editingFor(on, account.Roles, s.settings.Workbench)
		s.sessions.Remember(r.Context(), account)
	}
	q.Kept = s.cache.at(published, now).keptFor(q.Lens.Visitor)
	return q
}

// isProof says whether a preview is asked for.
func isProof(r *http.Request) bool { return strings.HasPrefix(r.URL.Path, "/proof/") }

func (s *Server) send(w http.ResponseWriter, answer Response) {
	h := w.Header()
	set := func(name, value string) {
		if value != "" {
			h.Set(name, value)
		}
	}
	if h.Get("Cache-Control") == "" ||
		answer.Cache == cacheNever { // a session that could not be read has said already that nothing is kept
		set("Cache-Control", answer.Cache)
	}
	set("Location", answer.Location)
	set("Retry-After", answer.RetryAfter)
	set("X-Robots-Tag", answer.Robots)
	set("Content-Type", answer.Type)
	w.WriteHeader(answer.Status)
	_, _ = w.Write(answer.Body) // the visitor may have left
}

// sendProgram sends what a program reads, which may ask whether it has changed.
func (s *Server) sendProgram(w http.ResponseWriter, r *http.Request, answer Response) {
	h := w.Header()
	if answer.Tag != "" {
		h.Set("ETag", answer.Tag)
		h.Set("Vary", "Cookie")
		if gate.IsTag(r.Header.Get("If-None-Match"), answer.Tag) {
			h.Set("Cache-Control", answer.Cache)
			w.WriteHeader(http.StatusNotModified)
			return
		}
	}
	s.send(w, answer)
}

func (s *Server) fail(w http.ResponseWriter, r *http.Request, err error) {
	if errors.Is(err, context.Canceled) {
		return
	}
	s.log.Error(
		"a public page failed",
		"path",
		gate.Path(r),
		"request",
		chimiddleware.GetReqID(r.Context()),
		"error",
		err,
	)
	h := w.Header()
	h.Set("Retry-After", "30")
	h.Set("Cache-Control", "no-store")
	h.Set("Content-Type", "text/html; charset=utf-8")
	w.WriteHeader(http.StatusServiceUnavailable)
	if err := s.templates.ExecuteTemplate(w, "unwell", s.store.Published().Site.Settings()); err != nil {
		s.log.Error("the page for faults failed", "error", err)
	}
}

func (s *Server) answerSignIn(w http.ResponseWriter, r *http.Request, to, login, fault string, status int) {
	answer, err := s.signIn(r.Context(), s.request(r, s.store.Published(), s.now()), to, login, fault, status)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	s.send(w, answer)
}

func (s *Server) signInNow(w http.ResponseWriter, r *http.Request) {
	r.Body = http.MaxBytesReader(w, r.Body, 16<<10)
	to, login := gate.LocalPath(r.FormValue("to")), r.FormValue("login")
	_, err := s.sessions.SignIn(r, login, r.FormValue("password"))
	if errors.Is(err, gate.ErrNeedsCode) {
		http.Redirect(w, r, "/sign-in/code?to="+url.QueryEscape(to), http.StatusSeeOther)
		return
	}
	if status, fault := gate.SignInFault(w, err); status != 0 {
		s.answerSignIn(w, r, to, login, fault, status)
		return
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	http.Redirect(w, r, to, http.StatusSeeOther)
}

// limit bounds how often one client may ask.
func (s *Server) limit(times int, within time.Duration) func(http.Handler) http.Handler {
	return httprate.LimitBy(
		times,
		within,
		func(r *http.Request) (string, error) { return s.settings.Clients.Of(r), nil },
	)
}

func (s *Server) signOut(w http.ResponseWriter, r *http.Request) {
	if err := s.sessions.Destroy(r.Context()); err != nil {
		s.fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/", http.StatusSeeOther)
}
