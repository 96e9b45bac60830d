package piece

import "vineladder/internal/core/site"

// text shows sanitised HTML.
func text() Type {
	t := typeOf[site.BlockText]("text", "Text")
	hash := func(p site.Piece) string { return p.(site.BlockText).Text }
	t.Set = true
	t.Write = hash
	t.Read = func(_ *site.Site, text string) (site.Piece, error) { return site.BlockText{Text: text}, nil }
	t.Full = func(p site.Piece, _ *site.Page) bool { return hash(p) != "" }
	t.Says = func(p site.Piece) string { return "text " + hash(p) }
	return t
}
