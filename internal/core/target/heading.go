package target

import "vineladder/internal/core/site"

// heading is a label without a link.
func heading() Type {
	t := typeOf[site.ItemHeading]("heading", "Heading")
	t.Line = func(site.Shows) Line { return Line{Heading: true} }
	return t
}
