package desk

import (
	"net/http"
	"strconv"

	"vineladder/internal/core/count"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
)

// A Wait is something that waits for a person, with the screen where it is settled.
type Wait struct{ Words, Link string }

// Names in the session: whether the next screen is the first one after sign-in, and how many edits waited at sign-out.
const (
	welcome = "welcome"
	left    = "left"
)

// Waits says what waits for the person who signs in: edits that are not public, drafts that are planned or were held
// back, and the next moment at which pages come or go by themselves.
func (s *Server) Waits(d *Desk, drafts []store.DraftLine, asked []*store.Approval) []Wait {
	var waits []Wait
	for _, a := range asked {
		link := d.Link("/tree", "draft", strconv.FormatInt(a.Draft, 10)) + "&show=review"
		waits = append(waits, Wait{a.Name + " asks for approval: " + askedWords(a), link})
	}
	for _, line := range drafts {
		at := Wait{Link: d.Link("/drafts", "draft", strconv.FormatInt(line.ID, 10))}
		edits := count.Of(line.Edits, "edit", "edits")
		switch {
		case line.Answer != "":
			at.Words = "“" + Short(line.Name) + "” was sent back: " + Short(line.Answer)
		case line.Trouble != "":
			at.Words = "“" + Short(line.Name) + "” was not published: " + line.Trouble
		case line.Planned.Valid:
			when := LongMoment(d.Site, line.Planned.Time)
			at.Words = edits + " in “" + Short(line.Name) + "” will be public on " + when
		case line.Edits > 0:
			at.Words = edits + " in “" + Short(line.Name) + "” not public yet"
		default:
			continue
		}
		waits = append(waits, at)
	}
	if n := unready(d); n > 0 {
		is := count.Of(n, "page is", "pages are")
		days := count.Of(d.Draft.Base.Site.Settings().ReadyDays, "day", "days")
		waits = append(
			waits,
			Wait{is + " only for us, untouched for more than " + days, d.Link("/tree", "ask", "editors")},
		)
	}
	if ticks := s.Strip(d); len(ticks) > 0 {
		waits = append(waits, Wait{ticks[0].When + ": " + ticks[0].What, d.Link("/tree", "at", ticks[0].At)})
	}
	return waits
}

// unready counts the public pages that are only for who edits them, untouched for longer than the settings say, as far
// as the person may edit them.
func unready(d *Desk) (n int) {
	on := d.Draft.Base.Site
	before := d.Now.AddDate(0, 0, -on.Settings().ReadyDays)
	h := grant.Holding(on, d.Who.Roles)
	on.Walk(on.Home(), func(p *site.Page) bool {
		if p.Audience == site.AudienceEditors && p.Changed.Before(before) &&
			h.Through(site.ActionEdit, site.PageThing(p.ID)) != nil {
			n++
		}
		return true
	})
	return n
}

// askedWords says what somebody asks for.
func askedWords(a *store.Approval) string {
	if a.Note == "" {
		return "their draft is ready"
	}
	return "“" + Short(a.Note) + "”"
}

// leave ends a person's session, and has the page that follows say what of theirs is not public.
func (s *Server) leave(r *http.Request) error {
	edits := 0
	account, ok, err := s.Sessions.Account(r.Context())
	if err != nil {
		return err
	}
	if ok {
		drafts, err := s.Store.DraftsOf(r.Context(), account.ID)
		if err != nil {
			return err
		}
		for _, line := range drafts {
			if line.Owner == account.ID && !line.Planned.Valid {
				edits += line.Edits
			}
		}
	}
	s.streams.signOut(account.ID, s.Sessions.Token(r.Context()))
	if err := s.Sessions.Destroy(r.Context()); err != nil {
		return err
	}
	if edits > 0 {
		s.Sessions.Put(r.Context(), left, edits)
	}
	return nil
}
