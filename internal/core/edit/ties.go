package edit

import (
	"regexp"
	"slices"
	"strconv"

	"vineladder/internal/core/site"
)

// A tie is a thing, or one field or the place of a thing, as operations depend on each other by it.
type tie struct {
	Thing
	field Field // "": the thing itself
}

// Ties are by what an operation hangs together with others.
type ties struct {
	makes []tie // things that are there only if it is done
	uses  []tie // things that must be there for it
	sets  []tie // fields and places that it sets on things that were there before
}

func makes(op Op) []tie { return op.ties().makes }
func uses(op Op) []tie  { return op.ties().uses }
func sets(op Op) []tie  { return op.ties().sets }

// placeField stands for where a thing stands.
const fieldPlace Field = "place"

func pageTie(id site.PageID) tie  { return tie{Thing: Thing{Family: site.FamilyPage, ID: int64(id)}} }
func menuTie(id site.MenuID) tie  { return tie{Thing: site.MenuThing(id)} }
func itemTie(id site.EntryID) tie { return tie{Thing: Thing{Family: site.FamilyEntry, ID: int64(id)}} }

func blockTie(id site.BlockID) tie { return tie{Thing: Thing{Family: site.FamilyBlock, ID: int64(id)}} }

func placementTie(id site.PlacementID) tie {
	return tie{Thing: Thing{Family: site.FamilyPlacement, ID: int64(id)}}
}
func setTie(id site.SetID) tie { return tie{Thing: Thing{Family: site.FamilySet, ID: int64(id)}} }

func detailTie(key string) tie { return tie{Thing: Thing{Family: site.FamilyDetail, Key: key}} }
func kindTie(key string) tie   { return tie{Thing: Thing{Family: site.FamilyKind, Key: key}} }

// settingsTie is the settings, of which there are one.
var settingsTie = tie{Thing: site.SiteThing}

func (t tie) of(field Field) tie { t.field = field; return t }

func made(entries []EntryForm) []tie {
	ties := make([]tie, len(entries))
	for i, form := range entries {
		ties[i] = itemTie(form.ID)
	}
	return ties
}

func fieldTies(thing tie, fields []FieldChange) []tie {
	ties := make([]tie, len(fields))
	for i, c := range fields {
		ties[i] = thing.of(c.Field)
	}
	return ties
}

// naming finds the pages and menus that a field's text names: what an item leads to, what a block shows, where it
// stands.
var naming = regexp.MustCompile(`\b(page|branch|topic|menu):(\d+)|\bof=(\d+)|\bt(\d+)=(\d+)`)

// named gives what the fields of a thing name.
func (f family[Thing]) named(fields map[Field]string) []tie {
	var ties []tie
	for field, text := range fields {
		if c, err := f.column(field); err != nil || !c.fact().Has(Naming) {
			continue
		}
		for _, found := range naming.FindAllStringSubmatch(text, -1) {
			for _, number := range found[2:] {
				id, err := strconv.ParseInt(number, 10, 64)
				switch {
				case err != nil: // a part that is not there
				case found[1] == "menu":
					ties = append(ties, menuTie(site.MenuID(id)))
				default:
					ties = append(ties, pageTie(site.PageID(id)))
				}
			}
		}
	}
	return ties
}

// namedAnew gives what changed fields name from now on.
func (f family[Thing]) namedAnew(changes []FieldChange) []tie {
	fields := map[Field]string{}
	for _, c := range changes {
		fields[c.Field] = c.New
	}
	return f.named(fields)
}

// chosenIn gives the pages that the fields of a thing that is made choose.
func (f family[Thing]) chosenIn(fields map[Field]string) []tie {
	var changes []FieldChange
	for field, value := range fields {
		changes = append(changes, FieldChange{Field: field, New: value})
	}
	return f.chosen(changes)
}

// chosen gives the pages that changed fields choose.
func (f family[Thing]) chosen(changes []FieldChange) []tie {
	var ties []tie
	for _, c := range changes {
		if slices.Contains(f.with(Choosing), c.Field) {
			id, _ := strconv.ParseInt(c.New, 10, 64)
			ties = append(ties, pageTie(site.PageID(id)))
		}
	}
	return ties
}
