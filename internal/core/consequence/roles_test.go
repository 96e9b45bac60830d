package consequence_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// withGrants gives a random Site roles that include others and may do things, and pages for those who may edit them.
func withGrants(t *rapid.T, s *site.Site) *site.Site {
	b := s.Builder()
	var ids []site.PageID
	s.Walk(s.Home(), func(p *site.Page) bool { ids = append(ids, p.ID); return true })
	things := []site.Thing{site.SiteThing, site.KindThing("notice")}
	for _, id := range ids {
		things = append(things, site.PageThing(id))
	}
	roles := slices.Clone(s.Roles())
	for i := range roles {
		for range rapid.IntRange(0, 2).Draw(t, "grants") {
			g := site.Grant{
				Action: rapid.SampledFrom([]site.Action{site.ActionEdit, site.ActionPublish}).Draw(t, "action"),
				On:     rapid.SampledFrom(things).Draw(t, "thing"),
			}
			if !slices.Contains(roles[i].Grants, g) {
				roles[i].Grants = append(roles[i].Grants, g)
			}
		}
		slices.SortFunc(roles[i].Grants, func(a, b site.Grant) int { return strings.Compare(a.String(), b.String()) })
	}
	b.SetRoles(roles)
	for range 3 {
		p := *s.Page(rapid.SampledFrom(ids).Draw(t, "page"))
		p.Audience = rapid.SampledFrom([]site.Audience{"editors", "staff", "masters"}).Draw(t, "audience")
		b.Put(&p)
	}
	return b.Site()
}

// randomRoleEdit draws an edit of what a role includes or may do.
func randomRoleEdit(t *rapid.T, s *site.Site) edit.Op {
	role := rapid.SampledFrom(s.Roles()).Draw(t, "role")
	field := rapid.SampledFrom([]edit.Field{edit.FieldIncludes, edit.FieldPermissions}).Draw(t, "field")
	value := rapid.SampledFrom([]string{"", "staff", "operators|staff", "operators"}).Draw(t, "includes")
	if field == edit.FieldPermissions {
		value = rapid.SampledFrom([]string{
			"", "edit:site", "edit:page:2", "edit:page:3|publish:page:2", "edit:kind:notice",
		}).Draw(t, "permissions")
	}
	return edit.OpEditRole{Role: role.Key, Fields: []edit.FieldChange{
		{Field: field, Old: edit.RoleValue(&role, field), New: value},
	}}
}

// What an edit of roles is said to show to somebody, and to take from them, is just what a walk finds that asks for
// every page; and rights are told if and only if somebody may do something on a page, or on the site, that they may not
// do before, or the other way round.
func TestWhatEditsOfRolesDoIsToldWhole(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		s := withGrants(rt, testkit.Random(rt, 12))
		next, _, err := edit.Apply(s, randomRoleEdit(rt, s), testkit.Now)
		if err != nil {
			return
		}
		viewers := consequence.ViewersOf(s, [][]string{{"operators", "staff"}}, testkit.Now)
		said := consequence.Compare(s, next, viewers, nil).Sentences()
		for i, held := range viewers.Held {
			reached := func(on *site.Site, of *site.Site) (pages []site.PageID) {
				who := reach.Visitor{}
				if viewers.Panel.Lenses()[i].SignedIn {
					who = reach.As(of, held)
				}
				panel := reach.NewPanel(reach.Lens{Visitor: who, At: testkit.Now})
				reach.Walk(on, panel, func(p *site.Page, state reach.State) bool {
					if state.Reachable() != 0 {
						pages = append(pages, p.ID)
					}
					return true
				})
				return pages
			}
			before, after := reached(next, s), reached(next, next)
			told := map[string][]site.PageID{}
			for _, one := range said {
				if slices.Contains(one.For, i) && one.About == "page" {
					told[strings.Fields(strings.SplitN(one.Text, viewers.Names[i], 2)[1])[0]] = one.Pages
				}
			}
			require.Equal(rt, only(after, before), told["come"], "who holds %v comes to see", held)
			require.Equal(rt, only(before, after), told["no"], "who holds %v no longer sees", held)
		}
		differs := false
		for _, role := range s.Roles() {
			was, is := grant.Holding(s, []string{role.Key}), grant.Holding(next, []string{role.Key})
			next.Walk(next.Home(), func(p *site.Page) bool {
				differs = differs || was.On(p.ID) != is.On(p.ID)
				return true
			})
			for _, on := range []site.Thing{site.SiteThing, site.KindThing("notice")} {
				for _, action := range site.Actions() {
					differs = differs || was.May(action, on).Yes != is.May(action, on).Yes
				}
			}
		}
		rights := slices.ContainsFunc(said, func(one consequence.Sentence) bool { return one.About == "rights" })
		require.Equal(rt, differs, rights, "%v", said)
	})
}

func only(of, from []site.PageID) (pages []site.PageID) {
	for _, id := range of {
		if !slices.Contains(from, id) {
			pages = append(pages, id)
		}
	}
	return pages
}

func TestWhatAMoveDoesToRights(t *testing.T) {
	b := site.NewBuilder(testkit.Settings())
	ranks := site.Ranks(3)
	b.Put(
		&site.Page{ID: 1, Label: "Home", Status: site.StatusLive},
		&site.Page{ID: 2, Parent: 1, Label: "Freight", Segment: "freight", Rank: ranks[0], Status: site.StatusLive},
		&site.Page{ID: 3, Parent: 1, Label: "Board", Segment: "board", Rank: ranks[1], Status: site.StatusLive},
		&site.Page{ID: 4, Parent: 3, Label: "Minutes", Segment: "minutes", Rank: ranks[0], Status: site.StatusLive},
	)
	on := func(action site.Action, page site.PageID) []site.Grant {
		return []site.Grant{{Action: action, On: site.PageThing(page)}}
	}
	b.SetRoles([]site.Role{
		{Key: "freight", Name: "Freight editors", Grants: on(site.ActionEdit, 2)},
		{Key: "board", Name: "Board editors", Grants: on(site.ActionPublish, 3)},
		{Key: "minutes", Name: "Clerks", Grants: on(site.ActionArrange, 4)},
	})
	s := b.Site()
	next, _, err := edit.Apply(s, edit.OpMove{Page: 4, From: edit.PlaceOf(s, 4), To: edit.Place{Parent: 2}}, testkit.Now)
	require.NoError(t, err)
	var texts []string
	for _, one := range consequence.Compare(s, next, consequence.ViewersOf(s, nil, testkit.Now), nil).Sentences() {
		if one.About == "rights" {
			texts = append(texts, one.Text)
		}
	}
	const there = "At its new place “Minutes” (1 page) is in other hands: who holds “%s” %s there."
	assert.Equal(t, []string{
		fmt.Sprintf(there, "Freight editors", "may edit pages"),
		fmt.Sprintf(there, "Board editors", "may no longer publish"),
	}, texts, "what is permitted on the page itself goes with it")
}
