package public

import (
	"bytes"
	"context"
	"crypto/rand"
	"html/template"
	"net/http"
	"strings"

	"vineladder/internal/web/gate"
)

// What a page says to somebody who is signed in is the same for all who hold the same roles, but for their name. It is
// made once for them, with a mark where the name stands.

// nameMark stands for the name of who is signed in. Nobody is called so, and nothing in it is escaped.
var nameMark = "name" + strings.ToLower(rand.Text())

// A shared page is what stands between the names.
type shared struct {
	parts [][]byte
	size  int
}

// nameEscaped writes a name as pages do.
var nameEscaped = template.Must(template.New("").Parse("{{.}}"))

func (p *shared) to(name string) []byte {
	var escaped bytes.Buffer
	_ = nameEscaped.Execute(&escaped, name) // into memory
	return bytes.Join(p.parts, escaped.Bytes())
}

// sharedKey tells pages of one generation apart: by what is kept for such visitors, and the path.
type sharedKey struct {
	kept *Kept
	path string
}

// forMembers gives the page that all who hold the same roles get, made anew if nobody asked for it before; nil for what
// is not shared: what is no page, hangs on a query string, or is one person's.
func (s *Server) forMembers(ctx context.Context, q Request, g *generation) (*shared, error) {
	if !q.Lens.SignedIn || q.Lost || q.Query != "" || q.Base != "" {
		return nil, nil
	}
	key := sharedKey{q.Kept, q.Path}
	if found, known := g.shared.Load(key); known {
		return found.(*shared), nil
	}
	q.Name, q.Login = nameMark, ""
	answer, err := s.Answer(ctx, q)
	if err != nil || answer.Status != http.StatusOK || answer.Cache != cachePrivate || answer.Type != htmlWords {
		return nil, err
	}
	made := &shared{parts: bytes.Split(answer.Body, []byte(nameMark)), size: len(answer.Body)}
	if g.size.Add(int64(made.size+len(q.Path)+256)) <= cacheLimit {
		g.shared.Store(key, made)
	}
	return made, nil
}

// writeShared sends a shared page to somebody.
func (s *Server) writeShared(w http.ResponseWriter, page *shared, name string) {
	h := w.Header()
	h["Cache-Control"], h["Content-Type"] = privately, htmlType
	_, _ = w.Write(page.to(name)) // the visitor may have left
}

var (
	privately    = []string{cachePrivate}
	varyByCookie = []string{"Cookie"}
)

// member has the short way of who is signed in, as the instance remembers, and asks for what others of their roles were
// given before. It says whether that was so.
func (s *Server) member(w http.ResponseWriter, r *http.Request) bool {
	if r.URL.RawQuery != "" {
		return false
	}
	account, known := s.sessions.Recalled(r)
	if !known {
		return false
	}
	published, now := s.store.Published(), s.now()
	g := s.cache.at(published, now)
	found, kept := g.shared.Load(sharedKey{g.keptOf(published.Site, account.Roles), r.URL.Path})
	if !kept {
		return false
	}
	gate.Headers(w.Header(), policy, "'none'")
	gate.Strict(w.Header(), s.settings.Secure)
	w.Header()["Vary"] = varyByCookie
	s.packed(w, r, found.(*shared), account.Name)
	return true
}

// packed sends a shared page packed, to who takes that.
func (s *Server) packed(w http.ResponseWriter, r *http.Request, page *shared, name string) {
	if !gate.TakesGzip(r.Header.Get("Accept-Encoding")) {
		s.writeShared(w, page, name)
		return
	}
	s.packs.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), sharedPage{}, func(w http.ResponseWriter) {
		s.writeShared(w, page, name)
	})))
}

type sharedPage struct{}

// packing is what packs shared pages.
func packing() http.Handler {
	return gate.Packed(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		r.Context().Value(sharedPage{}).(func(http.ResponseWriter))(w)
	}))
}
