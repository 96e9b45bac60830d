// Package look holds what a visitor gets of a block or a menu as plain values: no identities, nothing that does not
// show. The public site draws these values, programs read them, and consequences compare them, so that two blocks
// look alike exactly when their values are equal. It decides nothing: which lines and pages there are is decided in
// the packages menu and region.
package look

import (
	"cmp"
	"fmt"
	"strings"

	"vineladder/internal/core/address"
	"vineladder/internal/core/count"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/piece"
	"vineladder/internal/core/site"
	"vineladder/internal/core/target"
	"vineladder/internal/core/text"
)

// A Look is what a block shows on a page. The zero Look shows nothing.
type Look struct {
	Named string // name of its landmark; "" for a block that is none
	Title string // shown above it; "": none is
	Level int    // of the title, 2 to 4; 0 without one
	Lines []Line // of a menu
	Lit   string // which of them the trail lights, in words, where Lines leave that out
	LitTo string // the same by where they lead
	Pages []Link // of a list of pages
	Rows  []Row  // of a listing that shows more than names
	Table bool   // its rows are those of a table
	Text  string // HTML, links to pages resolved
	File  string // of an image
	Other string // what else it shows, as a word of its own
	Alt   string // in place of the image
}

// A Line is a menu line.
type Line struct {
	Label   string
	Href    string // path of a page, file address or web address; "" for a heading and for account links
	Page    bool   // Href is the path of a page
	Heading bool
	Does    site.AccountLink // "" for all but account links
	Hint    string
	NewTab  bool
	Badge   site.Badge // the zero Badge without words
	Icon    string
	Counted bool // it says how many pages there are of a topic
	Count   int
	Trail   bool
	Current string // value of aria-current; only of links
	Lines   []Line
}

// A Link is a page of a list or breadcrumb.
type Link struct {
	Label string
	Href  string // "" where the visitor can't go
}

// Lines gives the values of menu lines, with all below them.
func Lines(s *site.Site, m *site.Menu, nodes []menu.Node) []Line {
	if len(nodes) == 0 {
		return nil
	}
	lines := make([]Line, len(nodes))
	for i := range nodes {
		n := &nodes[i]
		lines[i] = Of(s, m, n.Line)
		lines[i].Lines = Lines(s, m, n.Children)
		lines[i].Walk(n.Trail, n.Current)
	}
	return lines
}

// Walk says whether the trail passes through a line, and how far that is the current page.
func (l *Line) Walk(trail bool, current string) {
	if l.Trail = trail; l.Href != "" {
		l.Current = current
	}
}

// Of gives the value of one line, without what is below it and without the trail.
func Of(s *site.Site, m *site.Menu, l menu.Line) Line {
	made := Line{Label: l.Label, Count: l.Count, Counted: l.Counted}
	if l.Page != 0 {
		made.Href, made.Page = address.Of(s, cmp.Or(l.Lead, l.Page)), true
		if l.Query != "" {
			made.Href += "?" + l.Query
		}
	}
	if e := m.Entry(l.Entry); l.Own && e != nil {
		made.dress(e)
	}
	return made
}

// dress gives a line what its entry says of it. Only links open in a new tab.
func (l *Line) dress(e *site.Entry) {
	l.Hint, l.NewTab, l.Icon = e.Hint, e.NewTab, e.Icon
	if e.Badge.Text != "" {
		l.Badge = e.Badge
	}
	made := target.Of(e.Shows).Line(e.Shows)
	l.Href, l.Does, l.Heading = cmp.Or(made.Href, l.Href), made.Does, made.Heading
	l.NewTab = l.NewTab && !l.Heading && l.Does != site.AccountSignOut
}

// Frame gives what a block shows whatever it is filled with: its landmark and its title.
func Frame(b *site.Block, named string) Look {
	made := Look{Named: named}
	if t := piece.Of(b.Shows); t.Untitled {
		if !t.Landmark {
			return Look{}
		}
		return made
	}
	if made.Title = Title(b); made.Title != "" {
		made.Level = b.Heading
	}
	return made
}

// Title is the title of a block as visitors read it; "" if it is not shown.
func Title(b *site.Block) string {
	if !b.Titled {
		return ""
	}
	return cmp.Or(b.Title, b.Name)
}

// Words says all that a look shows, a line each. Two looks have equal words exactly when they show the same.
func (l *Look) Words() []string {
	var words []string
	add := func(format string, args ...any) { words = append(words, fmt.Sprintf(format, args...)) }
	if l.Named != "" {
		add("named “%s” to screen readers", l.Named)
	}
	if l.Title != "" {
		add("title “%s”, heading of level %d", l.Title, l.Level)
	}
	if l.Other != "" {
		add("%s", l.Other)
	}
	if l.File != "" {
		add("image %s, in words “%s”", l.File, l.Alt)
	}
	words = append(words, text.Words(l.Text)...)
	for _, page := range l.Pages {
		add("%s", page.words())
	}
	if l.Table {
		add("as a table")
	}
	for _, row := range l.Rows {
		add("%s", row.words())
	}
	words = append(words, WordsOf(l.Lines)...)
	if l.Lit != "" {
		add("highlighted: %s", l.Lit)
	}
	return words
}

func (l Link) words() string {
	if l.Href == "" {
		return "“" + l.Label + "”"
	}
	return "“" + l.Label + "” at " + l.Href
}

// WordsOf says lines and what is below them, indented by level.
func WordsOf(lines []Line) []string {
	var words []string
	for i := range lines {
		words = append(words, lines[i].Words())
		for _, below := range WordsOf(lines[i].Lines) {
			words = append(words, "\u2003"+below)
		}
	}
	return words
}

// Words says all that a line shows, but what is below it.
func (l *Line) Words() string {
	words := l.Unlit()
	switch {
	case l.Current == "page":
		words += ", highlighted as this page"
	case l.Current != "":
		words += ", highlighted as the nearest"
	case l.Trail:
		words += ", highlighted"
	}
	return words
}

// Unlit says all that a line shows but whether the trail lights it.
func (l *Line) Unlit() string {
	if !l.Counted {
		return l.Uncounted()
	}
	return "“" + l.Label + "” (" + count.Number(l.Count) + ")" + strings.TrimPrefix(l.Uncounted(), "“"+l.Label+"”")
}

// Uncounted says the same without the number of pages, by which a line is known again when that changes.
func (l *Line) Uncounted() string {
	var out strings.Builder
	out.WriteString("“" + l.Label + "”")
	if to := l.Leads(); to != "" {
		out.WriteString(" → " + to)
	}
	if l.Hint != "" {
		out.WriteString(", hint “" + l.Hint + "”")
	}
	if l.NewTab {
		out.WriteString(", in a new tab")
	}
	if l.Badge.Text != "" {
		out.WriteString(", " + BadgeWords(l.Badge))
	}
	if l.Icon != "" {
		out.WriteString(", icon " + l.Icon)
	}
	return out.String()
}

// Leads says where a line leads; "" for a heading.
func (l *Line) Leads() string {
	if l.Does != "" {
		return map[site.AccountLink]string{
			site.AccountSignIn: "sign in", site.AccountSignOut: "sign out", site.AccountRegister: "register",
			site.AccountDetails: "my details",
		}[l.Does]
	}
	return l.Href
}

// BadgeWords says a badge; "no badge" without one.
func BadgeWords(b site.Badge) string {
	if b.Text == "" {
		return "no badge"
	}
	words := "badge “" + b.Text + "”"
	if b.Pair != "" {
		words += " in " + b.Pair
	}
	if b.Before {
		words += " before the label"
	}
	return words
}
