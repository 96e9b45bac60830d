package edit

import (
	"fmt"
	"strconv"
	"strings"

	"vineladder/internal/core/site"
)

// PieceText writes what a block shows in one word: "menu:3:" and the window, "breadcrumb", "text:HASH", "account",
// "name", "children", "image:FILE:" and the words in its place.
func PieceText(piece site.Piece) string {
	switch shows := piece.(type) {
	case site.BlockMenu:
		return fmt.Sprintf("menu:%d:%s", shows.Menu, WindowText(shows.Window))
	case site.BlockText:
		return "text:" + shows.Text
	case site.BlockImage:
		return "image:" + shows.File + ":" + shows.Alternative
	case site.BlockAccount:
		return "account"
	case site.BlockName:
		return "name"
	case site.BlockChildren:
		return "children"
	case site.BlockBreadcrumb:
		return "breadcrumb"
	}
	return ""
}

// ParsePiece reads what PieceText wrote.
func ParsePiece(s *site.Site, value string) (site.Piece, error) {
	kind, rest, _ := strings.Cut(value, ":")
	switch kind {
	case "menu":
		number, window, _ := strings.Cut(rest, ":")
		id, err := strconv.ParseInt(number, 10, 64)
		m := s.Menu(site.MenuID(id))
		if err != nil || m == nil {
			return nil, &Conflict{Sentence: "The menu that the block should show is not there any more."}
		}
		w, err := parseWindow(m, window)
		return site.BlockMenu{Menu: m.ID, Window: w}, err
	case "text":
		return site.BlockText{Text: rest}, nil
	case "image":
		file, words, _ := strings.Cut(rest, ":")
		if file == "" || strings.ContainsAny(file, "/\\") {
			return nil, refuse("Choose a file.")
		}
		words, err := oneLine(words, "The words in place of an image", LabelLimit)
		return site.BlockImage{File: file, Alternative: words}, err
	case "account":
		return site.BlockAccount{}, nil
	case "name":
		return site.BlockName{}, nil
	case "children":
		return site.BlockChildren{}, nil
	case "breadcrumb":
		return site.BlockBreadcrumb{}, nil
	}
	return nil, refuse("A block of the sort “%s” is not known.", kind)
}

// WindowText writes a window as "first:levels:from:entry:unfold", with 0 levels for all and entry 0 for none.
func WindowText(w site.Window) string {
	return fmt.Sprintf("%d:%d:%s:%d:%s", w.First, w.Levels, w.From, w.Entry, w.Unfold)
}

func parseWindow(m *site.Menu, value string) (w site.Window, err error) {
	parts := strings.Split(value, ":")
	if len(parts) != 5 {
		return w, refuse("“%s” does not say which levels to show.", value)
	}
	if w.First, err = strconv.Atoi(parts[0]); err != nil || w.First < 1 || w.First > LevelLimit {
		return w, refuse("The first level is a number from 1 to %d.", LevelLimit)
	}
	if w.Levels, err = strconv.Atoi(parts[1]); err != nil || w.Levels < 0 || w.Levels > LevelLimit {
		return w, refuse("The number of levels is a number up to %d; 0 is all of them.", LevelLimit)
	}
	if w.From, err = oneOf(parts[2], site.FromTrail, site.FromEntry, site.FromWhole); err != nil {
		return w, err
	}
	if w.Unfold, err = oneOf(parts[4], site.UnfoldAll, site.UnfoldTrail); err != nil || w.From != site.FromEntry {
		return w, err
	}
	entry, err := strconv.ParseInt(parts[3], 10, 64)
	if err != nil || m.Entry(site.EntryID(entry)) == nil {
		return w, refuse("Choose the item of which the block shows what is below it.")
	}
	w.Entry = site.EntryID(entry)
	return w, nil
}

// LevelLimit is the number of levels that a window can be about.
const LevelLimit = 20
