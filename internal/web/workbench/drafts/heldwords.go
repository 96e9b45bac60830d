package drafts

import (
	"strings"
	"time"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/piece"
	"vineladder/internal/core/site"
	"vineladder/internal/core/target"
	"vineladder/internal/web/workbench/desk"
)

// aboutWords names what a held operation is about. What others took away is named by what the operation says of it.
func aboutWords(d *desk.Desk, op edit.Op) string {
	quoted := func(what, name string) string {
		if name == "" {
			return what
		}
		return what + " “" + desk.Short(name) + "”"
	}
	item := func(id site.EntryID, form edit.EntryForm) string {
		if e, _ := desk.Holding(d.Site, id); e != nil {
			return quoted("Menu item", d.Site.EntryLabel(e))
		}
		label := form.Fields[edit.FieldLabel]
		if shows, err := target.Parse(d.Site, form.Fields[edit.FieldShows]); label == "" && err == nil {
			label = d.Site.EntryLabel(&site.Entry{Shows: shows})
		}
		return quoted("Menu item", label)
	}
	menu := func(id site.MenuID, name string) string {
		if m := d.Site.Menu(id); m != nil {
			name = m.Name
		}
		return quoted("Menu", name)
	}
	block := func(id site.BlockID, name string) string {
		if b := d.Site.Block(id); b != nil {
			name = b.Name
		}
		return quoted("Block", name)
	}
	place := func(id site.PlacementID, of site.BlockID) string {
		if p := d.Site.Placement(id); p != nil {
			of = p.Block
		}
		return "Place of " + strings.ToLower(block(of, "")[:1]) + block(of, "")[1:]
	}
	switch o := op.(type) {
	case edit.OpPutEntries:
		return item(o.Entries[0].ID, o.Entries[0])
	case edit.OpTakeEntry:
		return item(o.Entry, edit.EntryForm{})
	case edit.OpEditEntry:
		return item(o.Entry, edit.EntryForm{})
	case edit.OpMoveEntry:
		return item(o.Entry, edit.EntryForm{})
	case edit.OpMakeMenu:
		return menu(o.Menu, o.Name)
	case edit.OpTakeMenu:
		return menu(o.Was.Menu, o.Was.Name)
	case edit.OpEditMenu:
		return menu(o.Menu, "")
	case edit.OpMakeBlock:
		return block(o.Block, o.Fields[edit.FieldName])
	case edit.OpTakeBlock:
		return block(o.Was.Block, o.Was.Fields[edit.FieldName])
	case edit.OpEditBlock:
		return block(o.Block, "")
	case edit.OpPutPlacement:
		return place(o.Placement, o.Block)
	case edit.OpTakePlacement:
		return place(o.Placement, o.Was.Block)
	case edit.OpEditPlacement:
		return place(o.Placement, 0)
	case edit.OpMovePlacement:
		return place(o.Placement, 0)
	case edit.OpEditSettings:
		return "Settings"
	case edit.OpEditKind:
		return quoted("Page type", d.Site.Kind(o.Kind).Name)
	}
	if p := d.Site.Page(op.Subject()); p != nil {
		return p.Label
	}
	if o, isMake := op.(edit.OpMake); isMake {
		for _, c := range o.Fields {
			if c.Field == edit.FieldLabel {
				return c.New
			}
		}
	}
	return "A page"
}

// valueWords says a field's value, as it is kept, in words.
func valueWords(d *desk.Desk, field edit.Field, value string) string {
	if value == "" {
		return "nothing"
	}
	switch field {
	case edit.FieldShows:
		if shows, err := target.Parse(d.Site, value); err == nil {
			return d.Leads(&site.Entry{Shows: shows})
		}
	case edit.FieldWhere, edit.FieldExcept:
		if spots, err := edit.ParseSpots(d.Site, value); err == nil {
			words := make([]string, len(spots))
			for i, spot := range spots {
				words[i] = d.SpotText(spot)
			}
			return strings.Join(words, "; ")
		}
	case edit.FieldPiece:
		if piece, err := piece.Parse(d.Site, value); err == nil {
			return d.PieceWords(&site.Block{Shows: piece})
		}
	case edit.FieldAudience:
		if words := d.Site.AudienceWords(site.Audience(value)); words != "" {
			return words
		}
	case edit.FieldSort:
		return edit.RuleWords(site.SortRule(value))
	case edit.FieldKind:
		return d.Site.Kind(value).Name
	case edit.FieldLayout, edit.FieldBranchLayout:
		for _, layout := range d.Site.Theme().Layouts {
			if layout.Key == value {
				return layout.Name
			}
		}
	case edit.FieldStatus:
		return map[string]string{string(site.StatusLive): "online", string(site.StatusOffline): "offline"}[value]
	case edit.FieldSegment:
		return strings.TrimPrefix(value, "~")
	case edit.FieldLiveFrom, edit.FieldLiveUntil:
		if at, err := time.Parse(time.RFC3339, value); err == nil {
			return desk.Day(d.Site, at)
		}
	case edit.FieldNotFoundPage, edit.FieldNoAccessPage, edit.FieldSignInPage, edit.FieldClosedPage:
		if p := d.Site.Page(desk.Number[site.PageID](value)); p != nil {
			return p.Label
		}
	}
	return value
}
