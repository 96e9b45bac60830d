package ask_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/ask"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// What is carried down the tree against what is asked of each page by itself.
func TestFactsOnTheWayDownAgreeWithEachPage(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 40)
		lens := rapid.SampledFrom(testkit.Lenses()).Draw(t, "lens")
		counts := map[ask.Shape]int{}
		ask.Walk(s, 0, lens, func(f ask.Facts) {
			shape, _ := ask.ShapeOf(s, f.Page.ID, lens.At)
			assert.Equal(t, shape, f.Shape, f.Page.Label)
			assert.Equal(t, reach.NewPanel(lens).At(s, f.Page.ID), f.State)
			assert.Equal(t, s.Level(f.Page.ID), f.Level)
			counts[shape]++
		})
		assert.Equal(t, counts, ask.Counts(s, 0, lens))
		for shape, n := range counts {
			assert.Len(t, ask.Find(s, ask.Query{Question: string(shape)}, lens), n)
		}
		// Edges against asking every page just before and at each moment.
		for _, edge := range ask.Edges(s, lens, 10) {
			appear, vanish := 0, 0
			s.Walk(s.Home(), func(p *site.Page) bool {
				before := reach.Ask(
					s,
					p.ID,
					reach.Lens{Visitor: lens.Visitor, At: edge.At.Add(-time.Nanosecond)},
				) == reach.Sees
				after := reach.Ask(s, p.ID, reach.Lens{Visitor: lens.Visitor, At: edge.At}) == reach.Sees
				if after && !before {
					appear++
				} else if before && !after {
					vanish++
				}
				return true
			})
			assert.Equal(t, []int{appear, vanish}, []int{edge.Appear, edge.Vanish})
		}
	})
}

func TestQuestions(t *testing.T) {
	outline := testkit.Outline(t, `
Home
  Sailings
    Fares | listed=no
      Season tickets
    Winter | live_from=2027-01-01T00:00:00Z
  Notices
    Øyra pier closed
    Øyra pier open | status=offline
    Old | audience=staff
  Draft | status=offline own_address=/fixed`)
	s := edit.Settle(site.NewBuilder(testkit.Settings()).Site(), outline, testkit.Now.AddDate(-2, 0, 0))
	old := testkit.Find(t, s, "Old")
	off, _, err := edit.Apply(
		s,
		edit.OpEdit{Page: old, Fields: []edit.FieldChange{{Field: edit.FieldStatus, Old: "live", New: "offline"}}},
		testkit.Now,
	)
	assert.NoError(t, err)
	s = edit.Settle(s, off, testkit.Now.AddDate(-1, 0, -1))
	find := func(q ask.Query) []string {
		var labels []string
		for _, id := range ask.Find(s, q, reach.Lens{At: testkit.Now}) {
			labels = append(labels, s.Page(id).Label)
		}
		return labels
	}
	notices := testkit.Find(t, s, "Notices")
	for _, c := range []struct {
		q    ask.Query
		want []string
	}{
		{ask.Query{Question: "half"}, []string{"Fares", "Season tickets"}},
		{ask.Query{Question: "stub", Within: notices}, []string{"Øyra pier open", "Old"}},
		{ask.Query{Question: "clock"}, []string{"Winter"}},
		{ask.Query{Question: "offline-year"}, []string{"Old"}},
		{ask.Query{Question: "never"}, []string{"Winter", "Øyra pier open", "Draft"}},
		{ask.Query{Question: "audience"}, []string{"Old"}},
		{ask.Query{Question: "window"}, []string{"Winter"}},
		{ask.Query{Question: "fixed"}, []string{"Draft"}},
		{ask.Query{Question: "moved"}, []string{"Old"}},
		{ask.Query{Question: "draft", Changed: map[site.PageID]bool{notices: true}}, []string{"Notices"}},
		{ask.Query{Words: "closed oyra"}, []string{"Øyra pier closed"}},
		{ask.Query{Words: "PIER", Question: "full"}, []string{"Øyra pier closed"}},
		{ask.Query{Words: "piér"}, []string{"Øyra pier closed", "Øyra pier open"}},
		{ask.Query{Words: "Fares & more"}, nil},
		{ask.Query{Words: "tickets SEASON"}, []string{"Season tickets"}},
		{ask.Query{Words: "nothing like it"}, nil},
	} {
		assert.Equal(t, c.want, find(c.q), "%+v", c.q)
	}
	assert.True(t, ask.Query{Within: notices, Words: " "}.Empty())
	edges := ask.Edges(s, reach.Lens{At: testkit.Now}, 5)
	assert.Len(t, edges, 1)
	assert.Equal(t, "Winter", edges[0].Appears.Label)
}

// What one looks for by its name comes before what only has the word somewhere.
func TestNamed(t *testing.T) {
	s := testkit.Outline(t, `
Home
  Moorings
    Winter storage
    In winter
  Sailings
    Timetables
      Winter
        Øyra
    Åsgarth and Øyra
  Winterport`)
	for phrase, want := range map[string][]string{
		"winter":       {"Winter", "Winter storage", "Winterport", "In winter"},
		" WINTER ":     {"Winter", "Winter storage", "Winterport", "In winter"},
		"oyra":         {"Øyra", "Åsgarth and Øyra"},
		"ØYRA åsgarth": {"Åsgarth and Øyra"},
		"winterish":    {},
		" ":            {},
	} {
		labels := []string{}
		for _, id := range ask.Named(s, phrase, nil, 4) {
			labels = append(labels, s.Page(id).Label)
		}
		assert.Equal(t, want, labels, phrase)
	}
	assert.Len(t, ask.Named(s, "i", nil, 2), 2)
	assert.Equal(t, testkit.Find(t, s, "Winter"), ask.Named(s, "winter", nil, 1)[0])
}

// In how many menus a visitor finds a page is asked of many pages at once, and page by page: both say the same.
func TestInNoMenuAndInSeveral(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s, _ := testkit.RandomFurnished(t, 16)
		lens := rapid.SampledFrom(testkit.Lenses()).Draw(t, "lens")
		none, several := map[site.PageID]bool{}, map[site.PageID]bool{}
		for _, id := range ask.Find(s, ask.Query{Question: "no-menu"}, lens) {
			none[id] = true
		}
		for _, id := range ask.Find(s, ask.Query{Question: "menus"}, lens) {
			several[id] = true
		}
		s.Walk(s.Home(), func(p *site.Page) bool {
			menus := map[site.MenuID]bool{}
			for _, at := range region.Where(s, p.ID, lens) {
				menus[at.Menu.ID] = true
			}
			seen := reach.Ask(s, p.ID, lens) == reach.Sees
			require.Equal(t, seen && len(menus) == 0, none[p.ID], p.Label)
			require.Equal(t, len(menus) > 1, several[p.ID], p.Label)
			return true
		})
	})
}

// What a site asks by itself is what its lists list, for the same visitor, and its types: the tree's filter and the
// public list give the same pages.
func TestQuestionsOfASite(t *testing.T) {
	s := testkit.Outline(t, `
Home
  Notices
    Fog | kind=notice
    Ice | kind=notice audience=staff
  News | listing=notice;;branch:2;label;5
  Storm | kind=notice`)
	news, lens := testkit.Find(t, s, "News"), reach.Lens{At: testkit.Now}
	q, _ := listing.Of(s, news)
	key := fmt.Sprint("list:", news)
	assert.Equal(t, listing.Hits(s, news, q, reach.NewPanel(lens)), ask.Find(s, ask.Query{Question: key}, lens))
	assert.Len(t, ask.Find(s, ask.Query{Question: key}, lens), 1)
	assert.Len(t, ask.Find(s, ask.Query{Question: "kind:notice"}, lens), 3)
	assert.Len(t, ask.Find(s, ask.Query{Question: "list:99"}, lens), 6, "what is not known asks for nothing")
	groups := map[string][]string{}
	for _, of := range ask.Questions(s) {
		groups[of.Group] = append(groups[of.Group], of.Words)
		answers, found := ask.Answers(
			s,
			ask.Query{Question: of.Key},
			lens,
		), ask.Find(
			s,
			ask.Query{Question: of.Key},
			lens,
		)
		s.Walk(s.Home(), func(p *site.Page) bool {
			assert.Equal(t, slices.Contains(found, p.ID), answers(p), "%s of %s", of.Key, p.Label)
			return true
		})
	}
	assert.Equal(t, []string{"News"}, groups["On the list of"])
}

// Words that a page has not may stand above it; it must have one of them itself, and comes behind those that have all.
func TestNamedByWhatStandsAbove(t *testing.T) {
	s := testkit.Outline(t, `
Home
  North pier
    Services
      Fuel
  South pier
    Services
      Fuel
  Fuel for the north pier`)
	labels := func(phrase string) (all []string) {
		for _, id := range ask.Named(s, phrase, nil, 9) {
			all = append(all, s.Page(s.Page(id).Parent).Label+"/"+s.Page(id).Label)
		}
		return all
	}
	assert.Equal(t, []string{"Home/Fuel for the north pier", "Services/Fuel"}, labels("fuel north pier"))
	assert.Equal(t, []string{"North pier/Services"}, labels("services north"))
	assert.Empty(t, labels("fuel east"))
}
