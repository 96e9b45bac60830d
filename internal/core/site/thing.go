package site

import (
	"strconv"
	"strings"
)

// A Thing is what rights are held on, and what operations are tied by.
type Thing struct {
	Family Family
	ID     int64
	Key    string // of a region, a page type or a detail; of a page: the type as which it is looked at, if not its own
}

// A Family is one sort of things.
type Family string

const (
	FamilySite      Family = "site"
	FamilyPage      Family = "page" // of a right: with all below it
	FamilyMenu      Family = "menu"
	FamilyEntry     Family = "item"
	FamilyBlock     Family = "block"
	FamilyPlacement Family = "place"
	FamilyRegion    Family = "region"
	FamilyKind      Family = "kind"
	FamilyDetail    Family = "detail"
	FamilySet       Family = "set" // of conditions
	FamilyRole      Family = "role"
	FamilyAny       Family = "any" // of a need: held by whom the right is given on anything
)

// SiteThing is the whole site; AnyThing any part of it.
var (
	SiteThing = Thing{Family: FamilySite}
	AnyThing  = Thing{Family: FamilyAny}
)

// PageThing is a page; without a number it is the site, of which the home page is made.
func PageThing(id PageID) Thing {
	if id == 0 {
		return SiteThing
	}
	return Thing{Family: FamilyPage, ID: int64(id)}
}

// MenuThing is a menu, RegionThing a region of the theme, KindThing the pages of a type.
func MenuThing(id MenuID) Thing { return Thing{Family: FamilyMenu, ID: int64(id)} }

func RegionThing(key string) Thing { return Thing{Family: FamilyRegion, Key: key} }

func KindThing(key string) Thing { return Thing{Family: FamilyKind, Key: key} }

// String is a thing in its written form, as in “page:12” or “region:header”.
func (t Thing) String() string {
	switch {
	case t.ID != 0:
		return string(t.Family) + ":" + strconv.FormatInt(t.ID, 10)
	case t.Key != "":
		return string(t.Family) + ":" + t.Key
	}
	return string(t.Family)
}

// ParseThing reads what String wrote of what rights can be given on: the site, a page, a menu, a region, a page type.
// ok is false for what is none of these.
func ParseThing(text string) (made Thing, ok bool) {
	family, rest, _ := strings.Cut(text, ":")
	made.Family = Family(family)
	switch made.Family {
	case FamilySite:
		return made, rest == ""
	case FamilyPage, FamilyMenu:
		id, err := strconv.ParseInt(rest, 10, 64)
		made.ID = id
		return made, err == nil && id > 0 && strconv.FormatInt(id, 10) == rest
	case FamilyRegion, FamilyKind:
		made.Key = rest
		return made, rest != "" && !strings.ContainsAny(rest, "|: \n")
	}
	return made, false
}
