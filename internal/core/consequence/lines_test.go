package consequence

import (
	"reflect"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"vineladder/internal/core/look"
)

func line(label, href string, below ...look.Line) look.Line {
	return look.Line{Label: label, Href: href, Lines: below}
}

// How two menus differ, line by line.
func TestLinesAreFoundAgain(t *testing.T) {
	fares, winter, contact := line("Fares", "/fares"), line("Winter", "/winter"), line("Contact", "/contact")
	hinted := fares
	hinted.Hint = "Prices"
	for name, c := range map[string]struct {
		was, is []look.Line
		want    []string
	}{
		"nothing": {[]look.Line{fares}, []look.Line{fares}, nil},
		"a line comes": {
			[]look.Line{fares},
			[]look.Line{fares, winter},
			[]string{"gains “Winter” → /winter, after “Fares”"},
		},
		"a line goes": {[]look.Line{fares, winter}, []look.Line{fares}, []string{"loses “Winter” → /winter"}},
		"a line moves up": {
			[]look.Line{fares, winter, contact},
			[]look.Line{contact, fares, winter},
			[]string{"moves “Contact” → /contact, first"},
		},
		"a line moves from behind one to behind another of the same label": {
			[]look.Line{fares, contact, winter, line("Fares", "/fares-2")},
			[]look.Line{fares, winter, line("Fares", "/fares-2"), contact},
			[]string{"moves “Contact” → /contact, after the second “Fares”"},
		},
		"a line moves below one": {
			[]look.Line{fares, winter},
			[]look.Line{line("Fares", "/fares", winter)},
			[]string{"moves “Winter” → /winter, first in “Fares”"},
		},
		"a line is renamed": {
			[]look.Line{fares},
			[]look.Line{line("Prices", "/fares")},
			[]string{"renames “Fares” becomes “Prices”"},
		},
		"a line leads elsewhere": {
			[]look.Line{fares},
			[]look.Line{line("Fares", "/prices")},
			[]string{"leads “Fares” leads to /prices instead of /fares"},
		},
		"a line gets a hint": {
			[]look.Line{fares},
			[]look.Line{hinted},
			[]string{"dresses “Fares” has the hint “Prices” instead of “”"},
		},
		"a branch moves as it is": {
			[]look.Line{line("A", "/a", winter), fares},
			[]look.Line{fares, line("A", "/a", winter)},
			[]string{"moves “A” → /a, after “Fares”"},
		},
		"what was below stays": {
			[]look.Line{line("A", "/a", winter)},
			[]look.Line{winter},
			[]string{"loses “A” → /a", "moves “Winter” → /winter, first"},
		},
		"another one with its name": {
			[]look.Line{fares},
			[]look.Line{winter},
			[]string{"gains “Winter” → /winter, first", "loses “Fares” → /fares"},
		},
	} {
		var got []string
		for _, ch := range lineChanges(c.was, c.is) {
			got = append(got, string(ch.kind)+" "+ch.item)
		}
		slices.Sort(got)
		assert.Equal(t, c.want, got, name)
	}
}

// Nothing is said of equal menus, and something of all others.
func TestLinesThatDifferAreNeverSilent(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		draw := func(name string) []look.Line {
			lines := rapid.SliceOfNDistinct(
				rapid.SampledFrom([]string{"A", "B", "C", "D"}),
				0,
				4,
				rapid.ID[string],
			).Draw(
				t,
				name,
			)
			made := make([]look.Line, len(lines))
			for i, label := range lines {
				made[i] = line(label, rapid.SampledFrom([]string{"/a", "/b", "/c"}).Draw(t, "to"))
				if i == 0 && rapid.Bool().Draw(t, "below") {
					made[i].Lines = []look.Line{line("E", "/e")}
				}
			}
			return made
		}
		was, is := draw("was"), draw("is")
		same := slices.Equal(look.WordsOf(was), look.WordsOf(is))
		assert.Equal(t, same, len(lineChanges(was, is)) == 0, "%v and %v", was, is)
	})
}

// Whatever a look has, two that differ in it alone are told apart: a look has no part that no change is read off.
func TestEveryPartOfALookIsTold(t *testing.T) {
	page := look.Link{Label: "Fares", Href: "/fares"}
	parts := map[string][2]look.Look{
		"Named": {{Named: "Near here"}, {Named: "Far off"}},
		"Title": {{Title: "Near here", Level: 2}, {Title: "Far off", Level: 2}},
		"Level": {{Title: "Near here", Level: 2}, {Title: "Near here", Level: 3}},
		"Lines": {{Lines: []look.Line{line("Fares", "/fares")}}, {}},
		"Pages": {{Pages: []look.Link{page}}, {}},
		"Rows":  {{Rows: []look.Row{{Link: page, Summary: "Dear"}}}, {Rows: []look.Row{{Link: page, Summary: "Cheap"}}}},
		"Table": {{Rows: []look.Row{{Link: page}}, Table: true}, {Rows: []look.Row{{Link: page}}}},
		"Text":  {{Text: "<p>Near</p>"}, {Text: "<p>Far</p>"}},
		"File":  {{File: "pier.jpg"}, {File: "mole.jpg"}},
		"Other": {{Other: "the account line"}, {Other: "the name"}},
		"Alt":   {{File: "pier.jpg", Alt: "The pier"}, {File: "pier.jpg", Alt: "The mole"}},
	}
	for i := range reflect.TypeFor[look.Look]().NumField() {
		name := reflect.TypeFor[look.Look]().Field(i).Name
		if name == "Lit" || name == "LitTo" { // those are told by lightsOf
			continue
		}
		pair, known := parts[name]
		if assert.True(t, known, "%s is a part of a look; give it a case here", name) {
			assert.NotEmpty(t, changesOf(&pair[0], &pair[1]), name)
			assert.Empty(t, changesOf(&pair[0], &pair[0]), name)
		}
	}
}
