package piece

import "vineladder/internal/core/site"

// breadcrumb shows the way from the home page, which has none.
func breadcrumb() Type {
	t := typeOf[site.BlockBreadcrumb]("breadcrumb", "Breadcrumb")
	t.Untitled = true
	t.Full = func(_ site.Piece, on *site.Page) bool { return on != nil && on.Parent != 0 }
	t.Sketch = func(*site.Site, site.Piece, bool) Sketch { return Sketch{Other: "the way from the home page"} }
	return t
}
