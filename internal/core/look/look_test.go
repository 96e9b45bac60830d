package look_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"vineladder/internal/core/look"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// Whatever shows of a line is in its words, so that two lines with equal words look alike.
func TestEveryPartOfALineIsInItsWords(t *testing.T) {
	plain := look.Line{Label: "Tides", Href: "https://tides.example/"}
	seen := map[string]string{plain.Words(): "plain"}
	for name, change := range map[string]func(*look.Line){
		"label":       func(l *look.Line) { l.Label = "Tide" },
		"target":      func(l *look.Line) { l.Href = "/tides" },
		"heading":     func(l *look.Line) { l.Href = "" },
		"account":     func(l *look.Line) { l.Href, l.Does = "", site.AccountSignIn },
		"other link":  func(l *look.Line) { l.Href, l.Does = "", site.AccountDetails },
		"hint":        func(l *look.Line) { l.Hint = "High and low" },
		"tab":         func(l *look.Line) { l.NewTab = true },
		"badge":       func(l *look.Line) { l.Badge.Text = "New" },
		"badge pair":  func(l *look.Line) { l.Badge = site.Badge{Text: "New", Pair: "sand"} },
		"badge side":  func(l *look.Line) { l.Badge = site.Badge{Text: "New", Before: true} },
		"icon":        func(l *look.Line) { l.Icon = "ship" },
		"trail":       func(l *look.Line) { l.Trail = true },
		"current":     func(l *look.Line) { l.Trail, l.Current = true, "true" },
		"page itself": func(l *look.Line) { l.Trail, l.Current = true, "page" },
	} {
		line := plain
		change(&line)
		other, known := seen[line.Words()]
		assert.False(t, known, "%s reads as %s: %s", name, other, line.Words())
		seen[line.Words()] = name
	}
}

// Whatever shows of a block is in its words.
func TestEveryPartOfALookIsInItsWords(t *testing.T) {
	looks := []look.Look{
		{},
		{Named: "Near here"},
		{Title: "Near here", Level: 2},
		{Title: "Near here", Level: 3},
		{Text: "<p>Near here</p>"},
		{Text: "<p><strong>Near here</strong></p>"},
		{File: "pier.jpg"},
		{File: "pier.jpg", Alt: "The pier"},
		{Other: "the account line"},
		{Pages: []look.Link{{Label: "Fares", Href: "/fares"}}},
		{Lines: []look.Line{{Label: "Fares"}}},
		{Lines: []look.Line{{Label: "Fares", Lines: []look.Line{{Label: "Season tickets"}}}}},
		{Lines: []look.Line{{Label: "Fares"}, {Label: "Season tickets"}}},
		{Lines: []look.Line{{Label: "Fares"}}, Lit: "“Fares”"},
	}
	seen := map[string]int{}
	for i := range looks {
		words := strings.Join(looks[i].Words(), "\n")
		at, known := seen[words]
		assert.False(t, known, "look %d reads as look %d: %s", i, at, words)
		seen[words] = i
	}
}

// What does not show is in no value: the name of a block that has a title, a title that is switched off, colours of a
// badge without words, a tab for what is no link.
func TestWhatDoesNotShowIsInNoValue(t *testing.T) {
	titled := site.Block{Name: "For us", Title: "Near here", Titled: true, Heading: 3, Shows: site.BlockChildren{}}
	renamed := titled
	renamed.Name = "For the office"
	assert.Equal(t, look.Frame(&titled, "Near here"), look.Frame(&renamed, "Near here"))
	off, lower := titled, titled
	off.Titled, lower.Titled, lower.Heading = false, false, 4
	assert.Equal(t, look.Frame(&off, ""), look.Frame(&lower, ""))
	assert.Equal(t, look.Look{}, look.Frame(&site.Block{Title: "Near here", Titled: true, Shows: site.BlockName{}}, ""))

	s := testkit.Outline(t, "Home\n  Fares")
	m := &site.Menu{ID: 7, Entries: []site.Entry{
		{ID: 1, Label: "Go", NewTab: true, Badge: site.Badge{Pair: "sand", Before: true}, Shows: site.ItemHeading{}},
		{ID: 2, Parent: 1, NewTab: true, Shows: site.ItemPage{Page: 2}},
	}}
	lines, more := look.Programs(s, m, menu.NewView(s, m, reach.Lens{At: testkit.Now}), look.ProgramLevelLimit)
	assert.False(t, more)
	assert.Equal(
		t,
		[]look.Line{
			{
				Label:   "Go",
				Heading: true,
				Lines:   []look.Line{{Label: "Fares", Href: "/fares", Page: true, NewTab: true}},
			},
		},
		lines,
	)
	shallow, _ := look.Programs(s, m, menu.NewView(s, m, reach.Lens{At: testkit.Now}), 1)
	assert.Empty(t, shallow[0].Lines, "as many levels as asked for")
}

func TestTheWayToTheLitLineIsSaid(t *testing.T) {
	lines := []look.Line{{Label: "Sailings", Href: "/sailings", Trail: true, Lines: []look.Line{
		{Label: "Fares", Href: "/sailings/fares", Trail: true, Current: "page"},
	}}, {Label: "Contact", Href: "/contact"}}
	labels, leads := look.Lit(lines)
	assert.Equal(t, "“Sailings” › “Fares” as this page", labels)
	assert.Equal(t, "“/sailings” › “/sailings/fares” as this page", leads)
	assert.Equal(t, 3, look.Count(lines))
	none, _ := look.Lit([]look.Line{{Label: "Contact"}})
	assert.Empty(t, none)
}
