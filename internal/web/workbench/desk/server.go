// Package desk is what the areas of the workbench share: what one request looks at, the frame around every screen,
// edits on their way into a draft, replies to scripts, and the door. Areas know the desk, not each other.
package desk

import (
	"embed"
	"fmt"
	"html/template"
	"io/fs"
	"log/slog"
	"net/http"
	"net/url"
	"sync"
	"time"

	"github.com/go-chi/chi/v5"

	"vineladder/internal/blob"
	"vineladder/internal/clock"
	"vineladder/internal/core/count"
	"vineladder/internal/core/say"
	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
	"vineladder/internal/store"
	"vineladder/internal/web/assets"
	"vineladder/internal/web/gate"
	"vineladder/internal/web/skin"
)

//go:embed *.html
var templates embed.FS

// Settings of the workbench.
type Settings struct {
	Origin  string
	Hosts   []string
	Site    string // origin of the public site
	Files   store.Files
	Secure  bool
	Clients gate.Clients // who counts as one client

	Outside *gate.Outside // the organisation's own sign-in; nil: there is none

	SendsMail bool // letters are sent; else they stay in the outbox
}

// A Server is the workbench.
type Server struct {
	Store     *store.Store
	Settings  Settings
	assets    *assets.Assets
	Sessions  *gate.Sessions
	Signer    *gate.Signer
	cleaner   *text.Cleaner
	templates *template.Template
	Log       *slog.Logger
	policy    string
	Now       func() time.Time
	closing   chan struct{}
	streams   streams
	ending    sync.Once
	problems  problems
}

// New makes what the areas share. Their templates are parsed together with those of the desk.
func New(
	st *store.Store,
	settings Settings,
	built *assets.Assets,
	signer *gate.Signer,
	log *slog.Logger,
	areas ...fs.FS,
) (*Server, error) {
	parsed := template.New("").Funcs(template.FuncMap{
		"asset": built.Path, "number": count.Number, "pages": count.Pages, "count": count.Of, "capital": say.Capital,
		"lock": lock,
	})
	for _, files := range append([]fs.FS{templates}, areas...) {
		if _, err := parsed.ParseFS(files, "*.html"); err != nil {
			return nil, fmt.Errorf("parse the workbench's templates: %w", err)
		}
	}
	public, err := url.Parse(settings.Site)
	if err != nil {
		return nil, err
	}
	return &Server{
		Store: st, Settings: settings, assets: built, Signer: signer, Log: log, templates: parsed, Now: clock.Now,
		closing: make(chan struct{}),
		Sessions: gate.NewSessions(
			st,
			"workbench",
			settings.Secure,
			settings.Clients,
			signer,
			log,
		), cleaner: text.NewCleaner(public.Host),
		policy: "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self'; connect-src " +
			"'self'; " +
			"form-action 'self'; base-uri 'none'; frame-src " + settings.Site,
	}, nil
}

// Close ends what runs in the background.
func (s *Server) Close() {
	s.EndNews()
	s.Sessions.Close()
}

// EndNews ends the answers that would otherwise go on for ever, so that the server can stop.
func (s *Server) EndNews() { s.ending.Do(func() { close(s.closing) }) }

// Guard has what every request of the workbench goes through: where it may come from, how long and how large it may
// be.
func (s *Server) Guard(r chi.Router) {
	r.Use(gate.Recover(s.Log), gate.Limits(30*time.Second, 2*time.Minute, "/news", ImportPath), s.guard)
	r.Handle("/assets/*", s.assets)
	skin.Mount(r, func() *site.Theme { return s.Store.Published().Site.Theme() })
}

// Door has the routes of signing in and out. What is inside asks for an account.
func (s *Server) Door(r chi.Router, inside ...func(chi.Router)) {
	r.Use(gate.Packed, gate.Forms(s.unreadable), s.Sessions.LoadAndSave)
	r.Get("/sign-in", s.showSignIn)
	r.Post("/sign-in", s.signIn)
	r.Get("/sign-in/outside", s.goOutside)
	r.Get(outsideBack, s.fromOutside)
	r.Get("/sign-in/code", s.showCode)
	r.Post("/sign-in/code", s.signInCode)
	r.Post("/sign-out", s.signOut)
	r.Group(func(r chi.Router) {
		r.Use(s.needAccount, s.carry)
		r.Get("/find", s.At(s.find))
		r.Get("/moment", s.At(s.readMoment))
		r.Get("/news", s.news)
		r.Get("/history-of", s.At(s.historyOf))
		r.Get("/owners", s.At(s.owners))
		for _, area := range inside {
			area(r)
		}
	})
}

func (s *Server) guard(next http.Handler) http.Handler {
	protected := http.NewCrossOriginProtection().Handler(next)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		gate.Headers(w.Header(), s.policy, "'none'")
		gate.Strict(w.Header(), s.Settings.Secure)
		w.Header().Set("Cache-Control", "private, no-store")
		r.Body = http.MaxBytesReader(w, r.Body, bodyLimit(r))
		protected.ServeHTTP(w, r)
	})
}

// ImportPath is where archives are brought in, of ImportLimit bytes at most.
const (
	ImportPath  = "/import"
	ImportLimit = 256 << 20
)

// bodyLimit bounds what a request may send, in bytes.
func bodyLimit(r *http.Request) int64 {
	if r.URL.Path == "/files" || r.URL.Path == "/topics/import" {
		return blob.Limit + 1<<20
	}
	if r.URL.Path == ImportPath {
		return ImportLimit + 1<<20
	}
	return 2 * text.Limit
}

// unreadable refuses a form that no screen of ours sends.
func (s *Server) unreadable(w http.ResponseWriter, _ *http.Request, sentence string) {
	s.Say(w, http.StatusBadRequest, Reply{Error: sentence})
}
