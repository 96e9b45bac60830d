package desk

import (
	"fmt"
	"strings"

	"vineladder/internal/core/count"
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
		if to.Narrow != "" {
			return AddressOf(d.Site, to.Page) + "?" + to.Narrow
		}
		return AddressOf(d.Site, to.Page)
	case site.ItemBranch:
		return d.growthWords(to)
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

// growthWords says what an item grows from.
func (d *Desk) growthWords(to site.ItemBranch) string {
	root := d.Site.Page(to.Root)
	inside := "listed pages"
	if root.Gathers() {
		inside = "topics"
	}
	if to.Hits > 0 {
		run := map[site.Self]string{
			site.SelfNot: "the first %d that “%s” lists", site.SelfAbove: "below its page, the first %d that “%s” lists",
			site.SelfBeside: "after its page, the first %d that “%s” lists",
		}[to.Self]
		return fmt.Sprintf(run, to.Hits, root.Label)
	}
	run := map[site.Self]string{
		site.SelfNot: "the " + inside + " in “%s”", site.SelfAbove: "“%s”, and below it its " + inside,
		site.SelfBeside: "“%s”, then its " + inside,
	}[to.Self]
	words := fmt.Sprintf(run, root.Label)
	if to.Of != 0 {
		words += " to which “" + d.Site.Page(to.Of).Label + "” is narrowed"
	}
	if to.Least > 0 {
		words += " with at least " + count.Pages(to.Least)
	}
	switch to.Depth {
	case 0:
		words += ", all levels"
	case 1:
		words += ", 1 level"
	default:
		words += fmt.Sprintf(", %d levels", to.Depth)
	}
	return words + map[site.GrownBy]string{
		site.GrownByLabel: ", by label", site.GrownByCount: ", those with most pages first",
	}[to.By]
}

// unreached says why the lens does not reach what an item leads to.
func (d *Desk) unreached(e *site.Entry) string {
	switch page := d.Site.Page(e.Target()); {
	case page == nil:
		return ""
	case d.unoffered(e):
		return "this visitor finds nothing in “" + Short(page.Label) + "” narrowed so"
	case !d.Site.InTree(page.ID):
		return "its page is in the bin"
	default:
		return d.unreachedPage(page)
	}
}

// unoffered says that an item leads to what nobody is offered of a list.
func (d *Desk) unoffered(e *site.Entry) bool {
	to, leads := e.Shows.(site.ItemPage)
	return leads && to.Narrow != "" && reach.NewPanel(d.Lens).At(d.Site, to.Page).Reachable() != 0
}

// unreachedPage says why the lens does not reach a page: when it is online, or for whom it is.
func (d *Desk) unreachedPage(page *site.Page) string {
	if why := reach.WhyOffline(d.Site, page.ID, d.Lens.At); why.Cause != nil {
		words := "its page is not online"
		if why.Window {
			words = "its page is " + d.otherTime(why.Cause.Window(), "online")
		}
		if why.Cause.ID != page.ID {
			words += " (“" + Short(why.Cause.Label) + "”)"
		}
		return words
	}
	if source := reach.Source(d.Site, page.ID); source.Audience != site.AudienceInherited {
		return "its page is for " + d.Site.AudienceWords(source.Audience)
	}
	return "this visitor does not reach the page"
}

// otherTime says when something is there that is not at the lens's moment.
func (d *Desk) otherTime(w site.Interval, what string) string {
	if !w.From.IsZero() && d.Lens.At.Before(w.From) {
		return what + " from " + LongMoment(d.Site, w.From)
	}
	return what + " until " + LongMoment(d.Site, w.Until) + ", and that is over"
}

// accountWords says for whom an account link is.
func accountWords(e *site.Entry) string {
	if to, is := e.Shows.(site.ItemAccount); is && (to.Does == site.AccountSignIn || to.Does == site.AccountRegister) {
		return "it is for who is not signed in"
	}
	return "it is for who is signed in"
}

// WhyWords says why an entry does not show; the reason names the highest one that fails.
func (d *Desk) WhyWords(m *site.Menu, e *site.Entry, why menu.Why) string {
	words := ""
	switch failing := m.Entry(why.Entry); why.Reason {
	case menu.ReasonOff:
		words = "it is switched off"
	case menu.ReasonWindow:
		words = "it shows " + strings.TrimSpace(d.otherTime(failing.Window(), ""))
	case menu.ReasonAudience:
		words = "it is only for " + d.Site.AudienceWords(failing.Audience)
	case menu.ReasonTarget:
		words = d.unreached(failing)
	case menu.ReasonAccount:
		words = accountWords(failing)
	case menu.ReasonLine:
		words = "the line that it stands below is not there"
	case menu.ReasonChildren:
		words = "nothing below it shows"
	}
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
