package consequence

import (
	"fmt"

	"vineladder/internal/core/count"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// saySettings says what closes or opens the site, and which pages stand in for others from now on (rules 4.5).
func (r *Report) saySettings() []Sentence {
	was, is := r.Was.Settings(), r.Is.Settings()
	var said []Sentence
	add := func(format string, args ...any) {
		said = append(said, Sentence{About: "page", Text: fmt.Sprintf(format, args...)})
	}
	if was.Closed != is.Closed {
		pages := count.Pages(r.reachedByAll())
		if is.Closed {
			instead := "a few words"
			if p := r.Is.Page(is.Shut); p != nil {
				instead = "“" + p.Label + "”"
			}
			add("The site closes: at each of its %s visitors get %s with the status 503. Who may edit still sees them, signed in.", pages, instead)
		} else {
			add("The site opens: %s can be reached again.", pages)
		}
	}
	for _, special := range []struct {
		name    string
		was, is site.PageID
	}{{"where there is no page", was.NotFound, is.NotFound}, {"for people without access", was.NoAccess, is.NoAccess}, {"around the sign-in form", was.SignIn, is.SignIn}, {"while the site is closed", was.Shut, is.Shut}} {
		switch p := r.Is.Page(special.is); {
		case special.was == special.is:
		case p == nil:
			add("A few words of the theme show %s.", special.name)
		default:
			add("“%s” shows %s.", p.Label, special.name)
		}
	}
	if was.Register != is.Register {
		add("%s", map[bool]string{true: "Visitors can make themselves an account from now on; menu items for that show.", false: "Visitors can no longer make themselves an account; menu items for that go."}[is.Register])
	}
	if was.PaleBadges != is.PaleBadges || was.BinDays != is.BinDays {
		said = append(said, Sentence{About: "nothing", Text: "A rule for those who edit changes; visitors notice nothing of it."})
	}
	return said
}

// reachedByAll counts the pages that visitors who are not signed in reach.
func (r *Report) reachedByAll() int {
	panel := reach.NewPanel(r.Viewers.Panel.Lenses()[0])
	n := 0
	var walk func(p *site.Page, state reach.State)
	walk = func(p *site.Page, state reach.State) {
		if state.Reachable() != 0 {
			n++
		}
		for _, id := range r.Is.Children(p.ID) {
			kid := r.Is.Page(id)
			walk(kid, panel.Below(state, kid))
		}
	}
	if home := r.Is.Page(r.Is.Home()); home != nil {
		walk(home, panel.Home(home))
	}
	return n
}
