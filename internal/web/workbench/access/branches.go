package access

import (
	"maps"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"vineladder/internal/core/grant"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// branchesLimit is the number of branches with settings of their own that are shown.
const branchesLimit = 500

// A branchesView is the pages on which it is said who sees them or who may do something there.
type branchesView struct {
	view
	Heads  []string // of the columns: visitors without a role, and each role
	Rows   []branchRow
	More   int
	Matrix bool // what each role sees and may, in place of words
	Only   bool // rows that differ from what is public now
}

// A branchRow is one of them.
type branchRow struct {
	Page     *site.Page
	Level    int
	Pages    int // of the branch
	Own      bool
	Audience string
	Source   *site.Page // by whose setting, if not its own
	Conceal  bool
	Kids     bool
	Open     bool
	Toggle   string // address of the screen with the row opened, or closed
	Given    []given
	Cells    []cell
}

// Given is what roles have on a branch: said there, or above.
type given struct {
	Role string
	Name string
	May  string
	Own  bool
	From *site.Page // where it is said, if above; nil: on the whole site
}

// A cell says what one role sees and may do on a branch.
type cell struct {
	Role string // its name
	Sees reach.Answer
	May  []string

	Ticks []tick
	Was   string // what the role sees and may there in public now, where that differs
}

func (s *Area) branches(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	base, err := s.view(r, d, "branches")
	if err != nil {
		return err
	}
	v := branchesView{view: base, Matrix: r.FormValue("mode") == "matrix"}
	l := newLadder(d.Site, r.FormValue("open"))
	m, was := newMatrix(d.Site, d.Lens.At, d.Site), newMatrix(d.Draft.Base.Site, d.Lens.At, d.Site)
	v.Heads = m.names
	v.Only = v.Matrix && r.FormValue("only") == "differences"
	l.walk(d.Site.Home(), func(p *site.Page) {
		if len(v.Rows) == branchesLimit {
			v.More++
			return
		}
		row := branchRow{
			Page: p, Level: d.Site.Level(p.ID), Pages: 1 + d.Site.Below(p.ID),
			Own: p.Audience != site.AudienceInherited, Conceal: p.Conceal, Kids: d.Site.Below(p.ID) > 0,
			Open: l.opened[p.ID], Toggle: v.Link("/access", "open", l.turned(p.ID)) + v.mode(),
		}
		row.Audience, row.Source = audienceOf(d.Site, p.ID)
		if v.Matrix {
			row.Cells = m.cells(p.ID)
			if differ := noteBefore(row.Cells, was, p.ID); v.Only && !differ {
				return
			}
		} else {
			row.Given = givenOn(d.Site, p.ID)
		}
		v.Rows = append(v.Rows, row)
	})
	s.show(w, r, v)
	return nil
}

func (v branchesView) mode() string {
	if v.Matrix {
		return "&mode=matrix"
	}
	return ""
}

// A ladder is the pages with settings of their own, what stands above them, and what is inside those that are opened.
type ladder struct {
	site   *site.Site
	shown  map[site.PageID]bool
	opened map[site.PageID]bool
}

// openLimit is the number of pages that are opened at once.
const openLimit = 100

func newLadder(s *site.Site, open string) *ladder {
	l := &ladder{s, map[site.PageID]bool{}, map[site.PageID]bool{}}
	show := func(id site.PageID) {
		for p := s.Page(id); p != nil && !l.shown[p.ID]; p = s.Page(p.Parent) {
			l.shown[p.ID] = true
		}
	}
	for _, setting := range grant.Settings(s) {
		show(setting.Page.ID)
	}
	for word := range strings.SplitSeq(open, ",") {
		id := desk.Number[site.PageID](word)
		if !s.InTree(id) || len(l.opened) == openLimit {
			continue
		}
		l.opened[id] = true
		show(id)
		for _, kid := range s.Children(id) {
			l.shown[kid] = true
		}
	}
	return l
}

// walk visits what is shown, in the tree's order.
func (l *ladder) walk(id site.PageID, visit func(*site.Page)) {
	visit(l.site.Page(id))
	for _, kid := range l.site.Children(id) {
		if l.shown[kid] {
			l.walk(kid, visit)
		}
	}
}

// turned gives the opened pages with one opened or closed.
func (l *ladder) turned(id site.PageID) string {
	var ids []string
	for _, open := range slices.Sorted(maps.Keys(l.opened)) {
		if open != id {
			ids = append(ids, strconv.FormatInt(int64(open), 10))
		}
	}
	if !l.opened[id] {
		ids = append(ids, strconv.FormatInt(int64(id), 10))
	}
	return strings.Join(ids, ",")
}

// audienceOf says who sees a page, and on which page above that is said; nil: on itself.
func audienceOf(s *site.Site, id site.PageID) (words string, above *site.Page) {
	source := reach.Source(s, id)
	words = "Everyone"
	if source.Audience != site.AudienceInherited {
		words = s.AudienceWords(source.Audience)
	}
	if source.ID == id {
		source = nil
	}
	return words, source
}

// givenOn says which roles may do something on a page by what is said there, or above; not on the whole site.
func givenOn(s *site.Site, id site.PageID) []given {
	var all []given
	for _, role := range s.Roles() {
		for p := s.Page(id); p != nil; p = s.Page(p.Parent) {
			var words []string
			for _, g := range role.Grants {
				if g.On == site.PageThing(p.ID) {
					words = append(words, grant.Words(g.Action))
				}
			}
			if words == nil {
				continue
			}
			one := given{Role: role.Key, Name: role.Name, May: strings.Join(words, ", "), Own: p.ID == id}
			if !one.Own {
				one.From = p
			}
			all = append(all, one)
		}
	}
	return all
}

// A matrix finds what each role sees and may on pages.
type matrix struct {
	site    *site.Site
	names   []string
	lenses  []reach.Lens
	holders []*grant.Holder
}

// newMatrix looks at a Site for the roles of another.
func newMatrix(s *site.Site, at time.Time, of *site.Site) matrix {
	m := matrix{site: s}
	add := func(name string, who reach.Visitor, keys ...string) {
		m.names = append(m.names, name)
		m.lenses = append(m.lenses, reach.Lens{Visitor: who, At: at})
		m.holders = append(m.holders, grant.Holding(s, keys))
	}
	add("Signed out", reach.Visitor{})
	add("Signed in", reach.Visitor{SignedIn: true})
	for _, role := range of.Roles() {
		add(role.Name, reach.As(s, []string{role.Key}), role.Key)
	}
	return m
}

func (m matrix) cells(page site.PageID) []cell {
	cells := make([]cell, len(m.lenses))
	for i, name := range m.names {
		c := cell{Role: name, Sees: reach.Ask(m.site, page, m.lenses[i])}
		rights := m.holders[i].On(page)
		for _, action := range site.Actions() {
			c.Ticks = append(c.Ticks, tick{letterOf(action), rights.Has(action)})
			if rights.Has(action) {
				c.May = append(c.May, grant.Words(action))
			}
		}
		cells[i] = c
	}
	return cells
}

// noteBefore notes in cells what was so in public, where that differs, and says whether it does anywhere.
func noteBefore(cells []cell, was matrix, page site.PageID) (differ bool) {
	for i, before := range was.cells(page) {
		c := &cells[i]
		if before.Sees != c.Sees || !slices.Equal(before.May, c.May) {
			c.Was, differ = strings.TrimSuffix(before.SeesWords()+"; may "+before.MayWords(), "; may "), true
		}
	}
	return differ
}

// A tick is drawn for an action: by its letter, full if the role may do it.
type tick struct {
	Letter string
	On     bool
}

// letters stand for actions where there is no room for words; the legend tells them.
var letters = map[site.Action]string{
	site.ActionEdit: "E", site.ActionArrange: "O", site.ActionAdmit: "A", site.ActionPlace: "R",
	site.ActionLink: "M", site.ActionClassify: "T", site.ActionKeep: "K", site.ActionPublish: "P",
}

func letterOf(action site.Action) string { return letters[action] }

// Legend tells the letters of actions.
func (branchesView) Legend() []desk.Option {
	var all []desk.Option
	for _, action := range site.Actions() {
		all = append(all, desk.Option{Value: letterOf(action), Words: grant.Words(action)})
	}
	return all
}

// All says that the role may do everything.
func (c cell) All() bool { return len(c.May) == len(site.Actions()) }

// SeesWords says what somebody gets who asks for a page.
func (c cell) SeesWords() string { return answerWords(c.Sees) }

func answerWords(a reach.Answer) string {
	switch a {
	case reach.Sees:
		return "sees"
	case reach.SignIn:
		return "sign-in"
	case reach.NoAccess:
		return "no access"
	}
	return "not found"
}

// MayWords says what the role may do there.
func (c cell) MayWords() string { return strings.Join(c.May, ", ") }
