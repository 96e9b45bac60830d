package piece

import "vineladder/internal/core/site"

// children lists the pages inside the current one that menus would show.
func children() Type { return typeOf[site.BlockChildren]("children", "Pages inside") }
