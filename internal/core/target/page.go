package target

import (
	"fmt"
	"strings"

	"vineladder/internal/core/listing"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// page leads to a page, or to what it lists as visitors narrow it: label and address follow it.
func page() Type {
	t := typeOf[site.ItemPage]("page", "Page")
	t.Set = true
	t.Write = func(shows site.Shows) string {
		to := shows.(site.ItemPage)
		return strings.TrimSuffix(fmt.Sprintf("%d:%s", to.Page, to.Narrow), ":")
	}
	t.Read = func(s *site.Site, text string) (site.Shows, error) {
		number, narrow, _ := strings.Cut(text, ":")
		id, err := known(s, number)
		if err != nil || narrow == "" {
			return site.ItemPage{Page: id}, err
		}
		narrow, err = listing.ParseNarrowed(s, id, narrow)
		return site.ItemPage{Page: id, Narrow: narrow}, err
	}
	t.Reached = func(s *site.Site, panel *reach.Panel, shows site.Shows) reach.Mask {
		to := shows.(site.ItemPage)
		reached := panel.At(s, to.Page).Reachable()
		if to.Narrow == "" || reached == 0 {
			return reached
		}
		return reached & listing.Offered(s, to.Page, to.Narrow, panel)
	}
	t.Query = func(shows site.Shows) string { return shows.(site.ItemPage).Narrow }
	return t
}
