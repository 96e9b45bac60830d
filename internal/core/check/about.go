package check

import (
	"slices"

	"vineladder/internal/core/site"
)

// About gives the problems of one thing, without looking through those of all others.
func (f *Found) About(on site.Thing) []Problem {
	found := about(on, f.far, nil)
	for _, at := range filedAt(f.look.Site, on) {
		found = about(on, f.near[at], found)
	}
	slices.SortFunc(found, compare)
	return found
}

// About gives the problems of one thing after the step.
func (s *Step) About(on site.Thing) []Problem {
	far := s.after.far
	if !s.after.Far {
		far = s.before.far
	}
	found := about(on, far, nil)
	for _, at := range filedAt(s.after.look.Site, on) {
		if s.whole || s.looked[at] {
			found = about(on, s.after.near[at], found)
		} else {
			found = about(on, s.before.near[at], found)
		}
	}
	slices.SortFunc(found, compare)
	return found
}

func about(on site.Thing, problems, found []Problem) []Problem {
	for _, p := range problems {
		if p.On == on {
			found = append(found, p)
		}
	}
	return found
}

// filedAt gives what has to be looked at to find the problems of a thing.
func filedAt(s *site.Site, on site.Thing) []subject {
	switch on.Family {
	case site.FamilyPage:
		at := []subject{pageSubject(site.PageID(on.ID))}
		if p := s.Page(site.PageID(on.ID)); p != nil {
			at = append(at, childrenSubject(p.Parent))
		}
		return at
	case site.FamilyEntry:
		for i := range s.Menus() {
			if s.Menus()[i].Entry(site.EntryID(on.ID)) != nil {
				return []subject{{on: site.MenuThing(s.Menus()[i].ID)}}
			}
		}
		return nil
	case site.FamilyPlacement:
		if p := s.Placement(site.PlacementID(on.ID)); p != nil {
			return []subject{{on: blockThing(p.Block)}}
		}
		return nil
	}
	return []subject{{on: on}}
}

// About looks at what concerns one thing and nothing else, without the checks of the whole site.
func (l *Look) About(on site.Thing) (found []Problem) {
	f := &Found{look: l, near: map[subject][]Problem{}}
	for _, at := range filedAt(l.Site, on) {
		switch p := l.Site.Page(site.PageID(at.on.ID)); {
		case at.on.Family != site.FamilyPage:
			f.furniture() // of which there is little
		case p == nil || !l.Site.InTree(p.ID):
		case at.children:
			f.file(at, l.children(p))
		default:
			f.file(at, l.page(p, l.standing(p.ID)))
		}
	}
	return f.About(on)
}
