package public

import (
	"errors"
	"fmt"
	"mime"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"time"

	"github.com/go-chi/chi/v5"

	"vineladder/internal/blob"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A File is what of a file an answer sends.
type File struct {
	site.Bytes
	Name  string
	Width int // in which a picture is sent; 0: its own
}

// widthKey asks for a picture in another width; versionKey says which version a page meant, so that no old one is
// shown.
const (
	widthKey   = "w"
	versionKey = "v"
)

// file answers with a file (rules 12.3), a picture in the width that is asked for, if there is that one.
func (r *Renderer) file(q Request, p *site.Page) Response {
	made := &File{Bytes: p.BytesOf(), Name: p.FileName()}
	query, _ := url.ParseQuery(q.Query) // what can't be read asks for nothing
	if width, _ := strconv.Atoi(query.Get(widthKey)); slices.Contains(made.Widths(), width) {
		made.Width = width
	}
	tag := made.Hash
	if made.Width > 0 {
		tag += fmt.Sprintf("-%d", made.Width)
	}
	answer := Response{Status: http.StatusOK, Type: made.Type, Tag: `"` + tag + `"`, File: made}
	if reach.KeptOut(q.Site, p.ID) {
		answer.Robots = notIndexed
	}
	return answer
}

// shown are the types of files that browsers show inside a page's origin without running anything; all others are
// downloads.
var shown = []string{
	"application/pdf", "image/png", "image/jpeg", "text/plain", "audio/mpeg", "video/mp4",
}

// filePolicy keeps a file from running anything or asking for anything in the site's name.
const filePolicy = "default-src 'none'; style-src 'unsafe-inline'; sandbox"

// answerFile sends a file, or what stands in its place for who does not get it. What was uploaded before files were
// pages is sent as it was: to everyone.
func (s *Server) answerFile(w http.ResponseWriter, r *http.Request) {
	q := s.request(r, s.store.Published(), s.now())
	answer, err := s.Answer(r.Context(), q)
	name := chi.URLParam(r, "name")
	switch {
	case err != nil:
		s.fail(w, r, err)
	case answer.File == nil && answer.Status == http.StatusNotFound && s.settings.Files.Dir.Has(name) && !s.wasFile(q):
		s.settings.Files.Dir.Serve(w, r, name)
	default:
		s.sendAny(w, r, answer)
	}
}

// sendAny sends an answer of either sort.
func (s *Server) sendAny(w http.ResponseWriter, r *http.Request, answer Response) {
	if answer.File == nil {
		s.send(w, answer)
		return
	}
	bytes, err := s.settings.Files.Bytes.Reader(r.Context(), answer.File.Hash, answer.File.Width)
	if err != nil && !errors.Is(err, blob.ErrGone) {
		s.fail(w, r, err)
		return
	}
	h := w.Header()
	if err != nil { // they were taken away at once, after a wrong upload
		h.Set("Cache-Control", "no-store")
		http.Error(w, "This file was withdrawn.", http.StatusGone)
		return
	}
	defer bytes.Close()
	if h.Get("Cache-Control") == "" {
		h.Set("Cache-Control", answer.Cache)
	}
	h.Set("ETag", answer.Tag)
	if answer.Robots != "" {
		h.Set("X-Robots-Tag", answer.Robots)
	}
	h.Set("Vary", "Cookie")
	h.Set("Content-Type", answer.Type)
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Content-Security-Policy", filePolicy+"; frame-ancestors "+s.framing(r))
	if !slices.Contains(shown, answer.Type) {
		h.Set(
			"Content-Disposition",
			mime.FormatMediaType("attachment", map[string]string{"filename": answer.File.Name}),
		)
	}
	http.ServeContent(w, r, "", time.Time{}, bytes)
}

// framing says who may show a file in a frame: the workbench its previews.
func (s *Server) framing(r *http.Request) string {
	if isProof(r) {
		return s.settings.Workbench
	}
	return "'none'"
}

// wasFile says whether an address is or was that of a file that is a page, so that no older one of the name is meant.
func (s *Server) wasFile(q Request) bool {
	for _, fixed := range q.Site.Fixed() {
		if fixed.Address == q.Path {
			return true
		}
	}
	return false
}
