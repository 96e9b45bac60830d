package edit

import (
	"cmp"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/site"
)

// A Need is a right that an operation asks for, and on what.
type Need struct {
	Action site.Action
	On     Thing
	// Or is what it suffices to hold the right on instead, on all of them; none: nothing else will do.
	Or []Thing
}

// A Thing is what rights are held on, and what operations are tied by.
type Thing = site.Thing

// menuOf is the menu that has an entry; the site if none has.
func menuOf(s *site.Site, id site.EntryID) Thing {
	if m, err := holder(s, id); err == nil {
		return site.MenuThing(m.ID)
	}
	return site.SiteThing
}

// regionOf is the region in which a placement stands; the site if it stands nowhere.
func regionOf(s *site.Site, id site.PlacementID) Thing {
	if p := s.Placement(id); p != nil {
		return site.RegionThing(p.Region)
	}
	return site.SiteThing
}

// standing asks for the right to place blocks where a placement stands: in its region, or on all branches to which its
// conditions keep it (rules 8.1).
func standing(s *site.Site, id site.PlacementID) Need {
	need := Need{Action: site.ActionPlace, On: regionOf(s, id)}
	if p := s.Placement(id); p != nil {
		need.Or = within(placementFields.value(p, FieldWhere))
	}
	return need
}

// within gives the pages to which conditions keep a placement, as they are written; none if they let it stand on others
// too.
func within(where string) []Thing {
	var pages []Thing
	for _, found := range keptTo.FindAllStringSubmatch(where, -1) {
		id, err := strconv.ParseInt(found[1], 10, 64)
		if err != nil {
			return nil
		}
		pages = append(pages, site.PageThing(site.PageID(id)))
	}
	if where == "" || len(pages) != strings.Count(where, "|")+1 {
		return nil
	}
	return pages
}

// keptTo finds the conditions that keep a placement to some pages.
var keptTo = regexp.MustCompile(`(?:^|\|)(?:page|branch):(\d+)`)

// both gives the things of two lists; none if one of them is empty.
func both(a, b []Thing) []Thing {
	if len(a) == 0 || len(b) == 0 {
		return nil
	}
	return slices.Concat(a, b)
}

// placing asks for the right on every region in which a block stands, or on the branches to which it is kept there; on
// anything if it stands in none.
func placing(s *site.Site, id site.BlockID) []Need {
	var needed []Need
	for _, p := range s.PlacementsOf(id) {
		needed = with(needed, standing(s, p.ID))
	}
	if needed == nil {
		return []Need{{Action: site.ActionPlace, On: site.AnyThing}}
	}
	return needed
}

// needsOf asks for what changes of fields need on a thing, where they say nothing what the thing itself needs.
// own is asked in any case; "": only where a field needs it.
func needsOf[T any](on Thing, own site.Action, fields family[T], changes []FieldChange) []Need {
	var needed []Need
	if own != "" {
		needed = with(needed, Need{Action: own, On: on})
	}
	for _, change := range changes {
		if c, err := fields.column(change.Field); err == nil && !change.Derived {
			needed = with(needed, Need{Action: cmp.Or(c.fact().Needs, own, site.ActionArrange), On: on})
		}
	}
	return needed
}

// needsOfForms asks for what entries need that are put into a menu.
func needsOfForms(on Thing, forms []EntryForm) []Need {
	audience := func(form EntryForm) bool { return form.Fields[FieldAudience] != "" }
	return withAudience(Need{Action: site.ActionLink, On: on}, slices.ContainsFunc(forms, audience))
}

// withAudience asks for a right, and with it for the one to admit where an audience is set.
func withAudience(need Need, audience bool) []Need {
	if audience {
		return []Need{need, {Action: site.ActionAdmit, On: need.On, Or: need.Or}}
	}
	return []Need{need}
}

func with(needed []Need, need Need) []Need {
	same := func(other Need) bool {
		return other.Action == need.Action && other.On == need.On && slices.Equal(other.Or, need.Or)
	}
	if slices.ContainsFunc(needed, same) {
		return needed
	}
	return append(needed, need)
}
