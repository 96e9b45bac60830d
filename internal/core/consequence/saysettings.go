package consequence

import (
	"fmt"
	"slices"
	"strings"

	"vineladder/internal/core/count"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// saySettings says what closes or opens the site, and which pages stand in for others from now on (rules 4.5).
func (r *Report) saySettings() []Sentence {
	was, is := r.Was.Settings(), r.Is.Settings()
	var said []Sentence
	add := func(format string, args ...any) {
		said = append(said, Sentence{About: "settings", Text: fmt.Sprintf(format, args...)})
	}
	if was.Closed != is.Closed {
		pages := count.Pages(r.reachedByAll())
		if is.Closed {
			instead := "a few words"
			if p := r.Is.Page(is.Shut); p != nil {
				instead = "“" + p.Label + "”"
			}
			add(
				"The site closes: at each of its %s visitors get %s with the status 503. Who may edit still sees them, signed in.",
				pages,
				instead,
			)
		} else {
			add("The site opens: %s can be reached again.", pages)
		}
	}
	for _, special := range []struct {
		name    string
		was, is site.PageID
		unless  string // the state in which it is shown, where that does not hold
	}{
		{"where there is no page", was.NotFound, is.NotFound, ""},
		{"for people without access", was.NoAccess, is.NoAccess, r.unlessDenied()},
		{"around the sign-in form", was.SignIn, is.SignIn, ""},
		{"the field in which visitors search", was.Search, is.Search, ""},
		{"while the site is closed", was.Shut, is.Shut, unlessClosed(is.Closed)},
	} {
		if special.was == special.is {
			continue
		}
		shows := "A few words of the theme show "
		if p := r.Is.Page(special.is); p != nil {
			shows = r.label(p.ID) + " shows "
		}
		s := Sentence{
			About: "settings",
			Text:  shows + special.name + ".",
			Pages: []site.PageID{special.was, special.is},
		}
		if special.unless != "" {
			s.If, s.Text = true, special.unless+", "+strings.Replace(shows, "A few", "a few", 1)+special.name+"."
		}
		said = append(said, s)
	}
	said = append(said, r.sayEngines()...)
	if was.Register != is.Register {
		add("%s", map[bool]string{
			true:  "Visitors can make themselves an account at /register from now on.",
			false: "Visitors can no longer make themselves an account: /register answers “not found”.",
		}[is.Register])
	}
	if was.Name != is.Name {
		add(
			"The site is called “%s” instead of “%s”: pages, forms and the block with its name say so.",
			is.Name,
			was.Name,
		)
	}
	if was.Robots != is.Robots {
		said = append(said, Sentence{
			About: "settings", Text: "Search engines find other rules at /robots.txt.",
			Words: []Difference{{
				Of: "/robots.txt", Was: strings.Split(was.Robots, "\n"), Is: strings.Split(is.Robots, "\n"),
			}},
		})
	}
	if was.Language != is.Language {
		add(
			"Pages say that their language is “%s” instead of “%s”, and what is sorted by label stands as its readers expect.",
			is.Language,
			was.Language,
		)
	}
	if was.Zone != is.Zone || was.Dates != is.Dates {
		said = append(
			said,
			Sentence{
				About: "nothing",
				Text:  "Those who edit read and type dates otherwise; visitors notice nothing of it.",
			},
		)
	}
	if rulesOf(was) != rulesOf(is) {
		said = append(
			said,
			Sentence{About: "nothing", Text: "A rule for those who edit changes; visitors notice nothing of it."},
		)
	}
	return said
}

// sayStandsIn says which pages of a closed site come to be shown in place of others, or cease to be.
func (r *Report) sayStandsIn() []Sentence {
	var said []Sentence
	for _, f := range r.facts.of(topicStandsIn) {
		for _, group := range r.spreads(f.marks) {
			for _, at := range r.parts(group) {
				text := "%s no longer shows %s %s: a few words of the theme do."
				if f.to == 1 {
					text = "%s shows %s %s, in place of a few words of the theme."
				}
				s := Sentence{
					About: "settings",
					Text:  fmt.Sprintf(text, r.label(at.items[0].page), f.words, r.whom(at.stretch)),
				}
				said = append(said, r.made(s, at.stretch, at.items))
			}
		}
	}
	return said
}

func unlessClosed(closed bool) string {
	if closed {
		return ""
	}
	return "If the site is closed"
}

// sayEngines says which pages search engines come to be told of, or cease to be, since they stand in for others no
// more, or do from now on (rules 4.5).
func (r *Report) sayEngines() (said []Sentence) {
	was, is := r.Was.Settings(), r.Is.Settings()
	if was.Closed || is.Closed {
		return nil
	}
	var told []site.PageID
	for _, id := range []site.PageID{
		was.NotFound, was.NoAccess, was.SignIn, was.Shut, is.NotFound, is.NoAccess, is.SignIn, is.Shut,
	} {
		before, after := reach.StandsIn(r.Was, id), reach.StandsIn(r.Is, id)
		if before == after || slices.Contains(told, id) {
			continue
		}
		told = append(told, id)
		side, words := r.Is, "Search engines are told of %s in the sitemap from now on: it stands in for others no more."
		if after {
			side, words = r.Was, "Search engines are no longer told of %s in the sitemap: it stands in for others."
		}
		if slices.ContainsFunc(r.Moments, func(at momentOf) bool { return reach.IsForEngines(side, id, at) }) {
			said = append(said, Sentence{
				About: "settings", Text: fmt.Sprintf(words, r.label(id)), Pages: []site.PageID{id},
			})
		}
	}
	return said
}

// unlessDenied says the state in which somebody gets “no access”, if nobody does now.
func (r *Report) unlessDenied() string {
	if r.Was.Settings().NoAccess == r.Is.Settings().NoAccess {
		return ""
	}
	for from := 0; from < len(r.Moments); from += r.perPass() {
		if r.anyDenied(r.panelAt(r.Moments[from:min(from+r.perPass(), len(r.Moments))])) {
			return ""
		}
	}
	return "If somebody lacks access"
}

// anyDenied says whether somebody gets “no access” at any page.
func (r *Report) anyDenied(panel *reach.Panel) bool {
	var signed reach.Mask
	for i, lens := range panel.Lenses() {
		if lens.SignedIn && !grant.ClosedTo(r.Is, lens.Roles) {
			signed |= 1 << i
		}
	}
	var walk func(p *site.Page, state reach.State) bool
	walk = func(p *site.Page, state reach.State) bool {
		if !state.Concealed && !state.Folder && state.Online&^state.Admitted&signed != 0 {
			return true
		}
		return slices.ContainsFunc(r.Is.Children(p.ID), func(id site.PageID) bool {
			kid := r.Is.Page(id)
			return walk(kid, panel.Below(state, kid))
		})
	}
	home := r.Is.Page(r.Is.Home())
	return home != nil && walk(home, panel.Home(home))
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

// rulesOf has the settings that hold for those who edit, and that visitors notice nothing of.
func rulesOf(s site.Settings) [8]any {
	return [...]any{
		s.PaleBadges, s.AskWhy, s.LookAtLinks, s.MostBeside, s.MostLevels, s.BinDays, s.ReadyDays, s.SecondFactor,
	}
}
