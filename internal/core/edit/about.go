package edit

import (
	"vineladder/internal/core/site"
	"vineladder/internal/core/target"
)

// About names what an operation is about, as in “Menu item” and “Fares”; a page is named alone.
type About struct{ What, Name string }

func aboutPage(s *site.Site, id site.PageID) About {
	if p := s.Page(id); p != nil {
		return About{Name: p.Label}
	}
	return About{What: "A page"}
}

func aboutEntry(s *site.Site, id site.EntryID, form EntryForm) About {
	if m, err := holder(s, id); err == nil {
		return About{"Menu item", s.EntryLabel(m.Entry(id))}
	}
	label := form.Fields[FieldLabel]
	if shows, err := target.Parse(s, form.Fields[FieldShows]); label == "" && err == nil {
		label = s.EntryLabel(&site.Entry{Shows: shows})
	}
	return About{"Menu item", label}
}

func aboutMenu(s *site.Site, id site.MenuID, name string) About {
	if m := s.Menu(id); m != nil {
		name = m.Name
	}
	return About{"Menu", name}
}

func aboutBlock(s *site.Site, id site.BlockID, name string) About {
	if b := s.Block(id); b != nil {
		name = b.Name
	}
	return About{"Block", name}
}

func aboutPlace(s *site.Site, id site.PlacementID, of site.BlockID) About {
	if p := s.Placement(id); p != nil {
		of = p.Block
	}
	return About{"Place of block", aboutBlock(s, of, "").Name}
}
