package menu_test

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// a menu of every type of entry, over a small site.
func everyEntry(t *testing.T) (*site.Site, *site.Menu) {
	s := testkit.Outline(t, `
Home
  Sailings
    Winter
    Fares | audience=staff
  Handbook | audience=staff
    Rotas
  Offline | status=offline`)
	page := func(label string) site.Shows { return site.ItemPage{Page: testkit.Find(t, s, label)} }
	m := site.Menu{ID: 1, Key: "main", Entries: []site.Entry{
		{ID: 1, Shows: page("Sailings"), Label: "Boats"},
		{ID: 2, Parent: 1, Shows: site.ItemBranch{Root: testkit.Find(t, s, "Sailings"), Self: site.SelfNot}},
		{ID: 3, Shows: site.ItemHeading{}, Label: "For staff"},
		{ID: 4, Parent: 3, Shows: page("Handbook")},
		{ID: 5, Parent: 4, Shows: site.ItemBranch{Root: testkit.Find(t, s, "Handbook"), Self: site.SelfNot}},
		{ID: 6, Shows: page("Offline")},
		{ID: 7, Shows: site.ItemWeb{Address: "https://weather.example/"}, Label: "Weather", Off: true},
		{
			ID:       8,
			Shows:    site.ItemWeb{Address: "https://tides.example/"},
			Label:    "Tides",
			LiveFrom: testkit.Now.Add(time.Hour),
		},
		{ID: 9, Shows: site.ItemAccount{Does: site.AccountSignIn}, Label: "Sign in"},
		{ID: 10, Shows: site.ItemAccount{Does: site.AccountSignOut}, Label: "Sign out"},
		{ID: 11, Shows: site.ItemFile{File: "map.pdf"}, Label: "Map", Audience: "staff"},
		{ID: 12, Shows: site.ItemHeading{}, Label: "Empty"},
		{ID: 13, Parent: 12, Shows: page("Offline")},
	}}
	b := s.Builder()
	b.SetMenus([]site.Menu{m})
	return b.Site(), &m
}

var whole = site.Window{First: 1, From: site.FromWhole, Unfold: site.UnfoldAll}

func TestEntriesOfEveryTypeForEveryVisitor(t *testing.T) {
	s, m := everyEntry(t)
	page := func(label string) site.PageID { return testkit.Find(t, s, label) }
	staff := reach.Visitor{SignedIn: true, Roles: []string{"staff"}}
	for _, c := range []struct {
		name    string
		lens    reach.Lens
		window  site.Window
		current string
		want    string
	}{
		{"signed out", reach.Lens{At: testkit.Now}, whole, "Home", "Boats (Winter), Sign in"},
		{
			"staff",
			reach.Lens{Visitor: staff, At: testkit.Now},
			whole, "Home",
			"Boats (Winter, Fares), For staff (Handbook (Rotas)), Sign out, Map",
		},
		{"an hour later", reach.Lens{At: testkit.Now.Add(time.Hour)}, whole, "Home", "Boats (Winter), Tides, Sign in"},
		{
			"the trail goes through a heading",
			reach.Lens{Visitor: staff, At: testkit.Now},
			whole, "Rotas",
			"Boats (Winter, Fares), For staff* (Handbook* (Rotas•*)), Sign out, Map",
		},
		{
			"an own label lights up as the page's does",
			reach.Lens{At: testkit.Now},
			site.Window{First: 1, Levels: 1, From: site.FromTrail, Unfold: site.UnfoldAll},
			"Winter", "Boats•*, Sign in",
		},
		{
			"the children of one entry",
			reach.Lens{Visitor: staff, At: testkit.Now},
			site.Window{From: site.FromEntry, Entry: 3, Levels: 1, Unfold: site.UnfoldAll},
			"Rotas", "Handbook•*",
		},
		{
			"the children of one entry, all levels",
			reach.Lens{Visitor: staff, At: testkit.Now},
			site.Window{From: site.FromEntry, Entry: 3, Unfold: site.UnfoldAll},
			"Home", "Handbook (Rotas)",
		},
		{
			"the children of an entry that is a run",
			reach.Lens{Visitor: staff, At: testkit.Now},
			site.Window{From: site.FromEntry, Entry: 2, Unfold: site.UnfoldAll},
			"Home", "Winter, Fares",
		},
		{
			"nothing of an entry that does not show",
			reach.Lens{At: testkit.Now},
			site.Window{From: site.FromEntry, Entry: 3, Unfold: site.UnfoldAll},
			"Home", "",
		},
		{
			"level 2 along the trail",
			reach.Lens{Visitor: staff, At: testkit.Now},
			site.Window{First: 2, From: site.FromTrail, Unfold: site.UnfoldTrail},
			"Rotas", "Handbook* (Rotas•*)",
		},
		{
			"level 2 of the whole menu",
			reach.Lens{Visitor: staff, At: testkit.Now},
			site.Window{First: 2, Levels: 1, From: site.FromWhole, Unfold: site.UnfoldAll},
			"Home", "Winter, Fares, Handbook",
		},
		{
			"level 3 where the trail does not reach",
			reach.Lens{Visitor: staff, At: testkit.Now},
			site.Window{First: 3, From: site.FromTrail, Unfold: site.UnfoldAll},
			"Home", "",
		},
	} {
		assert.Equal(t, c.want, draw(menu.NewView(s, m, c.lens).Window(c.window, page(c.current))), c.name)
	}
}

func TestTheReasonNamesTheHighestEntryThatFails(t *testing.T) {
	s, m := everyEntry(t)
	for id, want := range map[site.EntryID]menu.Why{
		1: {}, 2: {}, 3: {Entry: 3, Reason: menu.ReasonChildren}, 4: {Entry: 4, Reason: menu.ReasonTarget}, 5: {
			Entry:  4,
			Reason: menu.ReasonTarget,
		},
		6: {Entry: 6, Reason: menu.ReasonTarget}, 7: {Entry: 7, Reason: menu.ReasonOff}, 8: {
			Entry:  8,
			Reason: menu.ReasonWindow,
		}, 9: {},
		10: {Entry: 10, Reason: menu.ReasonAccount}, 11: {Entry: 11, Reason: menu.ReasonAudience}, 12: {
			Entry:  12,
			Reason: menu.ReasonChildren,
		},
	} {
		assert.Equal(t, want, menu.WhyNot(s, m, id, reach.Lens{At: testkit.Now}), "entry %d", id)
	}
}

// Laws over random menus: a window never shows what the menu hides; a trail is a path; what fewer roles see is a subset
// of what more roles see, account entries aside.
func TestLawsOfWindows(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 25)
		m := testkit.RandomMenu(t, s)
		lens := rapid.SampledFrom(testkit.Lenses()).Draw(t, "lens")
		v := menu.NewView(s, m, lens)
		type key struct {
			entry site.EntryID
			page  site.PageID
		}
		shown := map[key]int{}
		above := map[key]key{}
		paths := map[key][]menu.Line{}
		var walk func([]menu.Line, []menu.Line, key)
		walk = func(lines, path []menu.Line, over key) {
			for _, l := range lines {
				k := key{l.Entry, l.Page}
				shown[k], above[k] = l.Level, over
				paths[k] = append(slices.Clone(path), l)
				walk(v.Children(l), paths[k], k)
			}
		}
		walk(v.Top(), nil, key{})
		w := site.Window{
			First: rapid.IntRange(1, 3).Draw(t, "first"), Levels: rapid.IntRange(0, 2).Draw(t, "levels"),
			From:   rapid.SampledFrom([]site.From{site.FromTrail, site.FromWhole, site.FromEntry}).Draw(t, "from"),
			Entry:  site.EntryID(rapid.IntRange(1, len(m.Entries)).Draw(t, "entry")),
			Unfold: rapid.SampledFrom([]site.Unfold{site.UnfoldAll, site.UnfoldTrail}).Draw(t, "unfold"),
		}
		current := site.PageID(rapid.IntRange(1, s.Count()).Draw(t, "current"))
		marked := 0
		within := map[key]bool{}
		var check func([]menu.Node)
		check = func(nodes []menu.Node) {
			for _, n := range nodes {
				level, known := shown[key{n.Entry, n.Page}]
				if !known || level != n.Level {
					t.Fatalf("the window shows %+v, which the menu has at level %d", n.Line, level)
				}
				if !menu.CanShow(s, m, w, n.Entry, n.Level) {
					t.Fatalf("the window shows %+v, which it can't", n.Line)
				}
				if n.Current != "" {
					marked++
				}
				within[key{n.Entry, n.Page}] = true
				check(n.Children)
			}
		}
		check(v.Window(w, current))
		for k, path := range paths {
			if why := v.OutsideOf(w, current, path); (why == "") != within[k] {
				t.Fatalf("%+v is in the window: %v; why not: %q", path[len(path)-1], within[k], why)
			}
		}
		if marked > 1 {
			t.Fatalf("%d lines are current", marked)
		}
		trail := v.Trail(current)
		for i, line := range trail {
			over := key{}
			if i > 0 {
				over = key{trail[i-1].Entry, trail[i-1].Page}
			}
			if above[key{line.Entry, line.Page}] != over || line.Level != i+1 {
				t.Fatalf("the trail is no path: %+v", trail)
			}
		}
		more := menu.NewView(
			s,
			m,
			reach.Lens{
				Visitor: reach.Visitor{SignedIn: true, Roles: []string{"masters", "operators", "staff"}},
				At:      lens.At,
			},
		)
		wider := map[key]bool{}
		var all func([]menu.Line)
		all = func(lines []menu.Line) {
			for _, l := range lines {
				wider[key{l.Entry, l.Page}] = true
				all(more.Children(l))
			}
		}
		all(more.Top())
		for k := range shown {
			if _, account := m.Entry(k.entry).Shows.(site.ItemAccount); !wider[k] && !account {
				t.Fatalf("%v shows to fewer roles and not to more", k)
			}
		}
	})
}
