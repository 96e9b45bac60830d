package piece

import (
	"vineladder/internal/core/address"
	"vineladder/internal/core/site"
)

// search shows a field for words to find, which leads to the page that the settings choose for searching. It shows to
// those who reach that page, and to nobody while none is chosen.
func search() Type {
	t := typeOf[site.BlockSearch]("search", "Search field")
	t.Sketch = func(s *site.Site, _ site.Piece, _ bool) Sketch {
		return Sketch{Other: "a field for words to find, which leads to " + address.Of(s, s.Settings().Search)}
	}
	return t
}
