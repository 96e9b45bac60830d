package desk

import (
	"cmp"
	"context"
	"net/http"
	"time"

	"vineladder/internal/core/grant"
	"vineladder/internal/core/site"
)

// OwnerNames gives a function that names owners of pages; it asks for the people among some owners once.
func (s *Server) OwnerNames(ctx context.Context, on *site.Site, owners ...site.Owner) (func(site.Owner) string, error) {
	var logins []string
	for _, owner := range owners {
		if login, is := owner.Person(); is {
			logins = append(logins, login)
		}
	}
	names := map[string]string{}
	if len(logins) > 0 {
		var err error
		if names, err = s.Store.NamesOf(ctx, logins...); err != nil {
			return nil, err
		}
	}
	return func(owner site.Owner) string {
		if key, is := owner.Role(); is {
			return on.RoleName(key)
		}
		login, _ := owner.Person()
		return cmp.Or(names[login], login, "Nobody")
	}, nil
}

// owners answers with the people who can look after pages, as choices.
func (s *Server) owners(w http.ResponseWriter, r *http.Request, d *Desk) error {
	hits, err := s.Carers(r.Context(), d)
	if err != nil {
		return err
	}
	s.Say(w, http.StatusOK, Reply{Hits: hits})
	return nil
}

// Carers gives the people who can look after pages: those who work here.
func (s *Server) Carers(ctx context.Context, d *Desk) ([]Hit, error) {
	people, err := s.Store.People(ctx)
	if err != nil {
		return nil, err
	}
	var hits []Hit
	for _, person := range people {
		if grant.Works(d.Draft.Base.Site, person.Roles) {
			hits = append(hits, Hit{Key: string(site.PersonOwner(person.Login)), Label: person.Name})
		}
	}
	return hits, nil
}

// DayOf says a day in the site's zone.
func (d *Desk) DayOf(at time.Time) string {
	return at.In(d.Site.Settings().Zone).Format("2 January 2006")
}
