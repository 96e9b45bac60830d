package public

import (
	"fmt"
	"hash/fnv"
	"net/http"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"vineladder/internal/core/reach"
	"vineladder/internal/web/gate"
)

// A Proof is what a preview's address says: whose draft, or the published site, through which lens, until when. It is
// signed, so the preview needs no cookie.
type Proof struct {
	Draft    int64     `json:"d,omitempty"` // 0: the published site
	SignedIn bool      `json:"s,omitempty"`
	Roles    []string  `json:"r,omitempty"`
	At       time.Time `json:"t"`
	Expires  time.Time `json:"e"`
	Outline  bool      `json:"o,omitempty"` // the regions and blocks are outlined, and lead to their settings
}

// proof shows the real page of a draft: the same renderer on the draft's Site.
func (s *Server) proof(w http.ResponseWriter, r *http.Request) {
	h := w.Header()
	h.Set("Cache-Control", "private, no-store")
	h.Set("X-Robots-Tag", "noindex")
	token := chi.URLParam(r, "token")
	var proof Proof
	if err := s.signer.Open(token, &proof); err != nil || s.now().After(proof.Expires) {
		http.Error(w, gate.ErrToken.Error(), http.StatusGone)
		return
	}
	on := s.store.Published().Site
	if proof.Draft != 0 {
		draft, err := s.store.Draft(r.Context(), proof.Draft)
		if err != nil {
			s.fail(w, r, err)
			return
		}
		on = draft.After(s.now())
	}
	base := "/proof/" + token
	q := Request{Site: on, Path: strings.TrimPrefix(r.URL.EscapedPath(), base), Query: r.URL.RawQuery, Base: base, Frame: s.settings.Workbench,
		Lens: reach.Lens{Visitor: reach.Visitor{SignedIn: proof.SignedIn, Roles: proof.Roles}, At: proof.At}}
	if proof.Outline {
		q.Edit = &Editing{Workbench: s.settings.Workbench, Draft: proof.Draft, Outline: true, Top: true}
	}
	if proof.SignedIn {
		q.Name = "this visitor"
	}
	answer, err := s.Answer(r.Context(), q)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	answer.Cache = cachePrivate
	s.send(w, answer)
}

func etag(g *generation, answer Response) string {
	sum := fnv.New64a()
	sum.Write(answer.Body)
	return fmt.Sprintf(`"%d-%x"`, g.revision, sum.Sum64())
}
