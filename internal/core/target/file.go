package target

import (
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// file leads to a file, by its name in the files directory.
func file() Type {
	t := typeOf[site.ItemFile]("file", "File")
	t.Set = true
	t.Write = func(shows site.Shows) string { return shows.(site.ItemFile).File }
	t.Read = func(s *site.Site, text string) (site.Shows, error) {
		name, err := typed.File(s, text)
		return site.ItemFile{File: name}, err
	}
	t.Line = func(shows site.Shows) Line { return Line{Href: "/files/" + shows.(site.ItemFile).File} }
	return t
}
