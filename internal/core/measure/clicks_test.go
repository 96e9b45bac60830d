package measure_test

import (
	"math"
	"testing"

	"gonum.org/v1/gonum/graph/path"
	"gonum.org/v1/gonum/graph/simple"
	"pgregory.net/rapid"

	"vineladder/internal/core/measure"
	"vineladder/internal/core/menu"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// Source: gonum's Dijkstra on the graph of every link that every page renders, each window computed whole.
func TestClicksAgreeWithGonumOverEveryRenderedLink(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := testkit.Random(t, 40)
		blocks := []site.Block{{ID: 9, Name: "Way", Shows: site.BlockBreadcrumb{}}}
		for id := range rapid.IntRange(1, 3).Draw(t, "blocks") {
			blocks = append(blocks, testkit.MenuBlock(site.BlockID(id+1), "Menu", 1, site.Window{
				First: rapid.IntRange(1, 3).Draw(t, "first"), Levels: rapid.IntRange(0, 2).Draw(t, "levels"),
				Entry:  1,
				From:   rapid.SampledFrom([]site.From{site.FromTrail, site.FromWhole, site.FromEntry}).Draw(t, "from"),
				Unfold: rapid.SampledFrom([]site.Unfold{site.UnfoldAll, site.UnfoldTrail}).Draw(t, "unfold"),
			}))
		}
		b := s.Builder()
		b.SetBlocks(blocks, testkit.PlaceBlocks(blocks...))
		pages := []site.PageID{}
		s.Walk(s.Home(), func(p *site.Page) bool { pages = append(pages, p.ID); return true })
		for _, id := range pages {
			linked := *s.Page(id)
			linked.Text = string(rune('a' + id%5))
			b.Put(&linked)
			b.KnowText(linked.Text, []site.PageID{rapid.SampledFrom(pages).Draw(t, "link")})
		}
		s = b.Site()
		lens := rapid.SampledFrom(testkit.Lenses()).Draw(t, "lens")
		g := simple.NewDirectedGraph()
		var links [][]site.PageID
		sees := func(id site.PageID) bool { return reach.Ask(s, id, lens) == reach.Sees }
		link := func(from, to site.PageID) {
			if from != to && sees(from) && sees(to) {
				g.SetEdge(g.NewEdge(simple.Node(from), simple.Node(to)))
			}
		}
		for _, from := range pages {
			for _, above := range s.Path(from) {
				link(from, above.ID)
			}
			for _, to := range s.Links(s.Page(from).Text) {
				link(from, to)
			}
			if sees(from) {
				links = append(links, measure.Links(s, lens)(from))
			} else {
				links = append(links, nil)
			}
			for _, block := range s.Blocks() {
				m, window, isMenu := block.Menu()
				if !isMenu {
					continue
				}
				var follow func([]menu.Node)
				follow = func(nodes []menu.Node) {
					for _, node := range nodes {
						link(from, node.Page)
						follow(node.Children)
					}
				}
				follow(menu.NewView(s, s.Menu(m), lens).Window(window, from))
			}
		}
		for i, from := range pages {
			for _, to := range links[i] {
				if !g.HasEdgeFromTo(int64(from), int64(to)) {
					t.Fatalf("page %d does not lead to %d", from, to)
				}
			}
			if n := g.From(int64(from)).Len(); n != len(links[i]) {
				t.Fatalf("page %d leads to %d pages, want %d", from, len(links[i]), n)
			}
		}
		if g.Node(int64(s.Home())) == nil {
			g.AddNode(simple.Node(s.Home()))
		}
		shortest, far := path.DijkstraFrom(simple.Node(s.Home()), g), measure.Clicks(s, lens)
		for _, id := range pages {
			want := math.Inf(1)
			if g.Node(int64(id)) != nil {
				want = shortest.WeightTo(int64(id))
			}
			got, ok := far[id]
			if ok != !math.IsInf(want, 1) || ok && float64(got) != want {
				t.Fatalf("page %d: %d clicks (%v), want %v", id, got, ok, want)
			}
		}
	})
}
