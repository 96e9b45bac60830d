package grant_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

func TestConcealedPagesAreVeiledForWhoMayNotKnowOfThem(t *testing.T) {
	s := testkit.Outline(
		t,
		"Home\n  Board | audience=masters conceal=yes\n    Minutes\n  Handbook | audience=staff\n  News",
	)
	b := s.Builder()
	b.SetRoles([]site.Role{
		{Key: "staff", Name: "staff"},
		{Key: "masters", Name: "masters"},
		{Key: "linkers", Name: "Linkers", Grants: site.OnSite(site.ActionLink)},
		{Key: "orderers", Name: "Orderers", Grants: site.OnSite(site.ActionArrange)},
		{Key: "keepers", Name: "Keepers", Grants: site.OnSite(site.ActionAdmit)},
	})
	s = b.Site()
	labels := func(roles ...string) string {
		var all []string
		seen := grant.Veil(s, roles)
		seen.Walk(seen.Home(), func(p *site.Page) bool { all = append(all, p.Label); return true })
		return strings.Join(all, ", ")
	}
	everything := "Home, Board, Minutes, Handbook, News"
	assert.Equal(t, everything, labels("orderers"), "who orders pages needs their labels")
	assert.Equal(t, everything, labels("keepers"))
	assert.Equal(t, everything, labels("linkers", "masters"), "whom the page admits")
	hidden := grant.Veiled
	assert.Equal(
		t,
		"Home, "+hidden+", "+hidden+", Handbook, News",
		labels("linkers"),
		"closed pages that are not concealed are known of",
	)
	assert.Same(t, s, grant.Veil(s, []string{"orderers"}))
	assert.Equal(t, everything, labels("keepers"), "the Site itself is as it was")
}

// Through the veil two Sites differ only where they do without it.
func TestTheVeilMakesNoDifference(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		was := testkit.Random(t, 30)
		b := was.Builder()
		was.Walk(was.Home(), func(p *site.Page) bool {
			hidden := *p
			hidden.Conceal = rapid.Bool().Draw(t, "conceal")
			b.Put(&hidden)
			return true
		})
		was = b.Site()
		is, next := was, site.PageID(1000)
		for range rapid.IntRange(0, 3).Draw(t, "edits") {
			if made, _, err := edit.Apply(is, testkit.RandomOp(t, is, &next), testkit.Now); err == nil {
				is = made
			}
		}
		differ := map[site.PageID]bool{}
		for _, c := range site.Changes(was, is) {
			for _, p := range []*site.Page{c.Was, c.Is} {
				if p != nil {
					is.Walk(
						p.ID,
						func(below *site.Page) bool { differ[below.ID] = true; return true },
					) // may be concealed or shown now
				}
			}
		}
		see := grant.NewVeil([]string{"operators"})
		for _, c := range site.Changes(see(was), see(is)) {
			for _, p := range []*site.Page{c.Was, c.Is} {
				require.True(t, p == nil || differ[p.ID])
			}
		}
	})
}
