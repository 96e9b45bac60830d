package grant_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"vineladder/internal/core/grant"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// Who edits a thing may say that it is meant so, and nobody else.
func TestWhoMaySayThatItIsMeantSo(t *testing.T) {
	b := testkit.Outline(t, "Home\n  Fares\n  Freight").Builder()
	b.SetRoles([]site.Role{
		{Key: "writers", Name: "Writers", Grants: []site.Grant{{Action: site.ActionEdit, On: site.PageThing(2)}}},
		{Key: "linkers", Name: "Linkers", Grants: site.OnSite(site.ActionLink)},
		{Key: "placers", Name: "Placers", Grants: site.OnSite(site.ActionPlace)},
		{Key: "keepers", Name: "Keepers", Grants: site.OnSite(site.ActionKeep)},
	})
	s := b.Site()
	for _, c := range []struct {
		role string
		on   site.Thing
		want bool
	}{
		{"writers", site.PageThing(2), true},
		{"writers", site.PageThing(3), false},
		{"writers", site.MenuThing(1), false},
		{"linkers", site.MenuThing(1), true},
		{"linkers", site.Thing{Family: site.FamilyEntry, ID: 1}, true},
		{"linkers", site.Thing{Family: site.FamilyEntry, ID: 99}, false},
		{"linkers", site.PageThing(2), false},
		{"placers", site.Thing{Family: site.FamilyBlock, ID: 1}, true},
		{"placers", site.Thing{Family: site.FamilyPlacement, ID: 1}, true},
		{"placers", site.MenuThing(1), false},
		{"keepers", site.SiteThing, true},
		{"keepers", site.PageThing(2), false},
	} {
		got := grant.Holding(s, []string{c.role}).MayExcuse(s, c.on)
		assert.Equal(t, c.want, got.Yes, "%s on %s", c.role, c.on)
	}
}
