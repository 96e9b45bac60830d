package public

import (
	"context"
	"database/sql"
	"errors"
	"fmt"
	"hash/fnv"
	"net/http"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"vineladder/internal/core/address"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
	"vineladder/internal/web/gate"
)

// A Proof is what a preview's address says: whose draft, or the published site, through which lens, until when. It is
// signed, so the preview needs no cookie.
type Proof struct {
	By       int64     `json:"b"`           // the account that asked, which may read no more here than elsewhere
	Epoch    int       `json:"n,omitempty"` // of the account: a preview ends with its sessions
	Session  string    `json:"k,omitempty"` // and with the one in which it was asked for
	Link     int64     `json:"l,omitempty"` // or, where somebody without an account looks, with that link
	Draft    int64     `json:"d,omitempty"` // 0: the published site
	Then     int64     `json:"w,omitempty"` // the site as it was at that revision; 0: today
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
	by, note, err := s.asker(r.Context(), proof)
	if errors.Is(err, gate.ErrToken) {
		http.Error(w, gate.ErrToken.Error(), http.StatusGone)
		return
	}
	if err != nil {
		s.fail(w, r, err)
		return
	}
	on, err := s.proven(r.Context(), proof)
	if err != nil {
		s.fail(w, r, err)
		return
	}
	base := "/proof/" + token
	q := Request{
		Site: on, Path: strings.TrimPrefix(r.URL.EscapedPath(),
			base), Query: r.URL.RawQuery, Base: base, Frame: s.settings.Workbench, Note: note,
		Lens: reach.Lens{At: proof.At},
	}
	if proof.Link != 0 {
		q.Lens.At, q.Frame = s.now(), ""
	}
	if proof.SignedIn { // what the roles include and may is as the Site that is shown has it
		q.Lens.Visitor = reach.As(on, proof.Roles)
	}
	if proof.Outline {
		q.Edit = &Editing{Workbench: s.settings.Workbench, Draft: proof.Draft, Outline: true, Top: true}
	}
	if !s.mayRead(on, by, q) {
		http.Error(w, "This page is not for you: you may order it, and not read it.", http.StatusForbidden)
		return
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
	s.sendAny(w, r, answer)
}

// proven gives the Site that a preview shows.
func (s *Server) proven(ctx context.Context, proof Proof) (*site.Site, error) {
	switch {
	case proof.Then != 0:
		past, err := s.store.PastAt(ctx, proof.Then)
		if err != nil {
			return nil, err
		}
		return past.Site, nil
	case proof.Draft != 0:
		draft, err := s.store.Draft(ctx, proof.Draft)
		if err != nil {
			return nil, err
		}
		return draft.After(s.now()), nil
	}
	return s.store.Published().Site, nil
}

// asker gives the account that a preview is for, with what is said above it; gate.ErrToken if it may not look any more.
func (s *Server) asker(ctx context.Context, proof Proof) (by store.Account, note string, err error) {
	if proof.Link != 0 {
		return s.shower(ctx, proof.Link)
	}
	by, err = s.inSession(ctx, proof)
	return by, "", err
}

// shower gives who shows a draft by a link, than whom nobody reads more there, and to whom until when.
func (s *Server) shower(ctx context.Context, link int64) (by store.Account, note string, err error) {
	shown, err := s.store.DraftLink(ctx, link)
	if errors.Is(err, sql.ErrNoRows) {
		return by, "", gate.ErrToken
	}
	if err != nil {
		return by, "", err
	}
	zone := s.store.Published().Site.Settings().Zone
	note = fmt.Sprintf("For %s until %s: the draft “%s” of %s, which is not public.", shown.Reader,
		shown.Ends.In(zone).Format("2 January 2006, 15:04"), shown.Name, shown.By)
	by, err = s.store.Account(ctx, shown.Account)
	if errors.Is(err, sql.ErrNoRows) || errors.Is(err, store.ErrDisabled) {
		err = gate.ErrToken
	}
	return by, note, err
}

func (s *Server) inSession(ctx context.Context, proof Proof) (store.Account, error) {
	goesOn, err := s.store.HasSession(ctx, proof.Session)
	if err != nil {
		return store.Account{}, err
	}
	by, err := s.store.Account(ctx, proof.By)
	switch {
	case errors.Is(err, sql.ErrNoRows), errors.Is(err, store.ErrDisabled):
		return by, gate.ErrToken
	case err == nil && (!goesOn || by.Epoch != proof.Epoch):
		return by, gate.ErrToken
	}
	return by, err
}

// mayRead says whether an account may read the page that a preview shows.
func (s *Server) mayRead(on *site.Site, by store.Account, q Request) bool {
	normal, err := address.Normal(q.Path)
	if err != nil {
		return true
	}
	found := address.Resolve(on, normal, q.Lens.At)
	if found.Page == 0 {
		return true
	}
	public := s.store.Published().Site
	return grant.Reads(on, by.Roles, found.Page).Yes &&
		(public.Page(found.Page) == nil || grant.Reads(public, by.Roles, found.Page).Yes)
}

func etag(g *generation, answer Response) string {
	sum := fnv.New64a()
	sum.Write(answer.Body)
	return fmt.Sprintf(`"%d-%x"`, g.revision, sum.Sum64())
}
