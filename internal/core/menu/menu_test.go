package menu_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// The worked example of rules 5.6, with "*" for the trail and "•" for the current line.
func TestWindowWorkedExample(t *testing.T) {
	s := testkit.Outline(t, `
Home
  Sailings
    Timetables
      Winter
      Summer
    Fares
  Harbours
    North pier
  Contact`)
	for _, c := range []struct {
		current string
		window  site.Window
		want    string
	}{
		{
			"Winter",
			site.Window{First: 1, Levels: 1, From: site.FromTrail, Unfold: site.UnfoldAll},
			"Sailings•*, Harbours, Contact",
		},
		{
			"Winter",
			site.Window{First: 1, Levels: 2, From: site.FromTrail, Unfold: site.UnfoldTrail},
			"Sailings* (Timetables•*, Fares), Harbours, Contact",
		},
		{
			"Timetables",
			site.Window{First: 1, From: site.FromTrail, Unfold: site.UnfoldTrail},
			"Sailings* (Timetables•* (Winter, Summer), Fares), Harbours, Contact",
		},
		{"Winter", site.Window{First: 1, From: site.FromTrail, Unfold: site.UnfoldAll}, "Sailings* (Timetables* " +
			"(Winter•*, Summer), Fares), Harbours (North pier), Contact"},
		{
			"Winter",
			site.Window{First: 2, From: site.FromTrail, Unfold: site.UnfoldTrail},
			"Timetables* (Winter•*, Summer), Fares",
		},
		{"Winter", site.Window{First: 3, Levels: 1, From: site.FromTrail, Unfold: site.UnfoldAll}, "Winter•*, Summer"},
		{"Contact", site.Window{First: 2, From: site.FromTrail, Unfold: site.UnfoldAll}, ""},
		{
			"Contact",
			site.Window{First: 2, Levels: 1, From: site.FromWhole, Unfold: site.UnfoldAll},
			"Timetables, Fares, North pier",
		},
	} {
		view := menu.NewView(s, s.MenuByKey("main"), reach.Lens{At: testkit.Now})
		nodes := view.Window(c.window, testkit.Find(t, s, c.current))
		assert.Equal(t, c.want, draw(nodes), "%s, %+v", c.current, c.window)
	}
}

func draw(nodes []menu.Node) string {
	var lines []string
	for _, n := range nodes {
		line := n.Label
		if n.Current != "" {
			line += "•"
		}
		if n.Trail {
			line += "*"
		}
		if len(n.Children) > 0 {
			line += " (" + draw(n.Children) + ")"
		}
		lines = append(lines, line)
	}
	return strings.Join(lines, ", ")
}

func TestCurrentSaysPageOnlyForThePageItself(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings\n    Fares | listed=no\n  Contact")
	at := func(label string) []menu.Node {
		_, window, _ := s.Block(testkit.Header).Menu()
		return menu.NewView(
			s,
			s.MenuByKey("main"),
			reach.Lens{At: testkit.Now},
		).Window(
			window,
			testkit.Find(t, s, label),
		)
	}
	assert.Equal(t, "page", at("Sailings")[0].Current)
	assert.Equal(t, "true", at("Fares")[0].Current, "an unlisted page lights up its nearest listed ancestor")
	assert.Equal(t, "Sailings•*, Contact", draw(at("Fares")))
	assert.Equal(t, "Sailings, Contact", draw(at("Home")), "the home page lights up nothing but its own line")
}

func TestTheRootOfARun(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings | listed=no\n    Fares\n    Secret | audience=staff\n  Contact")
	root := testkit.Find(t, s, "Sailings")
	for self, want := range map[site.Self]string{
		site.SelfNot: "Fares", site.SelfBeside: "Sailings, Fares", site.SelfAbove: "Sailings (Fares)",
	} {
		m := &site.Menu{ID: 1, Entries: []site.Entry{{ID: 1, Shows: site.ItemBranch{Root: root, Self: self}}}}
		view := menu.NewView(s, m, reach.Lens{At: testkit.Now})
		nodes := view.Window(site.Window{First: 1, From: site.FromWhole, Unfold: site.UnfoldAll}, 1)
		assert.Equal(t, want, draw(nodes), "an unlisted root still shows itself and its listed children: %s", self)
	}
}

// The lazy view against the rules done the long way: every line is made, filtered and scored (rules 5.2 and 5.4).
func TestLazyLinesAgreeWithAllLines(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 30)
		lens := rapid.SampledFrom(testkit.Lenses()).Draw(t, "lens")
		m := s.MenuByKey("main")
		entry := m.Entries[0].Shows.(site.ItemBranch)
		entry.Depth = rapid.IntRange(0, 3).Draw(t, "depth")
		m = &site.Menu{ID: 1, Entries: []site.Entry{{ID: 1, Shows: entry}}}
		view := menu.NewView(s, m, lens)
		all := allLines(s, entry, lens)

		var got []site.PageID
		var walk func([]menu.Line)
		walk = func(lines []menu.Line) {
			for _, line := range lines {
				got = append(got, line.Page)
				walk(view.Children(line))
			}
		}
		walk(view.Top())
		assert.Equal(t, all, got)

		current := site.PageID(rapid.IntRange(1, s.Count()).Draw(t, "current"))
		best, score := site.PageID(0), 0
		for _, page := range all {
			points := 0
			switch {
			case page == current:
				points = 1000
			case s.IsWithin(current, page) && page != s.Home():
				points = 1 + s.Level(page)
			}
			if points > score {
				best, score = page, points
			}
		}
		trail := view.Trail(current)
		if best == 0 {
			assert.Empty(t, trail)
			return
		}
		assert.Equal(t, best, trail[len(trail)-1].Page)
		for i, line := range trail[1:] {
			assert.Equal(t, trail[i].Page, s.Page(line.Page).Parent, "a trail is a path")
		}
	})
}

func allLines(s *site.Site, e site.ItemBranch, lens reach.Lens) []site.PageID {
	var lines []site.PageID
	if reach.Ask(s, e.Root, lens) != reach.Sees {
		return nil
	}
	if e.Self != site.SelfNot {
		lines = append(lines, e.Root)
	}
	s.Walk(e.Root, func(p *site.Page) bool {
		shown := p.ID != e.Root && (e.Depth == 0 || s.Level(p.ID)-s.Level(e.Root) <= e.Depth)
		for up := p; up.ID != e.Root; up = s.Page(up.Parent) {
			shown = shown && up.Listed && reach.Ask(s, up.ID, lens) == reach.Sees
		}
		if shown {
			lines = append(lines, p.ID)
		}
		return true
	})
	return lines
}
