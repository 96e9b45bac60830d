package target

import (
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// web leads to an address elsewhere.
func web() Type {
	t := typeOf[site.ItemWeb]("web", "Web address")
	t.Set = true
	t.Write = func(shows site.Shows) string { return shows.(site.ItemWeb).Address }
	t.Read = func(_ *site.Site, text string) (site.Shows, error) {
		address, err := typed.Web(text)
		return site.ItemWeb{Address: address}, err
	}
	t.Line = func(shows site.Shows) Line { return Line{Href: shows.(site.ItemWeb).Address} }
	return t
}
