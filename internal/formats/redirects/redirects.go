// Package redirects writes the addresses that lead elsewhere, for servers and people who keep them outside: as a table
// (CSV, RFC 4180) and as a map file for nginx.
package redirects

import (
	"bufio"
	"encoding/csv"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"vineladder/internal/core/address"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A Redirect is an address that is nobody's own: it leads to another, or answers “gone”.
type Redirect struct {
	From   string
	To     string // "" for gone
	Status int    // 308 or 410
}

// Of gives every short and old address of a site, sorted. Where one leads, visitors who are not signed in must be able
// to follow: the address of a page that they can't reach is not told.
func Of(s *site.Site, now time.Time) []Redirect {
	lens := reach.Lens{At: now}
	var all []Redirect
	visit := func(p *site.Page) bool {
		for _, lead := range address.Leads(s, p.ID, now) {
			if lead.By == address.ByAddress {
				continue
			}
			found := address.Resolve(s, lead.Address, now)
			switch {
			case found.Gone && reach.AdmittedBefore(s, found.Page, lens):
				all = append(all, Redirect{lead.Address, "", http.StatusGone})
			case !found.Gone && reach.Ask(s, found.Page, lens) == reach.Sees:
				all = append(all, Redirect{lead.Address, address.Of(s, found.Page), http.StatusPermanentRedirect})
			}
		}
		return true
	}
	s.Walk(s.Home(), visit)
	for _, top := range s.Binned() {
		s.Walk(top, visit)
	}
	slices.SortFunc(all, func(a, b Redirect) int { return strings.Compare(a.From, b.From) })
	return slices.CompactFunc(all, func(a, b Redirect) bool { return a.From == b.From })
}

// WriteCSV writes a table with the columns from, to, status, and CRLF line ends.
func WriteCSV(w io.Writer, all []Redirect) error {
	out := csv.NewWriter(w)
	out.UseCRLF = true
	if err := out.Write([]string{"from", "to", "status"}); err != nil {
		return err
	}
	for _, r := range all {
		if err := out.Write([]string{r.From, r.To, strconv.Itoa(r.Status)}); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}

// WriteNginx writes two maps, to be included in the http block. Addresses are matched whole, after nginx has decoded
// and normalised them. In the server block then stand:
//
//	if ($ladder_gone) { return 410; }
//	if ($ladder_to) { return 308 $ladder_to$is_args$args; }
func WriteNginx(w io.Writer, all []Redirect) error {
	out := bufio.NewWriter(w)
	fmt.Fprint(
		out,
		"# Made by “vineladder export redirects”. In the server block:\n#   if ($ladder_gone) { return 410; }\n#   if "+
			"($ladder_to) { return 308 $ladder_to$is_args$args; }\n",
	)
	for _, m := range []struct {
		name string
		is   func(Redirect) string
	}{
		{"$ladder_to", func(r Redirect) string { return r.To }},
		{"$ladder_gone", func(r Redirect) string { return map[bool]string{true: "1"}[r.Status == http.StatusGone] }},
	} {
		fmt.Fprintf(out, "map $uri %s {\n    default \"\";\n", m.name)
		for _, r := range all {
			if value := m.is(r); value != "" {
				fmt.Fprintf(out, "    %s %s;\n", quote(r.From), quote(value))
			}
		}
		fmt.Fprint(out, "}\n")
	}
	return out.Flush()
}

// quote writes a parameter of nginx. Addresses in normal form hold neither quotes nor backslashes; the first character
// keeps one from being read as a regular expression.
func quote(address string) string { return `"` + strings.ReplaceAll(address, `"`, `\"`) + `"` }
