package menu_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// The table of rules 5.4: which line is lit on a page that bears topics, when it is in the menu itself, when a page
// above it is, and when neither is.
func TestTheTrailGoesOnThroughTopics(t *testing.T) {
	s := testkit.Outline(t, `
Home
  Harbours
    North pier | topics=page:8|page:12
  Notices
    Fog | topics=page:9
    Wind | topics=page:8|page:13
  Places | kind=topic-list
    Øyra | kind=topic
      East pier | kind=topic
    The Calf | kind=topic
  Services | kind=topic-list
    Fuel | kind=topic
    Water | kind=topic`)
	find := func(label string) site.PageID { return testkit.Find(t, s, label) }
	page := func(id, parent site.EntryID, label string) site.Entry {
		return site.Entry{ID: id, Parent: parent, Shows: site.ItemPage{Page: find(label)}}
	}
	grown := func(id, parent site.EntryID, root string) site.Entry {
		return site.Entry{ID: id, Parent: parent, Shows: site.ItemBranch{Root: find(root), Self: site.SelfNot}}
	}
	for name, c := range map[string]struct {
		entries []site.Entry
		want    map[string]string
	}{
		"a topic in the menu": {
			[]site.Entry{page(1, 0, "Øyra"), page(2, 0, "The Calf")},
			map[string]string{
				"Fog": "Øyra", "Wind": "Øyra", "Øyra": "Øyra", "East pier": "Øyra", "The Calf": "The Calf", "Harbours": "",
			},
		},
		"the deepest in its list": {
			[]site.Entry{page(1, 0, "Øyra"), page(2, 0, "East pier")},
			map[string]string{"Fog": "East pier", "Wind": "Øyra"},
		},
		"between lists the first in the menu": {
			[]site.Entry{page(1, 0, "Water"), page(2, 0, "Øyra"), page(3, 0, "Fuel")},
			map[string]string{"Wind": "Water", "North pier": "Øyra", "Fog": "Øyra"},
		},
		"a page above comes before topics": {
			[]site.Entry{page(1, 0, "Øyra"), page(2, 0, "Notices")},
			map[string]string{"Fog": "Notices", "Notices": "Notices", "North pier": "Øyra"},
		},
		"and goes on to topics below it": {
			[]site.Entry{page(1, 0, "Notices"), page(2, 1, "Fuel"), page(3, 1, "Øyra"), page(4, 3, "East pier")},
			map[string]string{"Fog": "Notices > Øyra > East pier", "Wind": "Notices > Øyra", "Notices": "Notices"},
		},
		"the page itself is the end": {
			[]site.Entry{page(1, 0, "Fog"), page(2, 1, "Øyra")},
			map[string]string{"Fog": "Fog", "Wind": "Fog > Øyra"},
		},
		"a menu that grows": {
			[]site.Entry{grown(1, 0, "Places")},
			map[string]string{"Fog": "Øyra > East pier", "Wind": "Øyra", "The Calf": "The Calf", "Harbours": ""},
		},
		"below a heading": {
			[]site.Entry{{ID: 1, Label: "Islands", Shows: site.ItemHeading{}}, grown(2, 1, "Places")},
			map[string]string{"Fog": "Islands > Øyra > East pier"},
		},
		"the list itself is no topic": {
			[]site.Entry{page(1, 0, "Places")},
			map[string]string{"Fog": "", "Øyra": "Places"},
		},
	} {
		m := &site.Menu{ID: 1, Entries: c.entries}
		view := menu.NewView(s, m, reach.Lens{At: testkit.Now})
		for on, want := range c.want {
			var labels []string
			for _, line := range view.Trail(find(on)) {
				labels = append(labels, line.Label)
			}
			assert.Equal(t, want, strings.Join(labels, " > "), "%s, on %s", name, on)
		}
	}
}

// A topic in the bin lights nothing; nor does one that the visitor does not reach.
func TestATopicThatIsNotThereLightsNothing(t *testing.T) {
	s := testkit.Outline(t, `
Home
  Fog | topics=page:4|page:5
  Places | kind=topic-list
    Øyra | kind=topic audience=staff
    The Calf | kind=topic status=offline`)
	m := &site.Menu{ID: 1, Entries: []site.Entry{
		{ID: 1, Shows: site.ItemPage{Page: 4}}, {ID: 2, Shows: site.ItemPage{Page: 5}},
	}}
	assert.Empty(t, menu.NewView(s, m, reach.Lens{At: testkit.Now}).Trail(2))
	staff := reach.Lens{Visitor: reach.Visitor{SignedIn: true, Roles: []string{"staff"}}, At: testkit.Now}
	assert.Len(t, menu.NewView(s, m, staff).Trail(2), 1)
}

// A line for a list is lit on what it lists, but not where the tree or a topic lights another one.
func TestTheTrailGoesOnToLists(t *testing.T) {
	s := testkit.Outline(t, `
Home
  News | listing=notice;;;newest;5
  Harbours
    Fog | kind=notice
  Papers
    Ice | kind=notice topics=page:9
    Plan
  Places | kind=topic-list
    Øyra | kind=topic`)
	find := func(label string) site.PageID { return testkit.Find(t, s, label) }
	m := &site.Menu{ID: 1, Entries: []site.Entry{
		{ID: 1, Shows: site.ItemPage{Page: find("Harbours")}},
		{ID: 2, Shows: site.ItemPage{Page: find("News")}},
		{ID: 3, Parent: 1, Shows: site.ItemPage{Page: find("News")}},
		{ID: 4, Shows: site.ItemPage{Page: find("Øyra")}},
	}}
	view := menu.NewView(s, m, reach.Lens{At: testkit.Now})
	for on, want := range map[string]string{
		"Fog": "Harbours > News", "Ice": "Øyra", "Plan": "", "News": "Harbours > News", "Harbours": "Harbours",
	} {
		var labels []string
		for _, line := range view.Trail(find(on)) {
			labels = append(labels, line.Label)
		}
		assert.Equal(t, want, strings.Join(labels, " > "), "on %s", on)
	}
	end, by, lit := view.LitBy(find("Fog"))
	assert.True(t, lit)
	assert.Equal(t, []site.PageID{find("News"), find("News")}, []site.PageID{end.Page, by})
}
