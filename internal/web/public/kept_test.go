package public

import (
	"context"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// What is kept for one Site and lens never shows on a page what the page would not show without it.
func TestKeptFragmentsAreAsFreshOnes(t *testing.T) {
	renderer, err := NewRenderer(
		texts{},
		func(name string) string { return "/assets/" + name },
		"https://harbour.example",
	)
	require.NoError(t, err)
	rapid.Check(t, func(t *rapid.T) {
		s, _ := testkit.RandomFurnished(t, 20)
		lens := rapid.SampledFrom(testkit.Lenses()).Draw(t, "lens")
		kept := NewKept()
		for range 8 {
			page := site.PageID(rapid.IntRange(1, s.Count()).Draw(t, "page"))
			q := Request{Site: s, Lens: lens, Path: address.Of(s, page)}
			fresh, err := renderer.Render(context.Background(), q)
			require.NoError(t, err)
			q.Kept = kept
			again, err := renderer.Render(context.Background(), q)
			require.NoError(t, err)
			require.Equal(t, string(fresh.Body), string(again.Body))
		}
	})
}

// One block may stand in the header of one layout and beside the text of another. Each has its own looks, whichever
// came first.
func TestOneBlockInTwoRegions(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings\n    Fares\n  Contact")
	s, _, err := edit.ApplyAll(
		s,
		[]edit.Op{
			edit.OpEdit{
				Page:   testkit.Find(t, s, "Sailings"),
				Fields: []edit.FieldChange{{Field: edit.FieldLayout, New: "wide"}},
			},
		},
		testkit.Now,
	)
	require.NoError(t, err)
	b := s.Builder()
	b.SetBlocks(
		[]site.Block{
			testkit.MenuBlock(
				9,
				"Both",
				1,
				site.Window{First: 1, Levels: 1, From: site.FromWhole, Unfold: site.UnfoldAll},
			),
		},
		[]site.Placement{
			{ID: 1, Block: 9, Region: "header", Layout: "wide"},
			{ID: 2, Block: 9, Region: "side", Layout: "standard"},
		},
	)
	s = b.Site()
	r, err := NewRenderer(texts{}, func(name string) string { return "/assets/" + name }, "https://harbour.example")
	require.NoError(t, err)
	kept := NewKept()
	for range 2 {
		for path, look := range map[string]string{"/sailings": `class="mainnav"`, "/contact": `class="treenav"`} {
			answer, err := r.Render(
				context.Background(),
				Request{Site: s, Lens: reach.Lens{At: testkit.Now}, Path: path, Kept: kept},
			)
			require.NoError(t, err)
			assert.Equal(
				t,
				1,
				strings.Count(
					string(answer.Body),
					`class="mainnav"`,
				)+strings.Count(
					string(answer.Body),
					`class="treenav"`,
				),
				path,
			)
			assert.Contains(t, string(answer.Body), look, path)
		}
	}
}

// Links to the workbench are for who may edit, and carry the draft that is looked at.
func TestEditLinks(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings\n    Fares")
	draw := func(edit *Editing) string {
		r, err := NewRenderer(texts{}, func(name string) string { return "/assets/" + name }, "https://harbour.example")
		require.NoError(t, err)
		answer, err := r.Render(
			context.Background(),
			Request{Site: s, Lens: reach.Lens{At: testkit.Now}, Path: "/sailings", Edit: edit},
		)
		require.NoError(t, err)
		return string(answer.Body)
	}
	assert.NotContains(t, draw(nil), "edit-link")
	public := draw(&Editing{Workbench: "https://bench.example"})
	assert.Contains(
		t,
		public,
		`<a href="https://bench.example/layouts?chip=p2&amp;mode=page&amp;page=2">Edit Side menu</a>`,
	)
	assert.Contains(
		t,
		public,
		`<a href="https://bench.example/menus?block=2&amp;menu=1&amp;page=2" aria-label="Items of Side menu">Items</a>`,
	)
	assert.NotContains(t, public, "outlined")
	preview := draw(&Editing{Workbench: "https://bench.example", Draft: 7, Outline: true, Top: true})
	assert.Contains(t, preview, `<body class="outlined">`)
	assert.Contains(
		t,
		preview,
		`<a href="https://bench.example/tree?draft=7&amp;page=2" target="_top">Edit this page</a>`,
	)
	assert.Contains(t, preview, `class="region region-side" data-name="Side"`)
}

// A closed site is closed to visitors, and to people who are signed in and may do nothing.
func TestWhoSeesAClosedSite(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings\n  Repairs")
	s, _, err := edit.ApplyAll(
		s,
		[]edit.Op{
			edit.OpEditSettings{
				Fields: []edit.FieldChange{
					{Field: edit.FieldClosedPage, New: "3"},
					{Field: edit.FieldClosed, Old: "no", New: "yes"},
				},
			},
		},
		testkit.Now,
	)
	require.NoError(t, err)
	b := s.Builder()
	b.SetRoles(
		append(testkit.Roles(), site.Role{Key: "editors", Name: "editors", Grants: site.OnSite(site.ActionEdit)}),
	)
	s = b.Site()
	as := func(signedIn bool, roles ...string) int {
		return render(
			t,
			s,
			reach.Lens{Visitor: reach.Visitor{SignedIn: signedIn, Roles: roles}, At: testkit.Now},
			"/sailings",
			"",
		).Status
	}
	assert.Equal(t, 503, as(false))
	assert.Equal(t, 503, as(true))
	assert.Equal(t, 503, as(true, "staff"))
	assert.Equal(t, 200, as(true, "editors"))
	assert.Contains(t, string(render(t, s, reach.Lens{At: testkit.Now}, "/sailings", "").Body), ">Repairs</h1>")
}

// The landmark's name is part of what is kept, since another block on the page can change it.
func TestLandmarksOfOneMenuTwice(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings\n    Fares\n  Contact")
	b := s.Builder()
	twice := testkit.MenuBlock(
		9,
		"Header",
		1,
		site.Window{First: 1, Levels: 1, From: site.FromWhole, Unfold: site.UnfoldAll},
	)
	b.SetBlocks(append(s.Blocks(), twice), append(s.Placements(), site.Placement{ID: 9, Block: 9, Region: "side"}))
	s = b.Site()
	frame := region.NewFrame(s, reach.Lens{At: testkit.Now})
	_, areas := frame.On(testkit.Find(t, s, "Sailings"))
	var names []string
	for _, area := range areas {
		for _, st := range area.Standings {
			if st.Why == "" {
				names = append(names, st.Landmark)
			}
		}
	}
	assert.Len(t, names, 3)
	assert.NotEqual(t, names[0], names[1])
	assert.NotEqual(t, names[1], names[2])
	assert.NotEqual(t, names[0], names[2])
}

// What is kept of the answer to addresses that lead nowhere is, for each of them, what is made afresh, whatever is in
// the address.
func TestMissingPagesAreAsFreshOnes(t *testing.T) {
	s := testkit.Outline(t, "Home\n  Sailings\n  Lost")
	b := s.Builder()
	b.SetBlocks([]site.Block{
		{ID: 1, Name: "Account", Shows: site.BlockAccount{}},
		testkit.MenuBlock(2, "Menu", 1, site.Window{First: 1, Levels: 1, From: site.FromWhole, Unfold: site.UnfoldAll}),
	},
		[]site.Placement{{ID: 1, Block: 1, Region: "header"}, {ID: 2, Block: 2, Region: "side"}})
	b.SetMenus(
		[]site.Menu{
			{
				ID:      1,
				Key:     "main",
				Name:    "Main",
				Entries: []site.Entry{{ID: 1, Label: "In", Shows: site.ItemAccount{Does: site.AccountSignIn}}},
			},
		},
	)
	plain := b.Site()
	settings := plain.Settings()
	settings.NotFound = testkit.Find(t, s, "Lost")
	b = plain.Builder()
	b.SetSettings(settings)
	r, err := NewRenderer(texts{}, func(name string) string { return "/assets/" + name }, "https://harbour.example")
	require.NoError(t, err)
	for _, s := range []*site.Site{plain, b.Site()} {
		kept := NewKept()
		for _, q := range []Request{
			{Path: "/nowhere"},
			{Path: "/a/b/c", Query: "x=1&y=%22%3E"},
			{Path: "/%22%3E%3Cscript%3E"},
			{Path: "/" + strings.Repeat("é", 40)},
			{Path: mark},
			{Path: "/nowhere"},
		} {
			q.Site, q.Lens = s, reach.Lens{At: testkit.Now}
			fresh, err := r.Answer(context.Background(), q)
			require.NoError(t, err)
			q.Kept = kept
			again, err := r.Answer(context.Background(), q)
			require.NoError(t, err)
			require.Equal(t, fresh, again, q.Path)
			require.Equal(t, 404, again.Status)
		}
		entry, _ := kept.missing.Load(404)
		assert.Len(t, entry.(*missing).parts, 3, "the link and the menu's item lead back")
	}
}
