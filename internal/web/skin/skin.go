// Package skin serves the style sheets that come from data: the theme's grids and pairs of colours, and the free pairs
// that badges use. The public site and the workbench share them. Their addresses change with what is in them, so that
// browsers may keep them for ever.
package skin

import (
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

	"vineladder/internal/core/colour"
	"vineladder/internal/core/site"
	"vineladder/internal/theme"
)

// Mount answers the addresses of the style sheets; of gives the theme.
func Mount(r chi.Router, of func() *site.Theme) {
	r.Get("/assets/theme/{name}", func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path != ThemePath(of()) {
			http.NotFound(w, r)
			return
		}
		send(w, theme.Style(of()))
	})
	r.Get("/assets/pairs/{names}", pairs)
}

// ThemePath is the address of the theme's grids and pairs of colours.
func ThemePath(of *site.Theme) string {
	sum := sha256.Sum256([]byte(theme.Style(of)))
	return "/assets/theme/" + hex.EncodeToString(sum[:6]) + ".css"
}

// PairsPath is the address of the style sheet of the free pairs of colours that the site's badges use; "" if they use
// none. The pairs stand in it, so that it works for drafts as for what is public.
func PairsPath(s *site.Site) string {
	var names []string
	for i := range s.Menus() {
		for _, e := range s.Menus()[i].Entries {
			if pair, free := colour.ParsePair(e.Badge.Pair); free && e.Badge.Text != "" {
				names = append(names, pair.Name())
			}
		}
	}
	if len(names) == 0 {
		return ""
	}
	slices.Sort(names)
	return "/assets/pairs/" + strings.Join(slices.Compact(names), ".") + ".css"
}

// Pair names the class of a badge's pair of colours, the theme's or a free one; "" without one.
func Pair(written string) string {
	if pair, free := colour.ParsePair(written); free {
		return "pair-" + pair.Name()
	}
	if written == "" {
		return ""
	}
	return "pair-" + written
}

// pairLimit bounds the pairs of colours that one style sheet is asked for.
const pairLimit = 500

func pairs(w http.ResponseWriter, r *http.Request) {
	names := strings.Split(strings.TrimSuffix(chi.URLParam(r, "names"), ".css"), ".")
	var css strings.Builder
	for _, name := range names[:min(len(names), pairLimit)] {
		pair, ok := colour.Named(name)
		if !ok {
			http.NotFound(w, r)
			return
		}
		fmt.Fprintf(&css, ".pair-%s{color:%s;background:%s}\n", pair.Name(), pair.Text, pair.Back)
	}
	send(w, css.String())
}

func send(w http.ResponseWriter, css string) {
	w.Header().Set("Content-Type", "text/css; charset=utf-8")
	w.Header().Set("Cache-Control", "public, max-age=31536000, immutable")
	_, _ = w.Write([]byte(css)) // the visitor may have left
}
