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
const fieldPlace Field = "place"

func pageTie(id site.PageID) tie           { return tie{sort: "page", id: int64(id)} }
func menuTie(id site.MenuID) tie           { return tie{sort: "menu", id: int64(id)} }
func itemTie(id site.EntryID) tie          { return tie{sort: "item", id: int64(id)} }
func blockTie(id site.BlockID) tie         { return tie{sort: "block", id: int64(id)} }
func placementTie(id site.PlacementID) tie { return tie{sort: "place", id: int64(id)} }

func (t tie) of(field Field) tie { t.field = field; return t }

// makes gives the things that are there only if the operation is done.
func makes(op Op) []tie {
	switch o := op.(type) {
	case OpMake:
		return []tie{pageTie(o.Page)}
	case OpMakeMenu:
		return append(made(o.Entries), menuTie(o.Menu))
	case OpPutEntries:
		return made(o.Entries)
	case OpMakeBlock:
		return []tie{blockTie(o.Block)}
	case OpPutPlacement:
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
	case OpMake:
		return []tie{pageTie(o.Place.Parent)}
	case OpMove:
		return []tie{pageTie(o.Page), pageTie(o.To.Parent)}
	case OpPutEntries:
		ties := []tie{menuTie(o.Gap.Menu), itemTie(o.Gap.Parent)}
		for _, form := range o.Entries {
			ties = append(ties, named(form.Fields)...)
		}
		return ties
	case OpTakeEntry:
		return []tie{itemTie(o.Entry)}
	case OpEditEntry:
		return append(namedAnew(o.Fields), itemTie(o.Entry))
	case OpMoveEntry:
		return []tie{itemTie(o.Entry), menuTie(o.To.Menu), itemTie(o.To.Parent)}
	case OpTakeMenu:
		return []tie{menuTie(o.Was.Menu)}
	case OpEditMenu:
		return []tie{menuTie(o.Menu)}
	case OpMakeBlock:
		return named(o.Fields)
	case OpTakeBlock:
		return []tie{blockTie(o.Was.Block)}
	case OpEditBlock:
		return append(namedAnew(o.Fields), blockTie(o.Block))
	case OpPutPlacement:
		return append(named(o.Fields), blockTie(o.Block))
	case OpTakePlacement:
		return []tie{placementTie(o.Placement)}
	case OpEditPlacement:
		return append(namedAnew(o.Fields), placementTie(o.Placement))
	case OpMovePlacement:
		return []tie{placementTie(o.Placement)}
	case OpEditSettings:
		return chosenPages(o.Fields)
	}
	return []tie{pageTie(op.Subject())}
}

// sets gives the fields and places that the operation sets on things that were there before.
func sets(op Op) []tie {
	switch o := op.(type) {
	case OpEdit:
		return fieldTies(pageTie(o.Page), o.Fields)
	case OpMove:
		return []tie{pageTie(o.Page).of(fieldPlace)}
	case OpEditEntry:
		return fieldTies(itemTie(o.Entry), o.Fields)
	case OpMoveEntry:
		return []tie{itemTie(o.Entry).of(fieldPlace)}
	case OpEditMenu:
		return fieldTies(menuTie(o.Menu), o.Fields)
	case OpEditBlock:
		return fieldTies(blockTie(o.Block), o.Fields)
	case OpEditPlacement:
		return fieldTies(placementTie(o.Placement), o.Fields)
	case OpMovePlacement:
		return []tie{placementTie(o.Placement).of(fieldPlace)}
	case OpEditSettings:
		return fieldTies(tie{sort: "settings"}, o.Fields)
	case OpEditKind:
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
	for _, field := range []Field{FieldShows, FieldPiece, FieldWhere, FieldExcept} {
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
		case FieldNotFoundPage, FieldNoAccessPage, FieldSignInPage, FieldClosedPage:
			id, _ := strconv.ParseInt(c.New, 10, 64)
			ties = append(ties, pageTie(site.PageID(id)))
		}
	}
	return ties
}
