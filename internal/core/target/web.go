package target

import (
	"net/url"
	"slices"

	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// web leads to an address elsewhere.
func web() Type {
	t := typeOf[site.ItemWeb]("web", "Web address")
	t.Set = true
	t.Write = func(shows site.Shows) string { return shows.(site.ItemWeb).Address }
	t.Read = func(_ *site.Site, text string) (site.Shows, error) {
		return site.ItemWeb{Address: text}, CheckWeb(text)
	}
	t.Line = func(shows site.Shows) Line { return Line{Href: shows.(site.ItemWeb).Address} }
	return t
}

// CheckWeb says whether an outside address has the form of one; nobody looks whether it answers.
func CheckWeb(text string) error {
	u, err := url.Parse(text)
	switch {
	case err != nil, u.Scheme == "", u.Opaque == "" && u.Host == "":
		return typed.Refuse("“%s” is not a web address; write it as https://host/path.", text)
	case !slices.Contains([]string{"http", "https", "mailto", "tel"}, u.Scheme):
		return typed.Refuse("A web address starts with https, http, mailto or tel, not with “%s”.", u.Scheme)
	}
	return nil
}
