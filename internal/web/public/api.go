package public

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"net/http"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"vineladder/internal/core/address"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/site"
)

// Levels of a menu that programs get unless they ask for others, and the most lines that they get.
const (
	apiLevels = 3
	apiLines  = 10_000
)

// An apiMenu is a menu as programs read it, resolved for who asks.
type apiMenu struct {
	Key   string    `json:"key"`
	Name  string    `json:"name"`
	Lines []apiLine `json:"lines"`
	More  bool      `json:"more,omitempty"` // lines were left out: there are more than fit
}

type apiLine struct {
	Label   string    `json:"label"`
	URL     string    `json:"url,omitempty"` // absolute, but for headings and sign-out
	Hint    string    `json:"hint,omitempty"`
	Heading bool      `json:"heading,omitempty"`
	Account string    `json:"account,omitempty"` // sign-in or sign-out
	NewTab  bool      `json:"new_tab,omitempty"`
	Badge   string    `json:"badge,omitempty"`
	Icon    string    `json:"icon,omitempty"`
	Lines   []apiLine `json:"lines,omitempty"`
}

// menuForPrograms answers with a menu that is marked for programs, as the visitor who asks would see it. “levels” says how many
// levels; a menu that is not marked is not there.
func (s *Server) menuForPrograms(w http.ResponseWriter, r *http.Request) {
	q := s.request(r, s.store.Published(), s.now())
	key, isJSON := strings.CutSuffix(chi.URLParam(r, "name"), ".json")
	m := q.Site.MenuByKey(key)
	levels, err := strconv.Atoi(r.URL.Query().Get("levels"))
	switch {
	case !isJSON || m == nil || !m.Programs || grant.ClosedTo(q.Site, q.Lens.Roles):
		apiFault(w, http.StatusNotFound, "There is no menu for programs at this address.")
		return
	case r.URL.Query().Get("levels") == "":
		levels = apiLevels
	case err != nil || levels < 1 || levels > 20:
		apiFault(w, http.StatusBadRequest, "“levels” is a number from 1 to 20.")
		return
	}
	reading := &reader{server: s, site: q.Site, menu: m, view: menu.NewView(q.Site, m, q.Lens), left: apiLines}
	made := apiMenu{Key: m.Key, Name: m.Name, Lines: reading.lines(reading.view.Top(), levels)}
	made.More = reading.left == 0
	var body bytes.Buffer
	out := json.NewEncoder(&body)
	out.SetEscapeHTML(false)
	if err := out.Encode(made); err != nil {
		s.fail(w, r, err)
		return
	}
	sum := sha256.Sum256(body.Bytes())
	h := w.Header()
	h.Set("ETag", `"`+hex.EncodeToString(sum[:12])+`"`)
	h.Set("Vary", "Cookie")
	h.Set("Cache-Control", "no-cache")
	if q.Lens.SignedIn {
		h.Set("Cache-Control", "private, no-cache")
	}
	h.Set("Content-Type", "application/json")
	if r.Header.Get("If-None-Match") == h.Get("ETag") {
		w.WriteHeader(http.StatusNotModified)
		return
	}
	_, _ = body.WriteTo(w) // the program may have left
}

func apiFault(w http.ResponseWriter, status int, words string) {
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(status)
	_ = json.NewEncoder(w).Encode(map[string]string{"error": words})
}

// A reader writes lines for programs until there are enough.
type reader struct {
	server *Server
	site   *site.Site
	menu   *site.Menu
	view   *menu.View
	left   int
}

func (r *reader) lines(lines []menu.Line, levels int) []apiLine {
	made := []apiLine{}
	for _, l := range lines {
		if r.left == 0 {
			break
		}
		r.left--
		line := apiLine{Label: l.Label}
		if l.Page != 0 {
			line.URL = r.server.settings.Origin + address.Of(r.site, l.Page)
		}
		if e := r.menu.Entry(l.Entry); l.Own && e != nil {
			r.dress(&line, e)
		}
		if levels > 1 {
			if below := r.view.Children(l); len(below) > 0 {
				line.Lines = r.lines(below, levels-1)
			}
		}
		made = append(made, line)
	}
	return made
}

func (r *reader) dress(line *apiLine, e *site.Entry) {
	line.Hint, line.NewTab, line.Badge, line.Icon = e.Hint, e.NewTab, e.Badge.Text, e.Icon
	switch to := e.Shows.(type) {
	case site.Heading:
		line.Heading = true
	case site.ToWeb:
		line.URL = to.Address
	case site.ToFile:
		line.URL = r.server.settings.Origin + "/files/" + to.File
	case site.ToAccount:
		line.Account = string(to.Does)
		if path := map[site.AccountLink]string{site.SignInLink: "/sign-in", site.RegisterLink: "/register", site.DetailsLink: "/my-details"}[to.Does]; path != "" {
			line.URL = r.server.settings.Origin + path
		}
	}
}
