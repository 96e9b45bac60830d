package menu_test

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// The lines that a run has right below its root, against the rule as it is written (rules 5.3): listed topics that the
// visitor reaches, with enough pages that they reach, in the order that was asked for, pinned ones first and last.
func TestWhatGrowsIsWhatTheRuleSays(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.RandomTopics(t, testkit.Random(t, 15), 5)
		m := testkit.RandomMenu(t, s)
		for _, lens := range testkit.Lenses() {
			view := menu.NewView(s, m, lens)
			for i := range m.Entries {
				e := &m.Entries[i]
				if to, generated := e.Shows.(site.ItemBranch); generated && menu.WhyNot(s, m, e.ID, lens).Entry == 0 {
					assert.Equal(t, expected(s, e, to, lens), grown(view.RunOf(e.ID)), "%+v", *e)
				}
			}
		}
	})
}

func grown(lines []menu.Line) (words []string) {
	for _, l := range lines {
		line := l.Label
		if l.Counted {
			line += fmt.Sprintf(" (%d)", l.Count)
		}
		words = append(words, line)
	}
	return words
}

func expected(s *site.Site, e *site.Entry, to site.ItemBranch, lens reach.Lens) (words []string) {
	sees := func(id site.PageID) bool { return reach.Ask(s, id, lens) == reach.Sees }
	label := func(p *site.Page) string { return cmp.Or(e.Line(p.ID).Label, p.Label) }
	var lines []*site.Page
	if to.Hits > 0 {
		lines = firstListed(s, to, sees)
	} else {
		for _, kid := range s.Children(to.Root) {
			p := s.Page(kid)
			if p.Listed && sees(kid) && (!p.IsTopic() || pagesAbout(s, kid, sees) >= to.Least) {
				lines = append(lines, p)
			}
		}
	}
	lines = slices.DeleteFunc(lines, func(p *site.Page) bool { return e.Line(p.ID).Hidden })
	byLabel := func(a, b *site.Page) int {
		return cmp.Or(s.Collate(label(a), label(b)), cmp.Compare(label(a), label(b)))
	}
	switch to.By {
	case site.GrownByLabel:
		slices.SortStableFunc(lines, byLabel)
	case site.GrownByCount:
		slices.SortStableFunc(lines, func(a, b *site.Page) int {
			count := func(p *site.Page) int {
				if !p.IsTopic() {
					return 0
				}
				return pagesAbout(s, p.ID, sees)
			}
			return cmp.Or(count(b)-count(a), byLabel(a, b))
		})
	}
	for _, pin := range []site.GrownPin{site.GrownFirst, "", site.GrownLast} {
		for _, p := range lines {
			if e.Line(p.ID).Pin != pin {
				continue
			}
			line := label(p)
			if to.Count && p.IsTopic() {
				line += fmt.Sprintf(" (%d)", pagesAbout(s, p.ID, sees))
			}
			words = append(words, line)
		}
	}
	return words
}

// pagesAbout counts the pages that somebody reaches and that bear a topic or one in it.
func pagesAbout(s *site.Site, topic site.PageID, sees func(site.PageID) bool) (n int) {
	s.Walk(s.Home(), func(p *site.Page) bool {
		about := func(id site.PageID) bool { return s.IsWithin(id, topic) }
		if sees(p.ID) && slices.ContainsFunc(s.TopicsOf(p), about) {
			n++
		}
		return true
	})
	return n
}

// firstListed gives the first pages of the two lists that random sites have: by long name, and the newest.
func firstListed(s *site.Site, to site.ItemBranch, sees func(site.PageID) bool) (hits []*site.Page) {
	form := s.Page(to.Root).Listing
	s.Walk(s.Home(), func(p *site.Page) bool {
		if sees(p.ID) && p.Parent != 0 && p.ID != to.Root && !p.Gathers() {
			hits = append(hits, p)
		}
		return true
	})
	slices.SortFunc(hits, func(a, b *site.Page) int {
		newest := 0
		if strings.Contains(form, "newest") {
			newest = b.FirstOnline.Compare(a.FirstOnline)
		}
		x, y := a.Heading(), b.Heading()
		return cmp.Or(newest, s.Collate(x, y), cmp.Compare(x, y), cmp.Compare(a.ID, b.ID))
	})
	return hits[:min(len(hits), to.Hits)]
}

// What is put below a grown line shows while the line does, and is told idle while it does not.
func TestItemsBelowAGrownLine(t *testing.T) {
	s := testkit.Outline(t, `
Home
  Fog | topics=page:4
  Places | kind=topic-list
    Øyra | kind=topic
      East pier | kind=topic
    The Calf | kind=topic
  Tides`)
	m := &site.Menu{ID: 1, Entries: []site.Entry{
		{ID: 1, Shows: site.ItemBranch{Root: 3, Self: site.SelfNot, Least: 1}},
		{ID: 2, Parent: 1, Under: 4, Shows: site.ItemPage{Page: 7}},
		{ID: 3, Parent: 1, Under: 6, Shows: site.ItemPage{Page: 7}},
	}}
	lens := reach.Lens{At: testkit.Now}
	all := site.Window{First: 1, Unfold: site.UnfoldAll}
	assert.Equal(t, "Øyra* (Tides•*)", draw(menu.NewView(s, m, lens).Window(all, 7)), "it lights up where it leads")
	assert.Equal(t, 2, menu.Level(s, m, 2))
	assert.Equal(t, menu.ReasonLine, menu.WhyNot(s, m, 3, lens).Reason, "The Calf has no page")
	tagged, _, err := edit.Apply(s, edit.OpEdit{Page: 2, Fields: []edit.FieldChange{
		{Field: edit.FieldTopics, Old: "page:4", New: "page:4|page:6"},
	}}, testkit.Now)
	assert.NoError(t, err)
	assert.Equal(t, "Øyra•* (Tides), The Calf (Tides)", draw(menu.NewView(tagged, m, lens).Window(all, 2)))
}

// An item that leads to a list as it is narrowed is lit there and nowhere else, and shows to whom that is offered.
func TestAnItemForANarrowedList(t *testing.T) {
	s := testkit.Outline(t, `
Home
  Documents
  Places | kind=topic-list
    Øyra | kind=topic
    The Calf | kind=topic
  Papers
    Plan of Øyra | topics=page:4 audience=staff`)
	list, oyra := testkit.Find(t, s, "Documents"), testkit.Find(t, s, "Øyra")
	narrow := fmt.Sprintf("t%d=%d", testkit.Find(t, s, "Places"), oyra)
	lists, _, err := edit.Apply(s, edit.OpEdit{Page: list, Fields: []edit.FieldChange{{
		Field: edit.FieldListing, Old: s.Page(list).Listing,
		New: fmt.Sprintf(";;;label;5;;;topic:%d", testkit.Find(t, s, "Places")),
	}}}, testkit.Now)
	assert.NoError(t, err)
	m := &site.Menu{ID: 1, Entries: []site.Entry{
		{ID: 1, Shows: site.ItemPage{Page: list}},
		{ID: 2, Label: "About Øyra", Shows: site.ItemPage{Page: list, Narrow: narrow}},
	}}
	staff := reach.Lens{Visitor: reach.Visitor{SignedIn: true, Roles: []string{"staff"}}, At: testkit.Now}
	all := site.Window{First: 1, Unfold: site.UnfoldAll}
	nodes := menu.NewView(lists, m, staff).Window(all, list)
	assert.Equal(t, "Documents•*, About Øyra", draw(nodes))
	lit, other := menu.Lit(nodes, list, narrow)
	assert.True(t, other)
	assert.Equal(t, "Documents*, About Øyra•*", draw(lit))
	_, other = menu.Lit(nodes, list, "t1=2")
	assert.False(t, other, "no line leads to just that")
	assert.Equal(t, "Documents•*", draw(menu.NewView(lists, m, reach.Lens{At: testkit.Now}).Window(all, list)),
		"nothing is offered to who does not reach the plan")
	_, _, err = edit.Apply(lists, edit.OpPutEntries{Gap: edit.Gap{Menu: 1}, Entries: []edit.EntryForm{
		{ID: 60, Fields: map[edit.Field]string{edit.FieldShows: fmt.Sprintf("page:%d:t1=2", list)}},
	}}, testkit.Now)
	assert.ErrorContains(t, err, "Visitors can't narrow what “Documents” lists to “t1=2”")
}

// Lines that lead to a list which is narrowed to their topics: as many as it has, with its counts, current where it is
// narrowed so; they light up on no page.
func TestLinesThatNarrowAList(t *testing.T) {
	s := testkit.Outline(t, `
Home
  Places | kind=topic-list
    Øyra | kind=topic
      East pier | kind=topic
    The Calf | kind=topic
    Vesterhav | kind=topic
  Papers
    Plan | topics=page:4
    Map | topics=page:3
    Chart | topics=page:5 audience=staff
  Vesterhav today | topics=page:6
  Documents | listing=;;branch:7;label;5;;;topic:2`)
	documents, places := testkit.Find(t, s, "Documents"), testkit.Find(t, s, "Places")
	m := &site.Menu{ID: 1, Entries: []site.Entry{{ID: 1, Shows: site.ItemBranch{
		Root: places, Depth: 2, Self: site.SelfNot, Of: documents, Count: true, By: site.GrownByCount,
	}}}}
	staff := reach.Lens{Visitor: reach.Visitor{SignedIn: true, Roles: []string{"staff"}}, At: testkit.Now}
	all := site.Window{First: 1, Unfold: site.UnfoldAll}
	nodes := menu.NewView(s, m, staff).Window(all, testkit.Find(t, s, "Plan"))
	assert.Equal(t, "Øyra (East pier), The Calf", draw(nodes), "Vesterhav has no page on the list, and nothing is lit")
	assert.Equal(t, []string{"Øyra (2)", "The Calf (1)"}, grown(menu.NewView(s, m, staff).RunOf(1)))
	assert.Equal(t, []string{"Øyra (2)"}, grown(menu.NewView(s, m, reach.Lens{At: testkit.Now}).RunOf(1)))
	lit, other := menu.Lit(nodes, documents, fmt.Sprintf("t%d=%d", places, testkit.Find(t, s, "East pier")))
	assert.True(t, other)
	assert.Equal(t, "Øyra (East pier•*), The Calf", draw(lit))
	for shows, says := range map[string]string{
		fmt.Sprintf("branch:%d:0:not:of=7", places):               "Visitors can't narrow what “Papers” lists",
		fmt.Sprintf("branch:%d:0:above:of=%d", places, documents): "stand without the line of “Places”",
		fmt.Sprintf("branch:7:0:not:of=%d", documents):            "“Papers” is no topic list and no topic",
		fmt.Sprintf("branch:%d:0:not:of=99", places):              "is not there any more",
	} {
		_, _, err := edit.Apply(s, edit.OpPutEntries{Gap: edit.Gap{Menu: 1}, Entries: []edit.EntryForm{
			{ID: 60, Fields: map[edit.Field]string{edit.FieldShows: shows}},
		}}, testkit.Now)
		assert.ErrorContains(t, err, says)
	}
}
