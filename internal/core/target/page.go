package target

import (
	"strconv"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// page leads to a page: label and address follow it.
func page() Type {
	t := typeOf[site.ItemPage]("page", "Page")
	t.Set = true
	t.Write = func(shows site.Shows) string { return strconv.FormatInt(int64(shows.(site.ItemPage).Page), 10) }
	t.Read = func(s *site.Site, text string) (site.Shows, error) {
		id, err := known(s, text)
		return site.ItemPage{Page: id}, err
	}
	t.Reached = func(s *site.Site, panel *reach.Panel, shows site.Shows) reach.Mask {
		return panel.At(s, shows.(site.ItemPage).Page).Reachable()
	}
	return t
}
