package consequence_test

import (
	"fmt"
	"sort"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/address"
	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

func viewers() consequence.Viewers {
	return consequence.Viewers{Panel: reach.NewPanel(testkit.Lenses()...), Names: []string{"out", "in", "staff", "masters"}}
}

// The comparison against both Sites computed whole, page by page, lens by lens, line by line.
func TestCompareAgreesWithFullRecomputation(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		start, next := testkit.Random(t, 25), site.PageID(1000)
		draft := func(s *site.Site, at time.Time) *site.Site {
			made := s
			for range rapid.IntRange(0, 8).Draw(t, "ops") {
				if edited, _, err := edit.Apply(made, testkit.RandomOp(t, made, &next), at); err == nil {
					made = edited
				}
			}
			return edit.Settle(s, made, at)
		}
		// A site that has been published before, so that there are old addresses to take over.
		was := draft(edit.Settle(site.NewBuilder(testkit.Settings()).Site(), start, testkit.Now.Add(-3*time.Hour)), testkit.Now.Add(-time.Hour))
		is := draft(was, testkit.Now)
		report := consequence.Compare(was, is, viewers())
		assert.Equal(t, naive(was, is), facts(report))
		assert.NotEmpty(t, report.Sentences())
	})
}

// facts writes a report as sorted lines, for one lens each.
func facts(r *consequence.Report) []string {
	var out []string
	say := func(what string, page site.PageID, m reach.Mask) {
		for i := range r.Names {
			if m.Has(i) {
				out = append(out, fmt.Sprintf("%s %d for %d", what, page, i))
			}
		}
	}
	for _, a := range r.Addresses {
		out = append(out, fmt.Sprintf("address %d %s %s", a.Page, a.Was, a.Is))
		if served := sees(r.Was, a.Page, testkit.Lenses()[0]); served && a.Was != "" {
			out = append(out, fmt.Sprintf("old %s of %d %s %d", a.Was, a.Page, a.Old, a.To))
		}
	}
	for _, taken := range r.Taken {
		out = append(out, fmt.Sprintf("taken %s from %d by %d", taken.Address, taken.From, taken.By))
	}
	for _, later := range r.Later {
		out = append(out, fmt.Sprintf("later %d %s %v", later.Page, later.What, later.At))
	}
	for _, p := range r.Pages {
		say("gained", p.Page, p.Gained)
		say("lost", p.Page, p.Lost)
	}
	for _, b := range r.Blocks {
		for _, l := range b.Lines {
			say(b.Block.Name+" gains", l.Page, l.Gained)
			say(b.Block.Name+" loses", l.Page, l.Lost)
			say(b.Block.Name+" renames", l.Page, l.Renamed)
			if l.Moved != 0 && r.Was.Page(l.Page).Parent != r.Is.Page(l.Page).Parent {
				say(b.Block.Name+" moves", l.Page, l.Moved)
			}
		}
	}
	sort.Strings(out)
	return out
}

func naive(was, is *site.Site) []string {
	var out []string
	pages := map[site.PageID]bool{}
	for _, s := range []*site.Site{was, is} {
		s.Walk(s.Home(), func(p *site.Page) bool { pages[p.ID] = true; return true })
	}
	for id := range pages {
		anyone := false
		for i, lens := range testkit.Lenses() {
			before, after := sees(was, id, lens), sees(is, id, lens)
			anyone = anyone || before || after
			if before != after {
				out = append(out, fmt.Sprintf("%s %d for %d", map[bool]string{true: "gained", false: "lost"}[after], id, i))
			}
		}
		if a, b := addressOf(was, id), addressOf(is, id); a != b && anyone {
			out = append(out, fmt.Sprintf("address %d %s %s", id, a, b))
			if sees(was, id, testkit.Lenses()[0]) {
				out = append(out, fmt.Sprintf("old %s of %d %s", a, id, fate(was, is, id)))
			}
		}
		if a, b := addressOf(was, id), addressOf(is, id); a != b && b != "" {
			found := address.Resolve(was, b, testkit.Now)
			if (found.Old || found.Gone) && found.Page != id {
				out = append(out, fmt.Sprintf("taken %s from %d by %d", b, found.Page, id))
			}
		}
		out = append(out, laterOf(was, is, id)...)
	}
	for _, block := range is.Blocks() {
		for i, lens := range testkit.Lenses() {
			before, after := lines(was, block, lens), lines(is, block, lens)
			for id := range pages {
				a, stood := before[id]
				b, stands := after[id]
				switch {
				case stands && !stood:
					out = append(out, fmt.Sprintf("%s gains %d for %d", block.Name, id, i))
				case stood && !stands:
					out = append(out, fmt.Sprintf("%s loses %d for %d", block.Name, id, i))
				case stood && stands && a.Label != b.Label:
					out = append(out, fmt.Sprintf("%s renames %d for %d", block.Name, id, i))
				}
				if stood && stands && was.Page(id).Parent != is.Page(id).Parent {
					out = append(out, fmt.Sprintf("%s moves %d for %d", block.Name, id, i))
				}
			}
		}
	}
	sort.Strings(out)
	return out
}

// fate says what becomes of the old address of a page that was served there, by asking every page where it stands.
func fate(was, is *site.Site, id site.PageID) string {
	old, taken := addressOf(was, id), site.PageID(0)
	is.Walk(is.Home(), func(p *site.Page) bool {
		if address.Of(is, p.ID) == old {
			taken = p.ID
		}
		return taken == 0
	})
	switch to := address.LeadsTo(is, id); {
	case taken != 0:
		return fmt.Sprintf("taken %d", taken)
	case is.InTree(id):
		return "keeps 0"
	case to != 0:
		return fmt.Sprintf("leads %d", to)
	}
	return "gone 0"
}

// laterOf says what the online times of a page in both Sites hold for moments to come.
func laterOf(was, is *site.Site, id site.PageID) []string {
	times := func(s *site.Site) (from, until time.Time, online bool) {
		if from, until, ok := reach.OnlineFrom(s, id); ok {
			future := func(t time.Time) time.Time {
				if t.After(testkit.Now) {
					return t
				}
				return time.Time{}
			}
			return future(from), future(until), !from.After(testkit.Now) && (until.IsZero() || until.After(testkit.Now))
		}
		return time.Time{}, time.Time{}, false
	}
	fromWas, untilWas, _ := times(was)
	fromIs, untilIs, online := times(is)
	var out []string
	switch {
	case !fromIs.IsZero() && !fromIs.Equal(fromWas):
		out = append(out, fmt.Sprintf("later %d appears %v", id, fromIs))
	case !fromWas.IsZero() && fromIs.IsZero() && !online:
		out = append(out, fmt.Sprintf("later %d called off %v", id, fromWas))
	}
	if !untilIs.IsZero() && !untilIs.Equal(untilWas) {
		out = append(out, fmt.Sprintf("later %d vanishes %v", id, untilIs))
	}
	return out
}

func sees(s *site.Site, id site.PageID, lens reach.Lens) bool {
	return s.InTree(id) && reach.Ask(s, id, lens) == reach.Sees
}

func addressOf(s *site.Site, id site.PageID) string {
	if !s.InTree(id) {
		return ""
	}
	return address.Of(s, id)
}

// lines gives the lines of a menu that a block can show, all levels computed, then those of the window kept.
func lines(s *site.Site, block site.Block, lens reach.Lens) map[site.PageID]menu.Line {
	m, w, _ := block.Menu()
	view := menu.NewView(s, s.Menu(m), lens)
	found := map[site.PageID]menu.Line{}
	var walk func([]menu.Line)
	walk = func(ls []menu.Line) {
		for _, l := range ls {
			if l.Level >= w.First && (w.Levels == 0 || l.Level < w.First+w.Levels) {
				found[l.Page] = l
			}
			walk(view.Children(l))
		}
	}
	walk(view.Top())
	return found
}

func texts(r *consequence.Report) []string {
	var out []string
	for _, s := range r.Sentences() {
		out = append(out, s.Text)
	}
	return out
}

func published(t *testing.T, outline string) *site.Site {
	return edit.Settle(site.NewBuilder(testkit.Settings()).Site(), testkit.Outline(t, outline), testkit.Now.Add(-time.Hour))
}

func TestSentences(t *testing.T) {
	s := published(t, "Home\n  Sailings\n    Winter\n      North\n    Summer\n    Fares\n  Harbours\n  Handbook | audience=staff\n  Draft | status=offline\n    Inside")
	page := func(label string) site.PageID { return testkit.Find(t, s, label) }
	set := func(label string, field edit.Field, value string) edit.Op {
		return edit.Edit{Page: page(label), Fields: []edit.FieldChange{{Field: field, Old: edit.Value(s.Page(page(label)), field), New: value}}}
	}
	for _, c := range []struct {
		name string
		op   edit.Op
		want []string
	}{
		{"an offline page takes its branch along", set("Winter", edit.Status, "offline"), []string{
			"2 pages can no longer be reached by everyone.",
			"Header loses 1 item for everyone: “Winter”.", "Side menu loses 2 items for everyone."}},
		{"unlisting takes nothing offline", set("Winter", edit.Listed, "no"), []string{
			"Header loses 1 item for everyone: “Winter”.", "Side menu loses 2 items for everyone."}},
		{"a move", edit.Move{Page: page("Winter"), To: edit.Place{Parent: page("Harbours")}}, []string{
			"2 addresses change; 2 old ones keep working.",
			"Header has 1 item in another place for everyone: “Winter”, first in “Harbours”.",
			"Side menu has 1 item in another place for everyone: “Winter”, first in “Harbours”.", "“Side menu” appears on 1 page, alone in the region “Side”, for everyone."}},
		{"order among siblings", edit.Move{Page: page("Fares"), To: edit.Place{Parent: page("Sailings"), Before: page("Winter")}}, []string{
			"Header has 1 item in another place for everyone: “Fares”, first in “Sailings”.",
			"Side menu has 1 item in another place for everyone: “Fares”, first in “Sailings”."}},
		{"audiences are named", set("Handbook", edit.Status, "offline"), []string{
			"1 page can no longer be reached by staff and masters.",
			"Header loses 1 item for staff and masters: “Handbook”."}},
		{"no effect says why", set("Inside", edit.Title, "A title"), []string{
			"Nobody can tell the difference in public: “Inside” lies in “Draft”, which is not online."}},
		{"concealment, for the branch", set("Handbook", edit.Conceal, "yes"), []string{
			"People without access get another answer at 1 page: “not found”, or again sign-in and “no access”."}},
		{"binned addresses are gone", edit.Bin{Page: page("Winter")}, []string{
			"2 pages can no longer be reached by everyone.", "2 addresses answer “gone”.",
			"Header loses 1 item for everyone: “Winter”.", "Side menu loses 2 items for everyone."}},
		{"a window that begins later", set("Draft", edit.Status, "live"), []string{
			"2 pages appear for everyone.", "Header gains 2 items for everyone.", "Side menu gains 1 item for everyone: “Inside”, first in “Draft”."}},
		{"an end to come", set("Winter", edit.LiveUntil, "2027-03-28T00:00:00Z"), []string{"2 pages go offline on 28 March 2027 at 00:00."}},
		{"a sort rule moves what stands elsewhere", set("Sailings", edit.Sort, "label"), []string{
			"Header has 2 items in another place for everyone.", "Side menu has 2 items in another place for everyone."}},
		{"words", set("Fares", edit.Title, "All fares"), []string{"The words of 1 page change."}},
	} {
		is, _, err := edit.Apply(s, c.op, testkit.Now)
		require.NoError(t, err)
		assert.Equal(t, c.want, texts(consequence.Compare(s, edit.Settle(s, is, testkit.Now), viewers())), c.name)
	}
	assert.Equal(t, []string{"Nothing changes."}, texts(consequence.Compare(s, s, viewers())))
}

func TestRoleSetsBeyondThePanelAreCounted(t *testing.T) {
	b := site.NewBuilder(testkit.Settings())
	var roles []site.Role
	var held [][]string
	for i := range 40 {
		roles = append(roles, site.Role{Key: fmt.Sprint("r", i), Name: fmt.Sprint("Role ", i)})
		if i > 0 {
			held = append(held, []string{fmt.Sprint("r", i-1), fmt.Sprint("r", i)})
		}
	}
	b.SetRoles(roles)
	v := consequence.ViewersOf(b.Site(), held, testkit.Now)
	assert.Len(t, v.Names, reach.PanelLimit)
	assert.Equal(t, 2+40+39-reach.PanelLimit, v.Left)
}
