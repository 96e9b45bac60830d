package desk

import (
	"fmt"

	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// Leads says where an entry leads, or what it makes.
func (d *Desk) Leads(e *site.Entry) string {
	switch to := e.Shows.(type) {
	case site.ItemPage:
		if !d.Site.InTree(to.Page) {
			return "a page in the bin"
		}
		return AddressOf(d.Site, to.Page)
	case site.ItemBranch:
		levels := "all levels"
		if to.Depth == 1 {
			levels = "1 level"
		} else if to.Depth > 1 {
			levels = fmt.Sprintf("%d levels", to.Depth)
		}
		run := map[site.Self]string{
			site.SelfNot:   "the listed pages in “%s”, ",
			site.SelfAbove: "“%s”, and below it its listed pages, ", site.SelfBeside: "“%s”, then its listed pages, ",
		}[to.Self]
		return fmt.Sprintf(run, d.Site.Page(to.Root).Label) + levels
	case site.ItemWeb:
		return to.Address
	case site.ItemFile:
		return "file " + to.File
	case site.ItemAccount:
		return map[site.AccountLink]string{
			site.AccountSignIn: "sign in", site.AccountSignOut: "sign out",
			site.AccountRegister: "register", site.AccountDetails: "my details",
		}[to.Does]
	}
	return "a heading, no link"
}

// unreached says why the lens does not reach what an item leads to.
func (d *Desk) unreached(e *site.Entry) string {
	switch page := d.Site.Page(e.Target()); {
	case page == nil:
		return ""
	case !d.Site.InTree(page.ID):
		return "its page is in the bin"
	case reach.WhyOffline(d.Site, page.ID, d.Lens.At).Cause != nil:
		return "its page is not online"
	}
	return "this visitor does not reach the page"
}

// WhyWords says why an entry does not show; the reason names the highest one that fails.
func (d *Desk) WhyWords(m *site.Menu, e *site.Entry, why menu.Why) string {
	words := map[menu.Reason]string{
		menu.ReasonOff:      "it is switched off",
		menu.ReasonWindow:   "it is outside its time",
		menu.ReasonAudience: "it is for others",
		menu.ReasonTarget:   d.unreached(m.Entry(why.Entry)),
		menu.ReasonAccount:  "it depends on who is signed in",
		menu.ReasonChildren: "nothing below it shows",
	}[why.Reason]
	if why.Entry == e.ID {
		return "No: " + words
	}
	return "No: “" + d.Site.EntryLabel(m.Entry(why.Entry)) + "” above it does not show (" + words + ")"
}

// LevelsWords says how many levels a window shows.
func LevelsWords(w site.Window) string {
	first := w.First
	if w.From == site.FromEntry {
		first = 1
	}
	switch {
	case w.Levels == 0 && first == 1:
		return "all levels"
	case w.Levels == 0:
		return fmt.Sprintf("from level %d on", first)
	case w.Levels == 1:
		return fmt.Sprintf("level %d", first)
	}
	return fmt.Sprintf("levels %d to %d", first, first+w.Levels-1)
}

// WindowWordsOf says in short what a block shows of its menu.
func (d *Desk) WindowWordsOf(m *site.Menu, w site.Window) string {
	words := LevelsWords(w)
	switch {
	case w.From == site.FromEntry:
		words += " below one item"
		if e := m.Entry(w.Entry); e != nil {
			words = LevelsWords(w) + " below “" + Short(d.Site.EntryLabel(e)) + "”"
		}
	case w.From == site.FromTrail && w.First > 1:
		words += ", where the visitor is"
	case w.From == site.FromWhole && w.First > 1:
		words += ", of the whole menu"
	}
	return words
}
