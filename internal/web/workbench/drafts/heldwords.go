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

// aboutWords names what an operation is about.
func aboutWords(d *desk.Desk, op edit.Op) string {
	switch about := op.About(d.Site); {
	case about.What == "":
		return about.Name
	case about.Name == "":
		return about.What
	default:
		return about.What + " “" + desk.Short(about.Name) + "”"
	}
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
