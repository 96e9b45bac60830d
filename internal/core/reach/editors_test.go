package reach_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// A page that is for those who may edit it admits whoever holds that right on it, above it, by its type or on the site;
// each page that inherits this asks for its own (rules 4.2).
func TestPagesForThoseWhoMayEditThem(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		b := site.NewBuilder(testkit.Settings())
		pages := rapid.IntRange(1, 10).Draw(rt, "pages")
		things := []site.Thing{site.SiteThing, site.KindThing("notice"), site.KindThing("page"), site.MenuThing(1)}
		for id := 1; id <= pages; id++ {
			p := &site.Page{ID: site.PageID(id), Status: site.StatusLive, Rank: site.Ranks(pages)[id-1]}
			p.Kind = rapid.SampledFrom([]string{"page", "notice"}).Draw(rt, "kind")
			p.Audience = rapid.SampledFrom([]site.Audience{"", "", "editors", "everyone", "r0"}).Draw(rt, "audience")
			if id > 1 {
				p.Parent = site.PageID(rapid.IntRange(1, id-1).Draw(rt, "parent"))
			}
			b.Put(p)
			things = append(things, site.PageThing(p.ID))
		}
		role := site.Role{Key: "r0"}
		for range rapid.IntRange(0, 3).Draw(rt, "grants") {
			role.Grants = append(role.Grants, site.Grant{
				Action: rapid.SampledFrom([]site.Action{site.ActionEdit, site.ActionAdmit}).Draw(rt, "action"),
				On:     rapid.SampledFrom(things).Draw(rt, "thing"),
			})
		}
		b.SetRoles([]site.Role{role})
		s := b.Site()
		held := func(on site.Thing) bool {
			return slices.Contains(role.Grants, site.Grant{Action: site.ActionEdit, On: on})
		}
		panel := reach.NewPanel(reach.Lens{}, reach.Lens{Visitor: reach.As(s, []string{"r0"}), At: testkit.Now})
		reach.Walk(s, panel, func(p *site.Page, state reach.State) bool {
			may := held(site.SiteThing) || held(site.KindThing(p.Kind))
			audience := site.AudienceInherited
			for above := p; above != nil; above = s.Page(above.Parent) {
				may = may || held(site.PageThing(above.ID))
				if audience == site.AudienceInherited {
					audience = above.Audience
				}
			}
			want := map[site.Audience][2]bool{
				"": {true, true}, "everyone": {true, true}, "r0": {false, true}, "editors": {false, may},
			}[audience]
			require.Equal(rt, want[0], state.Admitted.Has(0), "signed out on page %d", p.ID)
			require.Equal(rt, want[1], state.Admitted.Has(1), "holding the role on page %d", p.ID)
			require.Equal(rt, state.Admitted, panel.AdmittedBefore(s, p.ID))
			return true
		})
	})
}
