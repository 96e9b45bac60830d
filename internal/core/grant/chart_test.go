package grant_test

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/grant"
	"vineladder/internal/core/site"
)

// Every role stands in the chart once, below all that include it.
func TestTheChartPutsRolesBelowThoseThatIncludeThem(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		s := randomWorld(rt)
		layer := map[string]int{}
		for at, keys := range grant.Chart(s) {
			require.NotEmpty(rt, keys)
			for _, key := range keys {
				require.NotContains(rt, layer, key)
				layer[key] = at
			}
		}
		require.Len(rt, layer, len(s.Roles()))
		for _, role := range s.Roles() {
			for _, included := range role.Includes {
				require.Less(rt, layer[role.Key], layer[included])
			}
		}
	})
}

// A page has settings of its own if it says who sees it or a role has a permission just there; the home page always.
func TestPagesWithSettingsOfTheirOwn(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		s := randomWorld(rt)
		found := map[site.PageID]map[string]grant.Rights{}
		for _, setting := range grant.Settings(s) {
			found[setting.Page.ID] = setting.Grants
		}
		s.Walk(s.Home(), func(p *site.Page) bool {
			given := map[string][]site.Action{}
			for _, role := range s.Roles() {
				for _, g := range role.Grants {
					if g.On == site.PageThing(p.ID) {
						given[role.Key] = append(given[role.Key], g.Action)
					}
				}
			}
			rights, has := found[p.ID]
			require.Equal(rt, p.Parent == 0 || len(given) > 0, has)
			for role, actions := range given {
				slices.Sort(actions)
				require.Equal(rt, grant.RightsTo(slices.Compact(actions)...), rights[role])
			}
			return true
		})
	})
	assert.Equal(t, []site.Action{site.ActionEdit, site.ActionKeep}, grant.RightsTo("keep", "edit").Actions())
}
