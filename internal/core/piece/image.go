package piece

import (
	"strings"

	"vineladder/internal/core/picture"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// image shows a picture of the files directory.
func image() Type {
	t := typeOf[site.BlockImage]("image", "Image")
	file := func(p site.Piece) string { return p.(site.BlockImage).File }
	t.Set = true
	t.Write = func(p site.Piece) string { return file(p) + ":" + p.(site.BlockImage).Alternative }
	t.Read = func(s *site.Site, text string) (site.Piece, error) {
		name, words, _ := strings.Cut(text, ":")
		name, err := typed.File(s, name)
		if err != nil {
			return nil, err
		}
		words, err = typed.Line(words, "The words in place of an image", wordsLimit)
		return site.BlockImage{File: name, Alternative: words}, err
	}
	t.Full = func(p site.Piece, _ *site.Page) bool { return file(p) != "" }
	t.Says = func(p site.Piece) string { return "picture " + file(p) }
	t.Sketch = func(s *site.Site, p site.Piece, _ bool) Sketch {
		shown, _, _ := picture.At(s, file(p), "", p.(site.BlockImage).Alternative)
		return Sketch{File: shown.Src, Alternative: shown.Alt}
	}
	return t
}

// wordsLimit bounds the words in place of an image, in characters.
const wordsLimit = 200
