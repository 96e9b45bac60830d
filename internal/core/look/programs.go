package look

import (
	"vineladder/internal/core/menu"
	"vineladder/internal/core/site"
)

// Levels of a menu that programs get unless they ask for others, the most that they can ask for, and the most lines
// that they get.
const (
	ProgramLevels     = 3
	ProgramLevelLimit = 20
	ProgramLines      = 10_000
)

// Programs gives the lines of a menu as programs read them, with the levels that they ask for; more says that lines
// were left out. Programs get no colours and no side of a badge, and no trail: they are on no page.
func Programs(s *site.Site, m *site.Menu, view *menu.View, levels int) (lines []Line, more bool) {
	r := &reading{s, m, view, ProgramLines}
	lines = r.lines(view.Top(), levels)
	return lines, r.left == 0
}

type reading struct {
	site *site.Site
	menu *site.Menu
	view *menu.View
	left int
}

func (r *reading) lines(lines []menu.Line, levels int) []Line {
	var made []Line
	for _, l := range lines {
		if r.left == 0 {
			break
		}
		r.left--
		line := Of(r.site, r.menu, l)
		line.Badge.Pair, line.Badge.Before = "", false
		if levels > 1 {
			line.Lines = r.lines(r.view.Children(l), levels-1)
		}
		made = append(made, line)
	}
	return made
}
