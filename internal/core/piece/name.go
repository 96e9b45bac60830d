package piece

import "vineladder/internal/core/site"

// name shows the name of the site and its mark.
func name() Type {
	t := typeOf[site.BlockName]("name", "Site name and mark")
	t.Landmark, t.Untitled = false, true
	t.Sketch = func(s *site.Site, _ site.Piece, home bool) Sketch {
		words := "the name of the site, “" + s.Settings().Name + "”"
		if home {
			words += ", as the current page"
		}
		return Sketch{Other: words}
	}
	return t
}
