package edit

import (
	"regexp"
	"strconv"

	"vineladder/internal/core/site"
)

// A tie is a thing, or one field or the place of a thing, as operations depend on each other by it.
type tie struct {
	sort  string // "page", "menu", "item", "block", "place", "settings", "kind"
	id    int64
	key   string // of a kind
	field Field  // "": the thing itself
}

// placeField stands for where a thing stands.
const placeField Field = "place"

func pageTie(id site.PageID) tie           { return tie{sort: "page", id: int64(id)} }
func menuTie(id site.MenuID) tie           { return tie{sort: "menu", id: int64(id)} }
func itemTie(id site.EntryID) tie          { return tie{sort: "item", id: int64(id)} }
func blockTie(id site.BlockID) tie         { return tie{sort: "block", id: int64(id)} }
func placementTie(id site.PlacementID) tie { return tie{sort: "place", id: int64(id)} }

func (t tie) of(field Field) tie { t.field = field; return t }

// makes gives the things that are there only if the operation is done.
func makes(op Op) []tie {
	switch o := op.(type) {
	case Make:
		return []tie{pageTie(o.Page)}
	case MakeMenu:
		return append(made(o.Entries), menuTie(o.Menu))
	case PutEntries:
		return made(o.Entries)
	case MakeBlock:
		return []tie{blockTie(o.Block)}
	case PutPlacement:
		return []tie{placementTie(o.Placement)}
	}
	return nil
}

func made(entries []EntryForm) []tie {
	ties := make([]tie, len(entries))
	for i, form := range entries {
		ties[i] = itemTie(form.ID)
	}
	return ties
}

// uses gives the things that must be there for the operation.
func uses(op Op) []tie {
	switch o := op.(type) {
	case Make:
		return []tie{pageTie(o.Place.Parent)}
	case Move:
		return []tie{pageTie(o.Page), pageTie(o.To.Parent)}
	case PutEntries:
		ties := []tie{menuTie(o.Gap.Menu), itemTie(o.Gap.Parent)}
		for _, form := range o.Entries {
			ties = append(ties, named(form.Fields)...)
		}
		return ties
	case TakeEntry:
		return []tie{itemTie(o.Entry)}
	case EditEntry:
		return append(namedAnew(o.Fields), itemTie(o.Entry))
	case MoveEntry:
		return []tie{itemTie(o.Entry), menuTie(o.To.Menu), itemTie(o.To.Parent)}
	case TakeMenu:
		return []tie{menuTie(o.Was.Menu)}
	case EditMenu:
		return []tie{menuTie(o.Menu)}
	case MakeBlock:
		return named(o.Fields)
	case TakeBlock:
		return []tie{blockTie(o.Was.Block)}
	case EditBlock:
		return append(namedAnew(o.Fields), blockTie(o.Block))
	case PutPlacement:
		return append(named(o.Fields), blockTie(o.Block))
	case TakePlacement:
		return []tie{placementTie(o.Placement)}
	case EditPlacement:
		return append(namedAnew(o.Fields), placementTie(o.Placement))
	case MovePlacement:
		return []tie{placementTie(o.Placement)}
	case EditSettings:
		return chosenPages(o.Fields)
	}
	return []tie{pageTie(op.Subject())}
}

// sets gives the fields and places that the operation sets on things that were there before.
func sets(op Op) []tie {
	switch o := op.(type) {
	case Edit:
		return fieldTies(pageTie(o.Page), o.Fields)
	case Move:
		return []tie{pageTie(o.Page).of(placeField)}
	case EditEntry:
		return fieldTies(itemTie(o.Entry), o.Fields)
	case MoveEntry:
		return []tie{itemTie(o.Entry).of(placeField)}
	case EditMenu:
		return fieldTies(menuTie(o.Menu), o.Fields)
	case EditBlock:
		return fieldTies(blockTie(o.Block), o.Fields)
	case EditPlacement:
		return fieldTies(placementTie(o.Placement), o.Fields)
	case MovePlacement:
		return []tie{placementTie(o.Placement).of(placeField)}
	case EditSettings:
		return fieldTies(tie{sort: "settings"}, o.Fields)
	case EditKind:
		return fieldTies(tie{sort: "kind", key: o.Kind}, o.Fields)
	}
	return nil
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
var naming = regexp.MustCompile(`\b(page|branch|menu):(\d+)`)

func named(fields map[Field]string) []tie {
	var ties []tie
	for _, field := range []Field{Shows, Piece, Where, Except} {
		for _, found := range naming.FindAllStringSubmatch(fields[field], -1) {
			id, _ := strconv.ParseInt(found[2], 10, 64)
			if found[1] == "menu" {
				ties = append(ties, menuTie(site.MenuID(id)))
			} else {
				ties = append(ties, pageTie(site.PageID(id)))
			}
		}
	}
	return ties
}

func namedAnew(changes []FieldChange) []tie {
	fields := map[Field]string{}
	for _, c := range changes {
		fields[c.Field] = c.New
	}
	return named(fields)
}

// chosenPages gives the pages that settings choose.
func chosenPages(changes []FieldChange) []tie {
	var ties []tie
	for _, c := range changes {
		switch c.Field {
		case NotFoundPage, NoAccessPage, SignInPage, ClosedPage:
			id, _ := strconv.ParseInt(c.New, 10, 64)
			ties = append(ties, pageTie(site.PageID(id)))
		}
	}
	return ties
}
