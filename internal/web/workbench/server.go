// Package workbench is the administrator's application: the ladder, the sheet of the page that is selected, what will
// change, publishing and the history. Handlers read the request, ask core or the store once, and render a template.
package workbench

import (
	"bytes"
	"context"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"log/slog"
	"net/http"
	"net/url"
	"sync"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/go-chi/httprate"

	"vineladder/internal/clock"
	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/say"
	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
	"vineladder/internal/files"
	"vineladder/internal/store"
	"vineladder/internal/web/assets"
	"vineladder/internal/web/gate"
	"vineladder/internal/web/skin"
)

//go:embed templates/*.html
var templateFiles embed.FS

// Settings of the workbench.
type Settings struct {
	Origin  string
	Hosts   []string
	Site    string // origin of the public site
	Files   files.Dir
	Secure  bool
	Clients gate.Clients // who counts as one client
}

// A Server is the workbench.
type Server struct {
	store     *store.Store
	settings  Settings
	assets    *assets.Assets
	sessions  *gate.Sessions
	signer    *gate.Signer
	cleaner   *text.Cleaner
	templates *template.Template
	log       *slog.Logger
	policy    string
	now       func() time.Time
	closing   chan struct{}
	streams   streams
	ladders   itemLadders
	ending    sync.Once
}

// New makes the workbench.
func New(
	st *store.Store,
	settings Settings,
	built *assets.Assets,
	signer *gate.Signer,
	log *slog.Logger,
) (*Server, error) {
	templates, err := template.New(
		"",
	).Funcs(
		template.FuncMap{
			"asset":   built.Path,
			"number":  count.Number,
			"pages":   count.Pages,
			"count":   count.Of,
			"capital": say.Capital,
		},
	).ParseFS(
		templateFiles,
		"templates/*.html",
	)
	if err != nil {
		return nil, fmt.Errorf("parse the workbench's templates: %w", err)
	}
	public, err := url.Parse(settings.Site)
	if err != nil {
		return nil, err
	}
	return &Server{
		store: st, settings: settings, assets: built, signer: signer, log: log, templates: templates, now: clock.Now, closing: make(chan struct{}),
		sessions: gate.NewSessions(
			st,
			"workbench",
			settings.Secure,
			settings.Clients,
			signer,
			log,
		), cleaner: text.NewCleaner(public.Host),
		policy: "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; img-src 'self'; connect-src 'self'; " +
			"form-action 'self'; base-uri 'none'; frame-src " + settings.Site,
	}, nil
}

// Close ends what runs in the background.
func (s *Server) Close() {
	s.EndNews()
	s.sessions.Close()
}

// EndNews ends the answers that would otherwise go on for ever, so that the server can stop.
func (s *Server) EndNews() { s.ending.Do(func() { close(s.closing) }) }

// Handler answers everything on the workbench's host.
func (s *Server) Handler() http.Handler { return gate.Hosts(s.routes(), s.settings.Hosts...) }

func (s *Server) routes() chi.Router {
	r := chi.NewRouter()
	r.Use(gate.Recover(s.log), gate.Limits(30*time.Second, 2*time.Minute, "/news"), s.guard)
	r.Handle("/assets/*", s.assets)
	skin.Mount(r, func() *site.Theme { return s.store.Published().Site.Theme() })
	r.Get("/set-up/{token}", s.setUpLink(s.showSetUp))
	r.With(httprate.LimitByIP(20, time.Minute)).Post("/set-up/{token}", s.setUpLink(s.setUp))
	r.Group(func(r chi.Router) {
		r.Use(gate.Packed, s.whileEmpty, gate.Forms(s.unreadable), s.sessions.LoadAndSave)
		r.Get("/sign-in", s.showSignIn)
		r.Post("/sign-in", s.signIn)
		r.Post("/sign-out", s.signOut)
		r.Group(func(r chi.Router) {
			r.Use(s.needAccount)
			r.Get(
				"/",
				func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, "/tree", http.StatusSeeOther) },
			)
			r.Get("/tree", s.at(s.tree))
			r.Post("/tree/open", s.openBranch)
			r.Post("/edit", s.at(s.edit))
			r.Post("/try", s.at(s.try))
			r.Post("/undo", s.at(s.step("Undone: ", s.store.Undo)))
			r.Post("/redo", s.at(s.step("Done again: ", s.store.Redo)))
			r.Get("/find", s.at(s.find))
			r.Get("/text", s.at(s.text))
			r.Get("/preview", s.at(s.preview))
			r.Get("/review", s.at(s.review))
			r.Get("/sides", s.at(s.showSides))
			r.Post("/publish", s.at(s.publish))
			r.Post("/held", s.at(s.decideHeld))
			r.Get("/drafts", s.at(s.drafts))
			r.Post("/drafts/{do}", s.at(s.draftDo))
			r.Post("/bin/empty", s.at(s.emptyBin))
			r.Get("/ask", s.at(s.ask))
			r.Post("/tally", s.at(s.tally))
			r.Get("/key", s.at(s.key))
			r.Get("/news", s.news)
			r.Get("/picture", s.at(s.picture))
			r.Get("/menus", s.at(s.menus))
			r.Post("/menus/edit", s.at(s.menuEdit))
			r.Post("/menus/try", s.at(s.menuTry))
			r.Post("/menus/open", s.openItem)
			r.Get("/menus/find", s.at(s.findItems))
			r.Get("/menus/ask", s.at(s.askItems))
			r.Post("/menus/tally", s.at(s.tallyItems))
			r.Get("/menus/key", s.at(s.itemKey))
			r.Post("/files", s.at(s.upload))
			r.Get("/settings", s.at(s.siteSettings))
			r.Post("/settings/edit", s.at(s.settingsEdit))
			r.Post("/settings/try", s.at(s.settingsTry))
			r.Get("/layouts", s.at(s.layouts))
			r.Post("/layouts/edit", s.at(s.layoutEdit))
			r.Post("/layouts/try", s.at(s.layoutTry))
			r.Get("/layouts/find", s.at(s.findBlocks))
			r.Get("/layouts/counts", s.at(s.counts))
			r.Get("/layouts/cover", s.at(s.cover))
			r.Get("/layouts/text", s.at(s.blockText))
			r.Post("/take-back", s.at(s.takeBack))
		})
	})
	return r
}

func (s *Server) guard(next http.Handler) http.Handler {
	protected := http.NewCrossOriginProtection().Handler(next)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		gate.Headers(w.Header(), s.policy, "'none'")
		gate.Strict(w.Header(), s.settings.Secure)
		w.Header().Set("Cache-Control", "private, no-store")
		r.Body = http.MaxBytesReader(w, r.Body, bodyLimit(r))
		protected.ServeHTTP(w, r)
	})
}

// bodyLimit bounds what a request may send, in bytes.
func bodyLimit(r *http.Request) int64 {
	if r.URL.Path == "/files" {
		return files.Limit + 1<<20
	}
	return 2 * text.Limit
}

// unreadable refuses a form that no screen of ours sends.
func (s *Server) unreadable(w http.ResponseWriter, _ *http.Request, sentence string) {
	s.say(w, http.StatusBadRequest, reply{Error: sentence})
}

type accountKey struct{}

// needAccount lets people in who have something to do in the workbench. A script that asks gets 401 as JSON, so that
// what was being edited stays on the screen.
func (s *Server) needAccount(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		account, ok, err := s.sessions.Account(r.Context())
		switch {
		case err != nil && (r.Method != http.MethodGet || r.Header.Get("X-Part") != ""):
			s.refuse(w, r, err)
		case err != nil:
			s.fail(w, r, err)
		case !ok && (r.Method != http.MethodGet || r.Header.Get("X-Part") != ""):
			s.say(
				w,
				http.StatusUnauthorized,
				reply{
					Error: "You are signed out. What you typed is still here: sign in again in another tab, then try once more.",
				},
			)
		case !ok:
			http.Redirect(w, r, "/sign-in?to="+url.QueryEscape(r.URL.RequestURI()), http.StatusSeeOther)
		case !grant.Works(s.store.Published().Site, account.Roles):
			w.WriteHeader(http.StatusForbidden)
			s.render(
				w,
				r,
				"sign-in",
				signInView{
					Error: account.Name + " has no permission that the workbench is for. Ask your site keeper, or sign in as somebody else.",
					Out:   true,
				},
			)
		default:
			next.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), accountKey{}, account)))
		}
	})
}

func who(r *http.Request) store.Account { return r.Context().Value(accountKey{}).(store.Account) }

type signInView struct {
	To, Login, Error string
	Out              bool // somebody is signed in who may not be here
	Left             int  // edits of the person who has just signed out that are not public
}

func (s *Server) showSignIn(w http.ResponseWriter, r *http.Request) {
	s.render(
		w,
		r,
		"sign-in",
		signInView{To: gate.LocalPath(r.URL.Query().Get("to")), Left: s.sessions.PopInt(r.Context(), left)},
	)
}

func (s *Server) signIn(w http.ResponseWriter, r *http.Request) {
	to, login := gate.LocalPath(r.FormValue("to")), r.FormValue("login")
	_, err := s.sessions.SignIn(r, login, r.FormValue("password"))
	if status, fault := gate.SignInFault(w, err); status != 0 {
		w.WriteHeader(status)
		s.render(w, r, "sign-in", signInView{To: to, Login: login, Error: fault})
		return
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	s.sessions.Put(r.Context(), welcome, true)
	http.Redirect(w, r, to, http.StatusSeeOther)
}

func (s *Server) signOut(w http.ResponseWriter, r *http.Request) {
	if err := s.leave(r); err != nil {
		s.fail(w, r, err)
		return
	}
	http.Redirect(w, r, "/sign-in", http.StatusSeeOther)
}

func (s *Server) render(w http.ResponseWriter, r *http.Request, name string, view any) {
	var out bytes.Buffer
	if err := s.templates.ExecuteTemplate(&out, name, view); err != nil {
		s.fail(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	_, _ = out.WriteTo(w) // the reader may have left
}

// A reply is what a script gets for an edit.
type reply struct {
	Said     string    `json:"said,omitempty"`     // what was done, in words
	Page     int64     `json:"page,omitempty"`     // to go to
	Error    string    `json:"error,omitempty"`    // why nothing was done
	Conflict bool      `json:"conflict,omitempty"` // about one field, with Mine and Their
	Mine     string    `json:"mine,omitempty"`     // of a conflict
	Their    string    `json:"theirs,omitempty"`
	Facts    *tryFacts `json:"facts,omitempty"`
	Hits     []hit     `json:"hits,omitempty"`
	Sides    *sides    `json:"sides,omitempty"`
	URL      string    `json:"url,omitempty"`
	IDs      []int64   `json:"ids,omitempty"`
	Draft    int64     `json:"draft,omitempty"`
	Menu     int64     `json:"menu,omitempty"`
	Item     string    `json:"item,omitempty"`
	Chip     string    `json:"chip,omitempty"` // on the map of a layout
	Keys     []string  `json:"keys,omitempty"` // of items
}

func (s *Server) say(w http.ResponseWriter, status int, what reply) {
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(what) // the reader may have left
}

// refuse turns an error into the sentence that the person reads; anything unforeseen is logged and said as such.
func (s *Server) refuse(w http.ResponseWriter, r *http.Request, err error) {
	var refusal *edit.Refusal
	var conflict *edit.Conflict
	switch {
	case errors.As(err, &refusal):
		s.say(w, http.StatusUnprocessableEntity, reply{Error: refusal.Sentence})
	case errors.As(err, &conflict):
		s.say(
			w,
			http.StatusConflict,
			reply{
				Error:    conflict.Sentence,
				Conflict: conflict.Field != "",
				Mine:     conflict.Mine,
				Their:    conflict.Theirs,
			},
		)
	case errors.Is(err, errForbidden):
		line := store.AuditLine{
			What:    "refused",
			Account: who(r).Login,
			Client:  s.settings.Clients.Of(r),
			About:   r.URL.Path,
		}
		if err := s.store.AuditFailure(r.Context(), line); err != nil {
			s.log.Error("audit", "error", err)
		}
		s.say(w, http.StatusForbidden, reply{Error: err.Error()})
	case errors.Is(err, store.ErrNoUndo), errors.Is(err, store.ErrNoRedo), errors.Is(err, store.ErrNothing),
		errors.Is(err, store.ErrHeld), errors.Is(err, store.ErrReview), errors.Is(err, store.ErrNoDraft):
		s.say(w, http.StatusConflict, reply{Error: sentence(err)})
	case errors.Is(err, store.ErrNoPublication):
		s.say(w, http.StatusNotFound, reply{Error: sentence(err)})
	default:
		status, sentence := s.unforeseen(w, r, err)
		s.say(w, status, reply{Error: sentence})
	}
}

// unforeseen logs a fault that is none of the person's, and gives what they are told of it.
func (s *Server) unforeseen(w http.ResponseWriter, r *http.Request, err error) (status int, sentence string) {
	request := middleware.GetReqID(r.Context())
	s.log.Error("a workbench request failed", "path", gate.Path(r), "request", request, "error", err)
	if store.IsDown(err) {
		w.Header().Set("Retry-After", retryAfter)
		return http.StatusServiceUnavailable, down
	}
	return http.StatusInternalServerError, broken
}

// What is said while the database does not answer: nobody is signed out by that, and no edit is half done.
const (
	down = "The database does not answer at this moment. Nothing was changed, and you are still signed in; " +
		"try again in half a minute."
	retryAfter = "30"
	broken     = "Something went wrong on our side and nothing was changed. Try again in a moment."
)

func (s *Server) fail(w http.ResponseWriter, r *http.Request, err error) {
	var refusal *edit.Refusal
	switch {
	case errors.Is(err, store.ErrNoDraft):
		http.Error(w, sentence(err), http.StatusNotFound)
		return
	case errors.Is(err, errForbidden):
		http.Error(w, err.Error(), http.StatusForbidden)
		return
	case errors.As(err, &refusal):
		http.Error(w, refusal.Sentence, http.StatusUnprocessableEntity)
		return
	}
	status, sentence := s.unforeseen(w, r, err)
	http.Error(w, sentence, status)
}

// sentence writes an error as a person reads it.
func sentence(err error) string {
	return say.Capital(err.Error()) + "."
}
