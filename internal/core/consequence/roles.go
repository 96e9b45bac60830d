package consequence

import (
	"fmt"
	"slices"
	"strings"

	"vineladder/internal/core/count"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// What edits of roles do to whoever holds them: each viewer is compared with themselves, as the roles were and as they
// are, on the Site as it is. All else that was edited is compared for viewers as they were.

// A changedViewer is one whose roles include, or allow, something else than before.
type changedViewer struct {
	number  int
	was, is reach.Visitor
}

func (r *Report) changedViewers() []changedViewer {
	var all []changedViewer
	for i, keys := range r.Held {
		if len(keys) == 0 || slices.ContainsFunc(keys, func(key string) bool { return r.Was.Role(key) == nil }) {
			continue // nobody holds a role that is new
		}
		v := changedViewer{i, reach.As(r.Was, keys), reach.As(r.Is, keys)}
		if !slices.Equal(v.was.Roles, v.is.Roles) || !slices.Equal(v.was.Edits, v.is.Edits) {
			all = append(all, v)
		}
	}
	return all
}

// sayRoles says what edits of roles do.
func (r *Report) sayRoles() []Sentence {
	if site.SameRoles(r.Was, r.Is) {
		return r.sayRights()
	}
	var said []Sentence
	for _, v := range r.changedViewers() {
		said = append(said, r.sayReached(v)...)
		said = append(said, r.sayLines(v)...)
		said = append(said, r.sayAdmittedBlocks(v)...)
	}
	return append(said, r.sayRights()...)
}

// lenses gives a viewer as they were and as they are, at the first moment.
func (r *Report) lenses(v changedViewer) (was, is reach.Lens) {
	at := r.now()[0]
	return reach.Lens{Visitor: v.was, At: at}, reach.Lens{Visitor: v.is, At: at}
}

// sayReached says which pages somebody comes to see, and which no more.
func (r *Report) sayReached(v changedViewer) []Sentence {
	var come, gone []item
	panel := reach.NewPanel(r.pair(v)...)
	reach.Walk(r.Is, panel, func(p *site.Page, state reach.State) bool {
		switch state.Reachable() {
		case 1:
			gone = append(gone, item{page: p.ID})
		case 2:
			come = append(come, item{page: p.ID})
		}
		return true
	})
	var said []Sentence
	say := func(pages []item, text string) {
		if len(pages) > 0 {
			said = append(said, Sentence{
				About: "page", Text: fmt.Sprintf(text, r.Names[v.number], count.Pages(len(pages))), Items: r.asBranches(pages),
				For: []int{v.number}, Pages: pagesOf(pages),
			})
		}
	}
	say(come, "People who hold %s come to see %s that they did not, by what their roles are then.")
	say(gone, "People who hold %s no longer see %s, by what their roles are then.")
	return said
}

func (r *Report) pair(v changedViewer) []reach.Lens {
	was, is := r.lenses(v)
	return []reach.Lens{was, is}
}

// asBranches names pages by the tops of the branches that they make, with how many stand below.
func (r *Report) asBranches(pages []item) []string {
	among := map[site.PageID]bool{}
	for _, it := range pages {
		among[it.page] = true
	}
	below, tops := map[site.PageID]int{}, []site.PageID{}
	for _, it := range pages {
		top := it.page
		for p := r.Is.Page(top); among[p.Parent]; p = r.Is.Page(p.Parent) {
			top = p.Parent
		}
		if top == it.page {
			tops = append(tops, top)
		} else {
			below[top]++
		}
	}
	var names []string
	for _, top := range tops[:min(len(tops), ItemLimit)] {
		name := "“" + r.Is.Page(top).Label + "”"
		if n := below[top]; n > 0 {
			name += " with " + count.Number(n) + " below it"
		}
		names = append(names, name)
	}
	return names
}

// sayLines says how many lines of each menu come and go for somebody.
func (r *Report) sayLines(v changedViewer) []Sentence {
	was, is := r.lenses(v)
	var said []Sentence
	for i := range r.Is.Menus() {
		m := &r.Is.Menus()[i]
		before, after := linesOf(r.Is, m, was), linesOf(r.Is, m, is)
		come, gone := missing(after, before), missing(before, after)
		if len(come)+len(gone) == 0 {
			continue
		}
		var parts []string
		if n := len(come); n > 0 {
			parts = append(parts, count.Of(n, "line comes", "lines come"))
		}
		if n := len(gone); n > 0 {
			parts = append(parts, count.Of(n, "line goes", "lines go"))
		}
		items := slices.Concat(come, gone)
		said = append(said, Sentence{
			About: "menu",
			Text: fmt.Sprintf("In the menu “%s” %s for people who hold %s.", m.Name, strings.Join(parts, " and "),
				r.Names[v.number]),
			Items: items[:min(len(items), ItemLimit)], For: []int{v.number},
		})
	}
	return said
}

// shownLine tells lines apart.
type shownLine struct {
	entry site.EntryID
	page  site.PageID
}

// linesOf gives the labels of all lines of a menu for a lens.
func linesOf(s *site.Site, m *site.Menu, lens reach.Lens) map[shownLine]string {
	view, all := menu.NewView(s, m, lens), map[shownLine]string{}
	var down func([]menu.Line)
	down = func(lines []menu.Line) {
		for _, line := range lines {
			all[shownLine{line.Entry, line.Page}] = "“" + line.Label + "”"
			down(view.Children(line))
		}
	}
	down(view.Top())
	return all
}

// missing gives the labels of lines that only the first of two has, sorted.
func missing(of, from map[shownLine]string) []string {
	var labels []string
	for key, label := range of {
		if _, has := from[key]; !has {
			labels = append(labels, label)
		}
	}
	slices.Sort(labels)
	return labels
}

// sayAdmittedBlocks says which blocks come or go for somebody where they stand, by whom the places are for.
func (r *Report) sayAdmittedBlocks(v changedViewer) []Sentence {
	panel := reach.NewPanel(r.pair(v)...)
	var said []Sentence
	for i := range r.Is.Placements() {
		p := &r.Is.Placements()[i]
		text := map[reach.Mask]string{
			1: "The block %s no longer shows for people who hold %s.", 2: "The block %s comes to show for people who hold %s.",
		}[panel.Admits(p.Audience)]
		if text != "" && !p.Off {
			said = append(said, Sentence{
				About: "block", Block: p.Block, For: []int{v.number},
				Text: fmt.Sprintf(text, r.blockName(p.Block), r.Names[v.number]),
			})
		}
	}
	return said
}

// sayRights says who may do more, or less, than before: by edits of roles, and by where pages stand that moved.
func (r *Report) sayRights() []Sentence {
	var said []Sentence
	add := func(format string, args ...any) {
		said = append(said, Sentence{About: "rights", Text: fmt.Sprintf(format, args...)})
	}
	for _, role := range r.Is.Roles() {
		was, is := allGiven(r.Was, role.Key), allGiven(r.Is, role.Key)
		for _, g := range is {
			if !implied(r.Is, g, was) && !implied(r.Is, g, without(is, g)) {
				add("Who holds “%s” may %s %s.", role.Name, grant.Words(g.Action), r.where(r.Is, g.On))
			}
		}
		for _, g := range was {
			if !implied(r.Is, g, is) && !implied(r.Is, g, without(was, g)) {
				add("Who holds “%s” may no longer %s %s.", role.Name, grant.Words(g.Action), r.where(r.Was, g.On))
			}
		}
	}
	for _, role := range r.Was.Roles() {
		if r.Is.Role(role.Key) == nil {
			add("The role “%s” is gone.", role.Name)
		}
	}
	return append(said, r.sayMovedRights()...)
}

// where says on what a permission holds, and how much that is.
func (r *Report) where(s *site.Site, on site.Thing) string {
	words := grant.Where(s, on)
	if id := site.PageID(on.ID); on.Family == site.FamilyPage && s.InTree(id) {
		return words + " (" + count.Pages(1+s.Below(id)) + ")"
	}
	return words
}

// allGiven gives all grants that a role holds, by what it includes too.
func allGiven(s *site.Site, role string) []site.Grant {
	var all []site.Grant
	if s.Role(role) == nil {
		return nil
	}
	for _, key := range s.Holds([]string{role}) {
		for _, g := range s.Role(key).Grants {
			if !slices.Contains(all, g) {
				all = append(all, g)
			}
		}
	}
	slices.SortFunc(all, func(a, b site.Grant) int { return strings.Compare(a.String(), b.String()) })
	return all
}

func without(all []site.Grant, g site.Grant) []site.Grant {
	return slices.DeleteFunc(slices.Clone(all), func(o site.Grant) bool { return o == g })
}

// implied says whether a grant on a Site allows nothing that others don't.
func implied(s *site.Site, g site.Grant, by []site.Grant) bool {
	if slices.Contains(by, g) || slices.Contains(by, site.Grant{Action: g.Action, On: site.SiteThing}) {
		return true
	}
	if g.On.Family == site.FamilyPage && s.Page(site.PageID(g.On.ID)) == nil {
		return true // it is gone
	}
	return g.On.Family == site.FamilyPage && slices.ContainsFunc(by, func(o site.Grant) bool {
		return o.Action == g.Action && o.On.Family == site.FamilyPage &&
			s.IsWithin(site.PageID(g.On.ID), site.PageID(o.On.ID))
	})
}

// sayMovedRights says of pages that moved who may act on them there and could not before, and the other way round
// (rules 8.1: permissions keep to the page on which they are given).
func (r *Report) sayMovedRights() []Sentence {
	var said []Sentence
	for _, change := range site.Changes(r.Was, r.Is) {
		a, b := change.Was, change.Is
		if a == nil || b == nil || a.Parent == b.Parent || !r.Is.InTree(b.ID) || !r.Was.InTree(a.ID) {
			continue
		}
		for _, role := range r.Was.Roles() {
			h := grant.Holding(r.Was, []string{role.Key})
			was, is := h.On(a.ID), h.Standing(r.Is).On(b.ID)
			for _, one := range []struct {
				rights grant.Rights
				may    string
			}{{is &^ was, "may"}, {was &^ is, "may no longer"}} {
				if one.rights == 0 {
					continue
				}
				var words []string
				for _, action := range one.rights.Actions() {
					words = append(words, grant.Words(action))
				}
				said = append(said, Sentence{
					About: "rights", Pages: []site.PageID{b.ID},
					Text: fmt.Sprintf("At its new place “%s” (%s) is in other hands: who holds “%s” %s %s there.", b.Label,
						count.Pages(1+r.Is.Below(b.ID)), role.Name, one.may, And(words)),
				})
			}
		}
	}
	return said
}

// rolesEdited counts the roles in which two Sites differ.
func rolesEdited(was, is *site.Site) (n int) {
	for _, role := range is.Roles() {
		if old := was.Role(role.Key); old == nil || !old.Equal(role) {
			n++
		}
	}
	for _, role := range was.Roles() {
		if is.Role(role.Key) == nil {
			n++
		}
	}
	return n
}
