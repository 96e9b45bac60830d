package desk

import (
	"bytes"
	"context"
	"encoding/json"
	"net/http"
	"net/url"
	"slices"
	"strconv"

	"github.com/go-chi/chi/v5"
)

// carryHeader names the screen whose parts the answer to an edit shall carry, as path and query: so what an edit
// changes comes back with the edit, and nobody asks twice.
const carryHeader = "X-Carry"

// carriers are the screens that are made of parts.
var carriers = []string{"/tree", "/topics", "/menus", "/layouts", "/settings"}

// carry has the answer to an edit carry the parts of the screen as they are after it. They are asked of the same
// handler that answers for the screen, with the rights of who asks; where it has none to give, the answer goes as it
// is.
func (s *Server) carry(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		screen, err := url.Parse(r.Header.Get(carryHeader))
		whole, inside := r.Context().Value(insideKey{}).(http.Handler)
		if r.Method != http.MethodPost || err != nil || !inside || !slices.Contains(carriers, screen.Path) {
			next.ServeHTTP(w, r)
			return
		}
		done := newHeld(w.Header())
		next.ServeHTTP(done, r)
		var said Reply
		if done.status == http.StatusOK && json.Unmarshal(done.body.Bytes(), &said) == nil && said.Error == "" {
			said.carry(whole, r, screen)
			done.body.Reset()
			_ = json.NewEncoder(&done.body).Encode(said) // a buffer takes all
		}
		w.WriteHeader(done.status)
		_, _ = done.body.WriteTo(w) // the reader may have left
	})
}

type insideKey struct{}

// Inside lets handlers ask others of the workbench, as an edit does that carries the parts of a screen.
func Inside(whole http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		whole.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), insideKey{}, whole)))
	})
}

// carry asks for the parts of a screen, as it is after what was done: at the page or item that the person goes to.
func (a *Reply) carry(inside http.Handler, r *http.Request, screen *url.URL) {
	query := screen.Query()
	goes := func(name, to string) {
		if to != "" && query.Get(name) != to {
			query.Set(name, to)
			query.Del("from")
		}
	}
	if a.Page != 0 {
		goes("page", strconv.FormatInt(a.Page, 10))
	}
	if a.Draft != 0 {
		goes("draft", strconv.FormatInt(a.Draft, 10))
	}
	goes("item", a.Item)
	goes("chip", a.Chip)
	asked := r.Clone(context.WithValue(r.Context(), chi.RouteCtxKey, chi.NewRouteContext()))
	asked.Method, asked.Body, asked.Form, asked.PostForm = http.MethodGet, http.NoBody, nil, nil
	asked.URL = &url.URL{Path: screen.Path, RawQuery: query.Encode()}
	asked.RequestURI, asked.ContentLength = asked.URL.String(), 0
	asked.Header = http.Header{"X-Part": {"all"}, "Cookie": r.Header["Cookie"]}
	parts := newHeld(http.Header{})
	inside.ServeHTTP(parts, asked)
	if parts.status == http.StatusOK {
		a.Parts, a.At = parts.body.String(), query.Encode()
	}
}

// A held answer is kept until it is known what goes with it.
type held struct {
	header http.Header
	status int
	body   bytes.Buffer
}

func newHeld(header http.Header) *held { return &held{header: header, status: http.StatusOK} }

func (h *held) Header() http.Header         { return h.header }
func (h *held) WriteHeader(status int)      { h.status = status }
func (h *held) Write(p []byte) (int, error) { return h.body.Write(p) }
