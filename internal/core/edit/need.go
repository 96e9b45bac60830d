package edit

import (
	"cmp"
	"slices"

	"vineladder/internal/core/site"
)

// A Need is a right that an operation asks for, and on what.
type Need struct {
	Action site.Action
	On     Thing
}

// A Thing is what rights are held on, and what operations are tied by.
type Thing struct {
	Family Family
	ID     int64
	Key    string // of a region, a page type or a detail
}

// A Family is one sort of things.
type Family string

const (
	FamilySite      Family = "site"
	FamilyPage      Family = "page"
	FamilyMenu      Family = "menu"
	FamilyEntry     Family = "item"
	FamilyBlock     Family = "block"
	FamilyPlacement Family = "place"
	FamilyRegion    Family = "region"
	FamilyKind      Family = "kind"
	FamilyDetail    Family = "detail"
)

// SiteThing is the whole site.
var SiteThing = Thing{Family: FamilySite}

// PageThing is a page; without a number it is the site, of which the home page is made.
func PageThing(id site.PageID) Thing {
	if id == 0 {
		return SiteThing
	}
	return Thing{Family: FamilyPage, ID: int64(id)}
}

// MenuThing is a menu.
func MenuThing(id site.MenuID) Thing { return Thing{Family: FamilyMenu, ID: int64(id)} }

// RegionThing is a region of the theme.
func RegionThing(key string) Thing { return Thing{Family: FamilyRegion, Key: key} }

// menuOf is the menu that has an entry; the site if none has.
func menuOf(s *site.Site, id site.EntryID) Thing {
	if m, err := holder(s, id); err == nil {
		return MenuThing(m.ID)
	}
	return SiteThing
}

// regionOf is the region in which a placement stands; the site if it stands nowhere.
func regionOf(s *site.Site, id site.PlacementID) Thing {
	if p := s.Placement(id); p != nil {
		return RegionThing(p.Region)
	}
	return SiteThing
}

// placing asks for the right on every region in which a block stands; on the site if it stands in none.
func placing(s *site.Site, id site.BlockID) []Need {
	var needed []Need
	for _, p := range s.PlacementsOf(id) {
		needed = with(needed, Need{site.ActionPlace, RegionThing(p.Region)})
	}
	if needed == nil {
		return []Need{{site.ActionPlace, SiteThing}}
	}
	return needed
}

// needsOf asks for what changes of fields need on a thing, where they say nothing what the thing itself needs.
// own is asked in any case; "": only where a field needs it.
func needsOf[T any](on Thing, own site.Action, fields family[T], changes []FieldChange) []Need {
	var needed []Need
	if own != "" {
		needed = with(needed, Need{own, on})
	}
	for _, change := range changes {
		if c, err := fields.column(change.Field); err == nil && !change.Derived {
			needed = with(needed, Need{cmp.Or(c.fact().Needs, own, site.ActionArrange), on})
		}
	}
	return needed
}

// needsOfForms asks for what entries need that are put into a menu.
func needsOfForms(on Thing, forms []EntryForm) []Need {
	audience := func(form EntryForm) bool { return form.Fields[FieldAudience] != "" }
	return withAudience(Need{site.ActionLink, on}, slices.ContainsFunc(forms, audience))
}

// withAudience asks for a right, and with it for the one to admit where an audience is set.
func withAudience(need Need, audience bool) []Need {
	if audience {
		return []Need{need, {site.ActionAdmit, need.On}}
	}
	return []Need{need}
}

func with(needed []Need, need Need) []Need {
	if slices.Contains(needed, need) {
		return needed
	}
	return append(needed, need)
}
