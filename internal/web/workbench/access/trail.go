package access

import (
	"encoding/csv"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"vineladder/internal/core/site"
	"vineladder/internal/store"
	"vineladder/internal/web/workbench/desk"
)

// How many entries of the trail stand on the screen, and how many are given out at once.
const (
	trailShown    = 200
	trailExported = 100_000
)

// A trailView is the audit trail: who signed in, what was refused, what was done with accounts.
type trailView struct {
	view
	Lines  []store.AuditLine
	Whats  []string // sorts of entries that there are
	What   string
	Person string
	Since  string
	More   bool
	Export string
}

func (s *Area) trail(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	if answer := d.May(string(site.ActionAdmit)); !answer.Yes {
		return fmt.Errorf("%w: %s", desk.ErrForbidden, answer.Why)
	}
	asked := store.AuditQuery{
		What: r.FormValue("what"), Account: strings.TrimSpace(r.FormValue("login")), Limit: trailShown + 1,
	}
	if day, err := time.ParseInLocation(time.DateOnly, r.FormValue("since"), d.Site.Settings().Zone); err == nil {
		asked.Since = day
	}
	if r.FormValue("format") == "csv" {
		return s.exportTrail(w, r, asked)
	}
	base, err := s.view(r, d, "trail")
	if err != nil {
		return err
	}
	v := trailView{view: base, What: asked.What, Person: asked.Account}
	if !asked.Since.IsZero() {
		v.Since = asked.Since.Format(time.DateOnly)
	}
	if v.Lines, v.Whats, err = s.Store.AuditAsked(r.Context(), asked); err != nil {
		return err
	}
	if v.More = len(v.Lines) > trailShown; v.More {
		v.Lines = v.Lines[:trailShown]
	}
	more := url.Values{"what": {v.What}, "login": {v.Person}, "since": {v.Since}}
	v.Export = v.Link("/access/trail", "format", "csv") + "&" + more.Encode()
	s.show(w, r, v)
	return nil
}

// exportTrail gives the trail as CSV (RFC 4180), the newest first.
func (s *Area) exportTrail(w http.ResponseWriter, r *http.Request, asked store.AuditQuery) error {
	asked.Limit = trailExported
	lines, _, err := s.Store.AuditAsked(r.Context(), asked)
	if err != nil {
		return err
	}
	w.Header().Set("Content-Type", "text/csv; charset=utf-8")
	w.Header().Set("Content-Disposition", `attachment; filename="trail.csv"`)
	out := csv.NewWriter(w)
	rows := [][]string{{"at", "what", "account", "client", "about", "times"}}
	for _, l := range lines {
		rows = append(rows, []string{
			l.At.UTC().Format(time.RFC3339), l.What, plain(l.Account), l.Client, plain(l.About), strconv.Itoa(l.Times),
		})
	}
	return out.WriteAll(rows)
}

// plain keeps a spreadsheet from taking words for a formula (OWASP, CSV Injection).
func plain(words string) string {
	if words != "" && strings.ContainsRune("=+-@\t\r", rune(words[0])) {
		return "'" + words
	}
	return words
}
