package desk

import (
	"cmp"
	"context"
	"net/http"
	"strings"
	"time"

	"vineladder/internal/core/count"
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

// owners answers with the people who can look after pages, as choices: those who work here.
func (s *Server) owners(w http.ResponseWriter, r *http.Request, d *Desk) error {
	people, err := s.Store.People(r.Context())
	if err != nil {
		return err
	}
	var hits []Hit
	for _, person := range people {
		if grant.Works(d.Draft.Base.Site, person.Roles) {
			hits = append(hits, Hit{Key: string(site.PersonOwner(person.Login)), Label: person.Name})
		}
	}
	s.Say(w, http.StatusOK, Reply{Hits: hits})
	return nil
}

// EveryWords says after how long somebody looks at a page again.
func EveryWords(every site.ReviewEvery) string {
	switch months := every.Months(); {
	case every == site.ReviewNever:
		return "never"
	case months == 0:
		return "as above"
	case months%12 == 0:
		return strings.Replace("every "+count.Of(months/12, "year", "years"), "every 1 year", "every year", 1)
	default:
		return strings.Replace("every "+count.Of(months, "month", "months"), "every 1 month", "every month", 1)
	}
}

// DayOf says a day in the site's zone.
func (d *Desk) DayOf(at time.Time) string {
	return at.In(d.Site.Settings().Zone).Format("2 January 2006")
}
