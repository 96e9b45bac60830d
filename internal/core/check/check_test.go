package check_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"vineladder/internal/core/care"
	"vineladder/internal/core/check"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
	"vineladder/internal/core/weblink"
)

const outline = `
Home
  Sailings | text=t summary=When-we-sail
    Timetables | text=t summary=Times
    Fares | text=t summary=Prices
  Harbours | text=t summary=Piers
    North pier | text=t summary=North
  Places | kind=topic-list
    North | kind=topic`

// page ids of the outline
const (
	home, sailings, timetables, fares, harbours, northPier = 1, 2, 3, 4, 5, 6
	north, mapFile                                         = 8, 10
)

// A wreck makes one thing wrong in a site in which nothing is.
type wreck struct {
	check  string
	on     string
	make   func(b *site.Builder)
	fixed  bool // there is a fix
	beside []string
}

func page(id site.PageID, change func(*site.Page)) func(*site.Builder) {
	return func(b *site.Builder) {
		p := *b.Peek().Page(id)
		change(&p)
		b.Put(&p)
	}
}

// items gives the main menu some more.
func items(entries ...site.Entry) func(*site.Builder) {
	return func(b *site.Builder) {
		m := b.Peek().Menus()[0].Rewrite()
		m.Entries = append(m.Entries, entries...)
		b.SetMenus([]site.Menu{m})
	}
}

func blocks(change func(blocks []site.Block, places []site.Placement) ([]site.Block, []site.Placement),
) func(*site.Builder) {
	return func(b *site.Builder) {
		b.SetBlocks(change(
			append([]site.Block{}, b.Peek().Blocks()...), append([]site.Placement{}, b.Peek().Placements()...)))
	}
}

func settings(change func(*site.Settings), then func(*site.Builder)) func(*site.Builder) {
	return func(b *site.Builder) {
		made := b.Peek().Settings()
		change(&made)
		b.SetSettings(made)
		if then != nil {
			then(b)
		}
	}
}

var wrecks = []wreck{
	{"item-leads-nowhere", "item:2", func(b *site.Builder) {
		items(site.Entry{ID: 2, Shows: site.ItemPage{Page: 99}})(b)
	}, true, nil},
	{"item-out-of-reach", "item:2", func(b *site.Builder) {
		page(fares, func(p *site.Page) { p.Audience = "operators" })(b)
		items(site.Entry{ID: 2, Shows: site.ItemPage{Page: fares}, Audience: "staff"})(b)
	}, true, nil},
	{"heading-alone", "item:2", items(site.Entry{ID: 2, Shows: site.ItemHeading{}, Label: "More"}), true, nil},
	{"item-hidden", "item:3", items(
		site.Entry{ID: 2, Shows: site.ItemHeading{}, Label: "More", Off: true},
		site.Entry{ID: 3, Parent: 2, Shows: site.ItemPage{Page: fares}},
	), true, nil},
	{"web-address-own", "item:2", items(
		site.Entry{ID: 2, Label: "Fares", Shows: site.ItemWeb{Address: "https://harbour.example/sailings/fares"}},
	), true, nil},
	{"same-target", "item:3", items(
		site.Entry{ID: 2, Shows: site.ItemPage{Page: fares}}, site.Entry{ID: 3, Shows: site.ItemPage{Page: fares}},
	), true, nil},
	{
		"hint-repeats",
		"item:2",
		items(site.Entry{ID: 2, Shows: site.ItemPage{Page: fares}, Hint: "fares "}),
		true,
		nil,
	},
	{"badge-contrast", "item:2", items(site.Entry{
		ID: 2, Shows: site.ItemPage{Page: fares}, Badge: site.Badge{Text: "New", Pair: "#999999 on #ffffff"},
	}), false, nil},
	{"run-too-long", "menu:1", func(b *site.Builder) {
		var many []site.Entry
		for i := range 16 {
			at := fmt.Sprintf("https://tides.example/%d", i)
			many = append(many, site.Entry{ID: site.EntryID(i + 2), Label: at, Shows: site.ItemWeb{Address: at}})
		}
		items(many...)(b)
	}, false, nil},
	{"menu-nowhere", "menu:2", func(b *site.Builder) {
		b.SetMenus(append(b.Peek().Menus()[:1:1], site.Menu{
			ID: 2, Key: "spare", Name: "Spare", Entries: []site.Entry{{ID: 9, Shows: site.ItemPage{Page: fares}}},
		}))
	}, false, nil},
	{"menu-empty", "menu:1", func(b *site.Builder) {
		m := b.Peek().Menus()[0].Rewrite()
		m.Entries = nil
		b.SetMenus([]site.Menu{m})
	}, false, []string{"page-nowhere"}},
	{"same-label", "page:4", page(fares, func(p *site.Page) {
		p.Label, p.Title = "Timetables", "What it costs"
		p.Segment = "timetables-2"
	}), false, nil},
	{"page-nowhere", "page:3", page(timetables, func(p *site.Page) { p.Listed = false }), false, nil},
	{"audience-wider", "page:4", func(b *site.Builder) {
		page(sailings, func(p *site.Page) { p.Audience = "staff" })(b)
		page(fares, func(p *site.Page) { p.Audience = "signed-in" })(b)
	}, true, nil},
	{"live-below-offline", "page:4", func(b *site.Builder) {
		page(sailings, func(p *site.Page) { p.Status = site.StatusOffline })(b)
		page(timetables, func(p *site.Page) { p.Status = site.StatusOffline })(b)
	}, false, nil},
	{
		"address-stale", "page:4", page(fares, func(p *site.Page) { p.Segment, p.SegmentFollows = "times-of-1998", false }),
		true, nil,
	},
	{"page-blank", "page:4", page(fares, func(p *site.Page) { p.Text = "" }), false, nil},
	{"summary-missing", "page:4", page(fares, func(p *site.Page) { p.Summary = "" }), false, nil},
	{"editors-long", "page:4", settings(func(s *site.Settings) { s.ReadyDays = 30 }, page(fares, func(p *site.Page) {
		p.Audience, p.Changed = site.AudienceEditors, testkit.Now.AddDate(0, 0, -31)
	})), true, nil},
	{"detail-missing", "page:4", func(b *site.Builder) {
		b.SetKinds(append(site.OwnKinds(), site.Kind{Key: "notice", Name: "Notice"}))
		b.SetDetails([]site.Detail{{Key: "notice.day", Label: "Day", Type: site.DetailLine, Required: true}})
		page(fares, func(p *site.Page) { p.Kind = "notice" })(b)
	}, false, nil},
	{"link-out-of-reach", "page:4", func(b *site.Builder) {
		b.KnowText("to-piers", []site.PageID{northPier})
		page(northPier, func(p *site.Page) { p.Audience = "staff" })(b)
		page(fares, func(p *site.Page) { p.Text = "to-piers" })(b)
	}, false, nil},
	{"link-says-nothing", "page:4", func(b *site.Builder) {
		b.Peek().Texts().KnowFaults("vague", []string{site.FaultVagueLink + "here"})
		page(fares, func(p *site.Page) { p.Text = "vague" })(b)
	}, false, nil},
	{"link-dead", "page:4", func(b *site.Builder) {
		b.Peek().Texts().KnowWeb("dead", []string{"https://tides.example/", "https://ice.example/"})
		page(fares, func(p *site.Page) { p.Text = "dead" })(b)
	}, false, nil},
	{"table-bare", "page:4", func(b *site.Builder) {
		b.Peek().Texts().KnowFaults("bare", []string{site.FaultBareTable})
		page(fares, func(p *site.Page) { p.Text = "bare" })(b)
	}, false, nil},
	{
		"file-unused",
		"page:10",
		blocks(func(all []site.Block, places []site.Placement) ([]site.Block, []site.Placement) {
			return all[:2], places[:2]
		}),
		true,
		nil,
	},
	{"picture-undescribed", "page:10", page(mapFile, func(p *site.Page) { p.Summary = "" }), false, nil},
	{"topic-empty", "page:8", page(fares, func(p *site.Page) { p.Topics = nil }), false, nil},
	{"topics-alike", "page:8", func(b *site.Builder) {
		twin := *b.Peek().Page(north)
		twin.ID, twin.Key, twin.Label, twin.Segment = 20, "k20", "Nörth", "noerth"
		twin.Rank += "5"
		b.Put(&twin)
		page(timetables, func(p *site.Page) { p.Topics = []site.PageID{20} })(b)
	}, false, nil},
	{
		"place-nowhere",
		"place:2",
		blocks(func(all []site.Block, places []site.Placement) ([]site.Block, []site.Placement) {
			places[1].Where = []site.Spot{{Page: 99}}
			return all, places
		}),
		true,
		nil,
	},
	{
		"region-lacking",
		"place:2",
		blocks(func(all []site.Block, places []site.Placement) ([]site.Block, []site.Placement) {
			places[1].Layout = "wide"
			return all, places
		}),
		false,
		nil,
	},
	{
		"blocks-one-name",
		"block:2",
		blocks(func(all []site.Block, places []site.Placement) ([]site.Block, []site.Placement) {
			all[1].Title = all[0].Title
			return all, places
		}),
		false,
		nil,
	},
	{"same-title", "page:6", func(b *site.Builder) {
		page(northPier, func(p *site.Page) { p.Title = "Fares" })(b)
	}, false, nil},
	{"review-overdue", "page:4", page(fares, func(p *site.Page) {
		p.Review, p.Worded, p.FirstOnline = "12", testkit.Now.AddDate(-2, 0, 0), testkit.Now.AddDate(-2, 0, 0)
	}), false, nil},
	{"owner-gone", "page:4", page(fares, func(p *site.Page) { p.Owner = site.PersonOwner("idris") }), true, nil},
	{"too-deep", "page:35", func(b *site.Builder) {
		above := *b.Peek().Page(fares)
		for i := range site.PageID(7) {
			p := above
			p.ID, p.Parent, p.Key = 30+i, above.ID, fmt.Sprint("deep", i)
			p.Label, p.Segment = fmt.Sprint("Level ", i+3), fmt.Sprint("level-", i+3)
			p.Topics = nil
			b.Put(&p)
			above = p
		}
	}, false, nil},
}

// known is what tests know of care besides the site.
var dead = &weblink.Known{Dead: map[string]weblink.Dead{"https://ice.example/": {Why: "it answers 404 Not Found"}}}

var known = &care.Known{Gone: map[string]bool{"idris": true}}

// sound is a site in which nothing is wrong.
func sound(t *testing.T) *site.Site {
	s := testkit.Outline(t, outline)
	b := s.Builder()
	picture := testkit.Bytes("map")
	picture.Width, picture.Height, picture.Type = 10, 10, "image/png"
	file := *b.Peek().Page(north)
	file.ID, file.Parent, file.Key, file.Kind, file.Bytes = mapFile, home, "map", site.KindFile, picture.String()
	file.Label, file.Summary, file.Segment, file.OwnAddress = "Map", "A map of the piers", "map", "/files/map.png"
	b.Put(&file)
	page(fares, func(p *site.Page) { p.Topics = []site.PageID{north} })(b)
	page(home, func(p *site.Page) { p.Text, p.Summary, p.Status = "t", "All of it", site.StatusLive })(b)
	shown := append([]site.Block{}, b.Peek().Blocks()...)
	image := site.Block{ID: 3, Name: "Map", Shows: site.BlockImage{File: site.FileRef(mapFile)}}
	shown = append(shown, image)
	b.SetBlocks(shown, testkit.PlaceBlocks(shown...))
	return b.Site()
}

// Every check finds what it is for where it is, and nothing else does; where there is a fix, it mends.
func TestEveryCheckFindsItsOwn(t *testing.T) {
	at := func(s *site.Site) *check.Look {
		return check.NewLook(s, testkit.Now, "https://harbour.example").With(check.Besides{Care: known, Links: dead})
	}
	base := sound(t)
	require.Empty(t, check.Find(at(base)).WithFar().All())
	seen := map[string]bool{}
	for _, w := range wrecks {
		t.Run(w.check, func(t *testing.T) {
			seen[w.check] = true
			b := base.Builder()
			w.make(b)
			wrong := b.Site()
			var own *check.Problem
			for _, p := range check.Find(at(wrong)).WithFar().All() {
				if p.Check == w.check && p.On.String() == w.on {
					own = &p
					continue
				}
				assert.Contains(t, append(w.beside, w.check), p.Check, p.Says)
			}
			require.NotNil(t, own)
			assert.NotEmpty(t, own.Says)
			_, ops := at(wrong).Mend(*own)
			require.Equal(t, w.fixed, len(ops) > 0)
			if len(ops) > 0 {
				after, _, err := edit.ApplyAll(wrong, ops, testkit.Now)
				require.NoError(t, err)
				for _, p := range check.Find(at(after)).WithFar().All() {
					assert.NotEqual(t, own.Key(), p.Key())
				}
			}
		})
	}
	for _, c := range check.All() {
		assert.True(t, seen[c.Key], "%s has no site in which it finds something", c.Key)
		assert.NotEmpty(t, c.Why)
		assert.Equal(t, c.Fix != nil, c.FixWords != "", c.Key)
	}
}

// A check that panics is told where it was asked, and the others go on.
func TestACheckThatFailsIsTold(t *testing.T) {
	s := sound(t)
	b := s.Builder()
	b.SetTheme(nil) // which no site has
	blocks(func(all []site.Block, places []site.Placement) ([]site.Block, []site.Placement) {
		places[1].Layout = "wide"
		return all, places
	})(b)
	found := check.Find(check.NewLook(b.Site(), testkit.Now, "")).All()
	require.NotEmpty(t, found)
	for _, p := range found {
		assert.Equal(t, check.Failed, p.Check, p.Says)
		assert.Contains(t, p.Says, "could not be done here")
	}
}

func TestAnExcuseNeedsAReasonAndADay(t *testing.T) {
	day := testkit.Now.AddDate(0, 6, 0)
	for _, c := range []struct {
		excuse check.Excuse
		fault  string
	}{
		{check.Excuse{Reason: " ", Until: day}, "Say why"},
		{check.Excuse{Reason: strings.Repeat("ø", 501), Until: day}, "longer than 500"},
		{check.Excuse{Reason: "Known", Until: testkit.Now}, "is over"},
		{check.Excuse{Reason: "Known", Until: testkit.Now.AddDate(4, 0, 0)}, "three years"},
	} {
		_, err := c.excuse.Checked(testkit.Now)
		assert.ErrorContains(t, err, c.fault)
	}
	made, err := check.Excuse{Reason: " Known ", Until: day}.Checked(testkit.Now)
	require.NoError(t, err)
	assert.Equal(t, "Known", made.Reason)
}

// The bounds of menus and levels are the settings' to say; where they say nothing, the usual ones count.
func TestTheSettingsSayWhatIsTooMuch(t *testing.T) {
	found := func(make func(*site.Settings)) map[string]int {
		b := sound(t).Builder()
		settings(make, nil)(b)
		counts := map[string]int{}
		for _, p := range check.Find(check.NewLook(b.Site(), testkit.Now, "")).All() {
			counts[p.Check]++
		}
		return counts
	}
	assert.Zero(t, found(func(*site.Settings) {})["too-deep"])
	assert.Equal(t, 3, found(func(s *site.Settings) { s.MostLevels = 1 })["too-deep"], "all that stand at level 2")
	b := sound(t).Builder()
	items(
		site.Entry{ID: 21, Shows: site.ItemPage{Page: fares}}, site.Entry{ID: 22, Shows: site.ItemPage{Page: northPier}},
	)(b)
	settings(func(s *site.Settings) { s.MostBeside = 2 }, nil)(b)
	many := 0
	for _, p := range check.Find(check.NewLook(b.Site(), testkit.Now, "")).All() {
		if p.Check == "run-too-long" {
			many++
		}
	}
	assert.Equal(t, 1, many)
}
