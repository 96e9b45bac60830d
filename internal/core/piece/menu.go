package piece

import (
	"fmt"
	"strconv"
	"strings"

	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// LevelLimit is the number of levels that a window can be about.
const LevelLimit = 20

// menu shows a menu through a window.
func menu() Type {
	t := typeOf[site.BlockMenu]("menu", "Menu")
	t.Set = true
	t.Write = func(p site.Piece) string {
		shows := p.(site.BlockMenu)
		return fmt.Sprintf("%d:%s", shows.Menu, WindowText(shows.Window))
	}
	t.Read = func(s *site.Site, text string) (site.Piece, error) {
		number, window, _ := strings.Cut(text, ":")
		id, err := strconv.ParseInt(number, 10, 64)
		m := s.Menu(site.MenuID(id))
		if err != nil || m == nil {
			return nil, &typed.Missing{Sentence: "The menu that the block should show is not there any more."}
		}
		w, err := parseWindow(m, window)
		return site.BlockMenu{Menu: m.ID, Window: w}, err
	}
	return t
}

// WindowText writes a window as "first:levels:from:entry:unfold", with 0 levels for all and entry 0 for none.
func WindowText(w site.Window) string {
	return fmt.Sprintf("%d:%d:%s:%d:%s", w.First, w.Levels, w.From, w.Entry, w.Unfold)
}

func parseWindow(m *site.Menu, text string) (w site.Window, err error) {
	parts := strings.Split(text, ":")
	if len(parts) != 5 {
		return w, typed.Refuse("“%s” does not say which levels to show.", text)
	}
	if w.First, err = strconv.Atoi(parts[0]); err != nil || w.First < 1 || w.First > LevelLimit {
		return w, typed.Refuse("The first level is a number from 1 to %d.", LevelLimit)
	}
	if w.Levels, err = strconv.Atoi(parts[1]); err != nil || w.Levels < 0 || w.Levels > LevelLimit {
		return w, typed.Refuse("The number of levels is a number up to %d; 0 is all of them.", LevelLimit)
	}
	if w.From, err = typed.OneOf(parts[2], site.FromTrail, site.FromEntry, site.FromWhole); err != nil {
		return w, err
	}
	if w.Unfold, err = typed.OneOf(parts[4], site.UnfoldAll, site.UnfoldTrail); err != nil || w.From != site.FromEntry {
		return w, err
	}
	entry, err := strconv.ParseInt(parts[3], 10, 64)
	if err != nil || m.Entry(site.EntryID(entry)) == nil {
		return w, typed.Refuse("Choose the item of which the block shows what is below it.")
	}
	w.Entry = site.EntryID(entry)
	return w, nil
}
