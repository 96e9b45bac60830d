package piece

import (
	"vineladder/internal/core/listing"
	"vineladder/internal/core/site"
)

// ofPages lists the pages that answer a question.
func ofPages() Type {
	t := typeOf[site.BlockListing]("listing", "Listing")
	t.Set = true
	t.Write = func(p site.Piece) string { return listing.Text(p.(site.BlockListing)) }
	t.Read = func(s *site.Site, text string) (site.Piece, error) {
		q, err := listing.Read(s, text)
		if err != nil {
			return nil, err
		}
		return q, nil
	}
	return t
}
