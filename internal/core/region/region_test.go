package region_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/listing"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// The walk that covers all pages, against asking about each page and filling the block there.
func TestCoverAgreesWithAskingPageByPage(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s, block := testkit.RandomFurnished(t, 25)
		s = perhapsClosed(t, s)
		panel := reach.NewPanel(testkit.Lenses()...)
		got := map[site.PageID]reach.Mask{}
		region.Cover(s, s.Block(block.ID), panel, func(p *site.Page, shows reach.Mask) { got[p.ID] = shows })
		want := map[site.PageID]reach.Mask{}
		s.Walk(s.Home(), func(p *site.Page) bool {
			for i, lens := range testkit.Lenses() {
				if reach.Ask(s, p.ID, lens) == reach.Sees && region.Placed(s, block.ID, p.ID, lens) &&
					fills(s, &block, p.ID, lens) {
					want[p.ID] |= 1 << i
				}
			}
			return true
		})
		assert.Equal(t, want, got)
		top := site.PageID(rapid.IntRange(1, s.Count()).Draw(t, "top"))
		inside := map[site.PageID]reach.Mask{}
		region.CoverBranches(
			s,
			s.Block(block.ID),
			panel,
			[]site.PageID{top},
			func(p *site.Page, shows reach.Mask) { inside[p.ID] = shows },
		)
		for id, shows := range want {
			if !s.IsWithin(id, top) {
				shows = 0
			}
			if inside[id] != shows {
				t.Fatalf("page %d from branch %d: %b, want %b", id, top, inside[id], shows)
			}
		}
	})
}

// Lacking is asking page by page whether only the region is missing.
func TestLackingAgreesWithAskingPageByPage(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s, block := testkit.RandomFurnished(t, 20)
		lens := rapid.SampledFrom(testkit.Lenses()).Draw(t, "lens")
		for _, p := range s.PlacementsOf(block.ID) {
			everywhere := *p
			everywhere.Region, everywhere.Layout = site.ContentRegion, ""
			var want []site.PageID
			s.Walk(s.Home(), func(page *site.Page) bool {
				if region.Ask(s, p, page.ID, lens) == region.ReasonNoRegion &&
					region.Ask(s, &everywhere, page.ID, lens) == "" &&
					reach.Ask(s, page.ID, lens) == reach.Sees {
					want = append(want, page.ID)
				}
				return true
			})
			assert.ElementsMatch(t, want, region.Lacking(s, p, lens))
		}
	})
}

// perhapsClosed closes a site, with one of its pages to show meanwhile.
func perhapsClosed(t *rapid.T, s *site.Site) *site.Site {
	settings := s.Settings()
	settings.Closed = rapid.Bool().Draw(t, "closed")
	settings.Shut = site.PageID(rapid.IntRange(1, s.Count()).Draw(t, "shut"))
	b := s.Builder()
	b.SetSettings(settings)
	return b.Site()
}

// What leads elsewhere stands on no page that is shown because the site is closed; all other blocks do.
func TestTheClosedPageLeadsNowhere(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s, _ := testkit.RandomFurnished(t, 12)
		open, closed := s.Settings(), s.Settings()
		open.Closed, closed.Closed = false, true
		open.Shut = site.PageID(rapid.IntRange(1, s.Count()).Draw(t, "shut"))
		closed.Shut = open.Shut
		with := func(settings site.Settings) *site.Site {
			b := s.Builder()
			b.SetSettings(settings)
			return b.Site()
		}
		was, is := with(open), with(closed)
		lens := rapid.SampledFrom(testkit.Lenses()).Draw(t, "lens")
		for i := range s.Placements() {
			p := &s.Placements()[i]
			block := s.Block(p.Block)
			s.Walk(s.Home(), func(page *site.Page) bool {
				before, after := region.Ask(was, p, page.ID, lens), region.Ask(is, p, page.ID, lens)
				if page.ID != open.Shut || !region.Leads(block) {
					require.Equal(t, before, after)
				} else {
					require.NotEmpty(t, after)
				}
				return true
			})
		}
	})
}

// fills says whether a block has something to show on a page, by making it.
func fills(s *site.Site, b *site.Block, page site.PageID, lens reach.Lens) bool {
	switch piece := b.Shows.(type) {
	case site.BlockMenu:
		return len(menu.NewView(s, s.Menu(piece.Menu), lens).Window(piece.Window, page)) > 0
	case site.BlockChildren:
		for _, kid := range s.Children(page) {
			if s.Page(kid).Listed && reach.Ask(s, kid, lens) == reach.Sees {
				return true
			}
		}
		return false
	case site.BlockSearch:
		to := s.Settings().Search
		return to != 0 && reach.Ask(s, to, lens) == reach.Sees
	case site.BlockBreadcrumb:
		return page != s.Home()
	case site.BlockListing:
		found := false
		s.Walk(s.Home(), func(p *site.Page) bool {
			found = found || p.ID != page && listing.Answering(s, piece)(p) && reach.Ask(s, p.ID, lens) == reach.Sees
			return !found
		})
		return found
	}
	return true
}

func TestPatternsOfAddresses(t *testing.T) {
	for _, c := range []struct {
		pattern, address string
		want             bool
	}{
		{"/harbours", "/harbours", true},
		{"/harbours", "/harbours/north-pier", false},
		{"/harbours/*", "/harbours/north-pier", true},
		{"/harbours/*", "/harbours", false},
		{"/harbours/*", "/harbours/north-pier/fuel", false},
		{"/harbours/**", "/harbours", true},
		{"/harbours/**", "/harbours/north-pier/fuel", true},
		{"/**/fuel", "/harbours/north-pier/fuel", true},
		{"/**/fuel", "/fuel", true},
		{"/**/fuel", "/harbours/fuel/price", false},
		{"/*/north-pier/**", "/harbours/north-pier", true},
		{"/", "/", true},
		{"/", "/harbours", false},
		{"/**", "/", true},
		{"/*", "/", false},
	} {
		assert.Equal(t, c.want, region.Matches(c.pattern, c.address), "%s on %s", c.pattern, c.address)
	}
}

func TestALayoutIsDecidedInFourSteps(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings | kind=notice\n    Fares\n      Concessions\n  Contact")
	set := func(label string, change func(*site.Page)) {
		p := *s.Page(testkit.Find(t, s, label))
		change(&p)
		b := s.Builder()
		b.Put(&p)
		s = b.Site()
	}
	decided := func(label string) region.Decision { return region.LayoutOf(s, testkit.Find(t, s, label)) }
	assert.Equal(t, region.LayoutBySite, decided("Fares").By, "nothing is set: the theme's first layout")
	assert.Equal(t, "standard", decided("Fares").Layout.Key)
	set("Sailings", func(p *site.Page) { p.BranchLayout = "wide" })
	assert.Equal(
		t,
		region.Decision{Layout: s.Layout("wide"), By: region.LayoutByBranch, From: testkit.Find(t, s, "Sailings")},
		decided("Concessions"),
	)
	set("Fares", func(p *site.Page) { p.BranchLayout = "standard" })
	assert.Equal(t, testkit.Find(t, s, "Fares"), decided("Concessions").From, "the nearest branch layout counts")
	b := s.Builder()
	b.SetKinds([]site.Kind{{Key: "notice", Name: "Notice", Layout: "standard"}})
	s = b.Site()
	assert.Equal(t, region.LayoutByKind, decided("Sailings").By, "the kind comes before the branch")
	set("Sailings", func(p *site.Page) { p.Layout = "wide" })
	assert.Equal(t, region.LayoutByPage, decided("Sailings").By, "its own comes before the kind")
	set("Sailings", func(p *site.Page) { p.Layout = "sold" })
	assert.Equal(
		t,
		region.LayoutByKind,
		decided("Sailings").By,
		"a layout that the theme does not have decides nothing",
	)
}

func TestWhyAPlacementDoesNotStand(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings\n    Fares\n  Contact | status=offline")
	fares, sailings := testkit.Find(t, s, "Fares"), testkit.Find(t, s, "Sailings")
	visitor := reach.Lens{At: testkit.Now}
	for _, c := range []struct {
		name string
		p    site.Placement
		want region.Reason
	}{
		{"nothing is stated", site.Placement{}, ""},
		{"off", site.Placement{Off: true}, region.ReasonOff},
		{"another layout", site.Placement{Layout: "wide"}, region.ReasonLayout},
		{"no such region", site.Placement{Region: "attic"}, region.ReasonNoRegion},
		{
			"elsewhere",
			site.Placement{Conditions: site.Conditions{Where: []site.Spot{{Page: sailings}}}},
			region.ReasonElsewhere,
		},
		{"a branch holds for what is in it", site.Placement{Conditions: site.Conditions{Where: []site.Spot{{
			Page:   sailings,
			Branch: true,
		}}}}, ""},
		{"leaving out wins", site.Placement{Conditions: site.Conditions{
			Where:  []site.Spot{{Page: fares}},
			Except: []site.Spot{{Pattern: "/sailings/**"}},
		}}, region.ReasonLeftOut},
		{"a kind", site.Placement{Conditions: site.Conditions{Kinds: []string{"notice"}}}, region.ReasonKind},
		{"not a kind", site.Placement{Conditions: site.Conditions{NotKinds: []string{"page"}}}, region.ReasonNotKind},
		{"an audience", site.Placement{Conditions: site.Conditions{Audience: "staff"}}, region.ReasonOthers},
		{"a window that is over", site.Placement{Conditions: site.Conditions{LiveUntil: testkit.Now}}, region.ReasonTime},
		{
			"what was named is gone",
			site.Placement{Conditions: site.Conditions{Where: []site.Spot{{Page: 99, Branch: true}}}},
			region.ReasonGone,
		},
	} {
		if c.p.Region == "" {
			c.p.Region = "side"
		}
		assert.Equal(t, c.want, region.Ask(s, &c.p, fares, visitor), c.name)
	}
}

// WAI-ARIA Authoring Practices, landmark regions: navigation landmarks on one page have different names unless their
// links are the same.
func TestLandmarksOfOnePageHaveNamesOfTheirOwn(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings\n    Fares")
	b := s.Builder()
	whole := site.Window{First: 1, Levels: 1, From: site.FromWhole, Unfold: site.UnfoldAll}
	deep := site.Window{First: 2, From: site.FromTrail, Unfold: site.UnfoldAll}
	blocks := []site.Block{
		testkit.MenuBlock(1, "Menu", 1, whole),
		testkit.MenuBlock(2, "Menu", 1, deep),
		testkit.MenuBlock(3, "Menu", 1, whole),
	}
	b.SetBlocks(blocks, testkit.PlaceBlocks(blocks...))
	s = b.Site()
	_, areas := region.NewFrame(s, reach.Lens{At: testkit.Now}).On(testkit.Find(t, s, "Sailings"))
	var names []string
	for _, area := range areas {
		for _, st := range area.Standings {
			names = append(names, st.Landmark)
		}
	}
	assert.Equal(t, []string{"Menu", "Menu (2)", "Menu"}, names)
}
