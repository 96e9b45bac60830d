package consequence

import (
	"fmt"

	"vineladder/internal/core/count"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
)

// sayCovers says on how many pages each block appears and disappears, and where it stands there.
func (r *Report) sayCovers() []Sentence {
	kinds := []struct {
		says string
		mask func(PageChange) reach.Mask
	}{
		{"“%s” appears on %s%s for %s.", func(p PageChange) reach.Mask { return p.Gained }},
		{"“%s” disappears from %s%s for %s.", func(p PageChange) reach.Mask { return p.Lost }},
	}
	var said []Sentence
	for _, change := range r.Covers {
		for i, kind := range kinds {
			groups := map[reach.Mask][]site.PageID{}
			for _, page := range change.Pages {
				if m := kind.mask(page); m != 0 {
					groups[m] = append(groups[m], page.Page)
				}
			}
			for _, m := range masksByCount(groups) {
				where := ""
				if i == 0 {
					where = r.standsIn(change.Block)
				}
				text := fmt.Sprintf(kind.says, change.Block.Name, count.Pages(len(groups[m])), where, r.Words(m))
				said = append(said, Sentence{"block", text, r.labels(groups[m])})
			}
		}
	}
	return said
}

// standsIn says where a block with one placement stands: ", in the region “Left”, second of three,".
func (r *Report) standsIn(b *site.Block) string {
	placed := r.Is.PlacementsOf(b.ID)
	if len(placed) != 1 {
		return ""
	}
	area := r.Is.Theme().Region(placed[0].Region)
	if area == nil {
		return ""
	}
	position, of := region.Position(r.Is, placed[0])
	if of == 1 {
		return fmt.Sprintf(", alone in the region “%s”,", area.Name)
	}
	return fmt.Sprintf(", in the region “%s”, %s of %s,", area.Name, count.Ordinal(position), count.Cardinal(of))
}

func (r *Report) sayPlaces() []Sentence {
	var said []Sentence
	for _, place := range r.Places {
		if place.Block == nil {
			continue
		}
		said = append(said, Sentence{About: "block", Text: fmt.Sprintf("“%s” stands in the region “%s”, %s of %s.", place.Block.Name, place.Region, count.Ordinal(place.Position), count.Cardinal(place.Of))})
	}
	return said
}
