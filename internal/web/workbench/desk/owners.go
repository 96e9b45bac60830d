package desk

import (
	"strings"
	"time"

	"vineladder/internal/core/count"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
)

// OwnerName names an owner of pages among the people that there are.
func OwnerName(s *site.Site, people []store.Account, owner site.Owner) string {
	if key, is := owner.Role(); is {
		return s.RoleName(key)
	}
	login, _ := owner.Person()
	for _, person := range people {
		if person.Login == login {
			return person.Name
		}
	}
	return login
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
