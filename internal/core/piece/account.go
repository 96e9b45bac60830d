package piece

import "vineladder/internal/core/site"

// account shows who is signed in, and the way in or out.
func account() Type {
	t := typeOf[site.BlockAccount]("account", "Account")
	t.Landmark, t.Untitled = false, true
	t.Sketch = func(*site.Site, site.Piece, bool) Sketch {
		return Sketch{Other: "who is signed in, and the way in or out"}
	}
	return t
}
