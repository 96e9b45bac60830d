package grant_test

import (
	"fmt"
	"slices"
	"testing"

	"github.com/casbin/casbin/v2"
	"github.com/casbin/casbin/v2/model"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// hierarchical is role-based access control with a hierarchy of roles (ANSI INCITS 359, Hierarchical RBAC) and one of
// things, in the words of the reference library: github.com/casbin/casbin.
const hierarchical = `
[request_definition]
r = sub, obj, act
[policy_definition]
p = sub, obj, act
[role_definition]
g = _, _
g2 = _, _
[policy_effect]
e = some(where (p.eft == allow))
[matchers]
m = g(r.sub, p.sub) && g2(r.obj, p.obj) && r.act == p.act
`

// randomWorld draws a tree of pages of three types, roles that include earlier ones, and permissions on anything.
func randomWorld(t *rapid.T) *site.Site {
	b := site.NewBuilder(testkit.Settings())
	b.SetKinds([]site.Kind{{Key: "page", Name: "Page"}, {Key: "notice", Name: "Notice"}})
	pages := rapid.IntRange(2, 12).Draw(t, "pages")
	for id := 1; id <= pages; id++ {
		p := &site.Page{ID: site.PageID(id), Label: fmt.Sprint(id), Segment: fmt.Sprint("p", id), Kind: "page"}
		if id > 1 {
			p.Parent = site.PageID(rapid.IntRange(1, id-1).Draw(t, "parent"))
			p.Kind = rapid.SampledFrom([]string{"page", "notice"}).Draw(t, "kind")
			p.Rank = site.Ranks(pages)[id-1]
		}
		b.Put(p)
	}
	things := []site.Thing{site.SiteThing, site.KindThing("notice"), site.MenuThing(1), site.RegionThing("header")}
	for id := 1; id <= pages; id++ {
		things = append(things, site.PageThing(site.PageID(id)))
	}
	var roles []site.Role
	for i := range rapid.IntRange(1, 5).Draw(t, "roles") {
		r := site.Role{Key: fmt.Sprint("r", i), Name: fmt.Sprint("R", i)}
		for k := range i {
			if rapid.Bool().Draw(t, "includes") {
				r.Includes = append(r.Includes, fmt.Sprint("r", k))
			}
		}
		for range rapid.IntRange(0, 2).Draw(t, "grants") {
			r.Grants = append(r.Grants, site.Grant{
				Action: rapid.SampledFrom([]site.Action{site.ActionEdit, site.ActionPublish}).Draw(t, "action"),
				On:     rapid.SampledFrom(things).Draw(t, "thing"),
			})
		}
		roles = append(roles, r)
	}
	b.SetRoles(roles)
	return b.Site()
}

// reference asks the reference library the same: roles as subjects, pages inside one another as objects.
func reference(t require.TestingT, s *site.Site) *casbin.Enforcer {
	m, err := model.NewModelFromString(hierarchical)
	require.NoError(t, err)
	e, err := casbin.NewEnforcer(m)
	require.NoError(t, err)
	for _, r := range s.Roles() {
		for _, included := range r.Includes {
			_, err = e.AddNamedGroupingPolicy("g", r.Key, included)
			require.NoError(t, err)
		}
		for _, g := range r.Grants {
			_, err = e.AddPolicy(r.Key, g.On.String(), string(g.Action))
			require.NoError(t, err)
		}
	}
	inside := func(thing, in site.Thing) {
		_, err = e.AddNamedGroupingPolicy("g2", thing.String(), in.String())
		require.NoError(t, err)
	}
	// A page is inside the branch of the page above; its type is asked of itself alone, so it stands beside the branch.
	s.Walk(s.Home(), func(p *site.Page) bool {
		if p.Parent != 0 {
			inside(site.PageThing(p.ID), site.PageThing(p.Parent))
		} else {
			inside(site.PageThing(p.ID), site.SiteThing)
		}
		return true
	})
	for _, thing := range []site.Thing{site.KindThing("notice"), site.MenuThing(1), site.RegionThing("header")} {
		inside(thing, site.SiteThing)
	}
	return e
}

func TestRightsAreThoseOfTheReferenceLibrary(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		s := randomWorld(rt)
		e := reference(rt, s)
		var held []string
		for _, r := range s.Roles() {
			if rapid.Bool().Draw(rt, "held") {
				held = append(held, r.Key)
			}
		}
		h := grant.Holding(s, held)
		allowed := func(thing site.Thing, action site.Action) bool {
			return slices.ContainsFunc(held, func(role string) bool {
				yes, err := e.Enforce(role, thing.String(), string(action))
				require.NoError(rt, err)
				return yes
			})
		}
		for _, action := range []site.Action{site.ActionEdit, site.ActionPublish} {
			for _, thing := range []site.Thing{site.SiteThing, site.MenuThing(1), site.RegionThing("header")} {
				require.Equal(rt, allowed(thing, action), h.May(action, thing).Yes, "%s on %s", action, thing)
			}
			h.Walk(func(p *site.Page, rights grant.Rights) bool {
				want := allowed(site.PageThing(p.ID), action) || allowed(site.KindThing(p.Kind), action)
				require.Equal(rt, want, h.May(action, site.PageThing(p.ID)).Yes, "%s on page %d", action, p.ID)
				require.Equal(rt, want, rights.Has(action), "%s on page %d, as walked", action, p.ID)
				require.Equal(rt, want, len(h.All(action, site.PageThing(p.ID))) > 0)
				return true
			})
		}
	})
}

// The chain that is given holds: each role includes the next, the last has the permission, and the first is held.
func TestChainsHold(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		s := randomWorld(rt)
		held := []string{s.Roles()[len(s.Roles())-1].Key}
		h := grant.Holding(s, held)
		s.Walk(s.Home(), func(p *site.Page) bool {
			for _, chain := range h.All(site.ActionEdit, site.PageThing(p.ID)) {
				require.Contains(rt, held, chain.Roles[0])
				for i, key := range chain.Roles[1:] {
					require.Contains(rt, s.Role(chain.Roles[i]).Includes, key)
				}
				last := s.Role(chain.Roles[len(chain.Roles)-1])
				require.Contains(rt, last.Grants, chain.Grant)
				require.Contains(rt, grant.Said(s, chain), "“"+last.Name+"”")
			}
			return true
		})
	})
}

// ANSI INCITS 359-2004, 6.2: a senior role acquires the permissions of its juniors, a junior none of its seniors'
// (general hierarchy, from memory).
func TestSeniorsAcquireFromJuniors(t *testing.T) {
	b := site.NewBuilder(testkit.Settings())
	b.Put(&site.Page{ID: 1, Label: "Home"})
	on := func(action site.Action) []site.Grant { return site.OnSite(action) }
	b.SetRoles([]site.Role{
		{Key: "senior", Name: "Senior", Includes: []string{"left", "right"}, Grants: on(site.ActionPublish)},
		{Key: "left", Name: "Left", Includes: []string{"junior"}, Grants: on(site.ActionEdit)},
		{Key: "right", Name: "Right", Includes: []string{"junior"}, Grants: on(site.ActionArrange)},
		{Key: "junior", Name: "Junior", Grants: on(site.ActionLink)},
	})
	s := b.Site()
	all := func(role string) (actions []site.Action) {
		h := grant.Holding(s, []string{role})
		h.Walk(func(_ *site.Page, rights grant.Rights) bool { actions = rights.Actions(); return true })
		return actions
	}
	assert.Equal(t, []site.Action{site.ActionLink}, all("junior"))
	assert.Equal(t, []site.Action{site.ActionEdit, site.ActionLink}, all("left"))
	assert.Equal(t, []site.Action{site.ActionArrange, site.ActionLink}, all("right"))
	assert.Equal(
		t,
		[]site.Action{site.ActionEdit, site.ActionArrange, site.ActionLink, site.ActionPublish},
		all("senior"),
	)
	assert.Equal(
		t,
		"The role “Junior”, which “Left” includes, which “Senior” includes, may edit menus on the whole site.",
		grant.May(s, []string{"senior"}, site.ActionLink, site.SiteThing).Why,
	)
}

// A department: may edit and order below Freight and edit its menu, not touch the header (rules 8.1).
func TestADepartment(t *testing.T) {
	b := site.NewBuilder(testkit.Settings())
	b.SetKinds([]site.Kind{{Key: "page", Name: "Page"}, {Key: "notice", Name: "Notice"}})
	ranks := site.Ranks(2)
	b.Put(
		&site.Page{ID: 1, Label: "Home", Kind: "page"},
		&site.Page{ID: 2, Parent: 1, Label: "Freight", Segment: "freight", Kind: "page", Rank: ranks[0]},
		&site.Page{ID: 3, Parent: 2, Label: "Rates", Segment: "rates", Kind: "page", Rank: ranks[0]},
		&site.Page{ID: 4, Parent: 1, Label: "Board", Segment: "board", Kind: "page", Rank: ranks[1]},
	)
	b.SetMenus([]site.Menu{{ID: 7, Name: "Freight"}, {ID: 8, Name: "Main"}})
	freight := site.PageThing(2)
	b.SetRoles([]site.Role{{Key: "freight", Name: "Freight editors", Grants: []site.Grant{
		{Action: site.ActionEdit, On: freight},
		{Action: site.ActionArrange, On: freight},
		{Action: site.ActionPlace, On: freight},
		{Action: site.ActionLink, On: site.MenuThing(7)},
		{Action: site.ActionEdit, On: site.KindThing("notice")},
	}}})
	s := b.Site()
	may := func(ops ...edit.Op) bool { return grant.MayAll(s, s, []string{"freight"}, ops).Yes }
	set := func(id site.PageID, field edit.Field, value string) edit.Op {
		return edit.OpEdit{Page: id, Fields: []edit.FieldChange{{Field: field, New: value}}}
	}
	made := edit.OpMake{Page: 10, Place: edit.Place{Parent: 3}, Fields: []edit.FieldChange{{Field: edit.FieldLabel}}}
	put := func(where string) edit.Op {
		op := edit.OpPutPlacement{Placement: 20, Block: 9, Slot: edit.Slot{Region: "header"}}
		op.Fields = map[edit.Field]string{edit.FieldWhere: where}
		return op
	}
	assert.True(t, may(set(3, edit.FieldLabel, "Prices")))
	assert.True(t, may(set(2, edit.FieldStatus, "live")), "the branch has its top")
	below := edit.OpMake{Page: 11, Place: edit.Place{Parent: 10}}
	assert.True(t, may(made, below), "below one that is made in the same step")
	assert.True(t, may(edit.OpPutEntries{Gap: edit.Gap{Menu: 7}, Entries: []edit.EntryForm{{ID: 30}}}))
	assert.True(t, may(put("branch:3|page:2")), "where its conditions keep it to the branch")
	assert.True(t, may(set(3, edit.FieldKind, "notice")))

	assert.False(t, may(set(4, edit.FieldLabel, "The board")))
	assert.False(t, may(edit.OpMove{Page: 3, To: edit.Place{Parent: 1}}), "moving asks at both ends")
	assert.False(t, may(edit.OpMove{Page: 4, To: edit.Place{Parent: 2}}))
	assert.False(t, may(edit.OpPutEntries{Gap: edit.Gap{Menu: 8}, Entries: []edit.EntryForm{{ID: 30}}}))
	assert.False(t, may(edit.OpMakeMenu{Menu: 31}), "nobody is given a menu that is not there yet")
	assert.False(t, may(put("")), "the header is not theirs")
	assert.False(t, may(put("branch:3|branch:4")))
	assert.False(t, may(put("branch:3|pattern:/**")))
	assert.False(t, may(set(3, edit.FieldAudience, "freight")))
	assert.False(t, may(set(3, edit.FieldTopics, "page:4")), "topics are a right of their own")
	assert.False(t, may(edit.OpEditSettings{}))

	no := grant.May(s, []string{"freight"}, site.ActionEdit, site.PageThing(4))
	assert.Equal(t, "To edit pages in “Board” you need a role that has this permission; no role has it yet.", no.Why)
	yes := grant.May(s, []string{"freight"}, site.ActionEdit, site.PageThing(3))
	assert.Equal(t, "The role “Freight editors” may edit pages on “Freight” and all below it.", yes.Why)
}

// A move after which somebody could do more with the page than before needs the right to say who may (rules 8.1).
func TestAMoveThatWidensWhatOthersMayDo(t *testing.T) {
	b := site.NewBuilder(testkit.Settings())
	ranks := site.Ranks(3)
	b.Put(
		&site.Page{ID: 1, Label: "Home"},
		&site.Page{ID: 2, Parent: 1, Label: "Freight", Segment: "freight", Rank: ranks[0]},
		&site.Page{ID: 3, Parent: 1, Label: "Board", Segment: "board", Rank: ranks[1]},
		&site.Page{ID: 4, Parent: 3, Label: "Minutes", Segment: "minutes", Rank: ranks[0]},
	)
	b.SetRoles([]site.Role{
		{Key: "freight", Name: "Freight", Grants: []site.Grant{{Action: site.ActionEdit, On: site.PageThing(2)}}},
		{Key: "orderers", Name: "Orderers", Grants: site.OnSite(site.ActionArrange)},
		{Key: "stewards", Name: "Stewards", Grants: site.OnSite(site.ActionArrange, site.ActionAdmit)},
	})
	s := b.Site()
	into := []edit.Op{edit.OpMove{Page: 4, To: edit.Place{Parent: 2}}}
	out := []edit.Op{edit.OpMove{Page: 4, To: edit.Place{Parent: 1}}}
	assert.Contains(t, grant.MayAll(s, s, []string{"orderers"}, into).Why, "There others could do more with it than now.")
	assert.True(t, grant.MayAll(s, s, []string{"orderers"}, out).Yes)
	assert.True(t, grant.MayAll(s, s, []string{"stewards"}, into).Yes)
}
