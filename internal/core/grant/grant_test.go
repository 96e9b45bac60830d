package grant_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

func withRoles() *site.Site {
	b := site.NewBuilder(testkit.Settings())
	b.SetRoles([]site.Role{
		{Key: "editor", Name: "Editor", Grants: site.OnSite(site.ActionEdit, site.ActionArrange)},
		{Key: "chief", Name: "Chief", Includes: []string{"editor"}, Grants: site.OnSite(site.ActionAdmit)},
		{Key: "reader", Name: "Reader"},
	})
	return b.Site()
}

func TestARoleHoldsWhatTheRolesItIncludesHold(t *testing.T) {
	s := withRoles()
	assert.Equal(
		t,
		"The role “Editor”, which “Chief” includes, may edit pages on the whole site.",
		grant.May(s, []string{"chief"}, site.ActionEdit, site.SiteThing).Why,
	)
	assert.True(t, grant.May(s, []string{"chief"}, site.ActionAdmit, site.SiteThing).Yes)
	no := grant.May(s, []string{"editor"}, site.ActionAdmit, site.SiteThing)
	assert.False(t, no.Yes)
	assert.Contains(t, no.Why, "set who sees", "a no says what is missing")
	assert.True(t, grant.Works(s, []string{"reader", "chief"}))
	assert.False(t, grant.Works(s, []string{"reader"}))
	assert.False(t, grant.Works(s, nil))
}

func TestWhatOperationsNeed(t *testing.T) {
	s := withRoles()
	set := func(fields ...edit.Field) edit.Op {
		op := edit.OpEdit{Page: 1}
		for _, f := range fields {
			op.Fields = append(op.Fields, edit.FieldChange{Field: f})
		}
		return op
	}
	for name, c := range map[string]struct {
		op   edit.Op
		want bool
	}{
		"words": {set(edit.FieldLabel, edit.FieldTitle, edit.FieldSummary, edit.FieldText), true},
		"place and status": {set(edit.FieldStatus, edit.FieldListed, edit.FieldSegment, edit.FieldOwnAddress,
			edit.FieldLiveFrom), true},
		"audience":                 {set(edit.FieldAudience), false},
		"concealment among others": {set(edit.FieldLabel, edit.FieldConceal), false},
		"move":                     {edit.OpMove{}, true},
		"bin":                      {edit.OpBin{}, true},
		"making with an audience":  {edit.OpMake{Fields: []edit.FieldChange{{Field: edit.FieldAudience}}}, false},
		"taking back a making":     {edit.TakeBack(edit.OpMake{}, 1), true},
	} {
		assert.Equal(t, c.want, grant.MayAll(s, s, []string{"editor"}, []edit.Op{c.op}).Yes, name)
		assert.False(t, grant.MayAll(s, s, []string{"reader"}, []edit.Op{c.op}).Yes, name)
	}
	assert.True(t, grant.MayAll(s, s, nil, nil).Yes, "nothing needs nothing")
}

// Nobody gives or takes what they don't hold: whoever gives a role could do, before, all that its holder then may, on
// every thing that a grant names (rules 8.1).
func TestGivingGivesNothingThatTheGiverLacks(t *testing.T) {
	freight := site.PageThing(2)
	b := testkit.Outline(t, "Home\n  Freight\n  Board").Builder()
	b.SetRoles([]site.Role{
		{Key: "readers", Name: "Readers"},
		{Key: "granters", Name: "Granters", Grants: site.OnSite(site.ActionAdmit)},
		{Key: "freight", Name: "Freight editors", Grants: []site.Grant{{Action: site.ActionEdit, On: freight}}},
		{Key: "writers", Name: "Writers", Grants: site.OnSite(site.ActionEdit)},
		{Key: "heads", Name: "Heads", Includes: []string{"freight", "granters"}},
		{Key: "all", Name: "All", Includes: []string{"writers", "granters"}},
	})
	s := b.Site()
	gave := 0
	for _, giver := range s.Roles() {
		for _, role := range s.Roles() {
			from, to := []string{giver.Key}, []string{role.Key}
			answer := grant.MayGive(s, from, to)
			want := grant.May(s, from, site.ActionAdmit, site.SiteThing).Yes
			for _, thing := range []site.Thing{site.SiteThing, freight} {
				for _, action := range site.Actions() {
					has := grant.May(s, from, action, thing).Yes || !grant.May(s, to, action, thing).Yes
					want = want && has
				}
			}
			assert.Equal(t, want, answer.Yes, "%s gives %s", giver.Name, role.Name)
			assert.Equal(t, want, answer.Why == "", "a no has its reason")
			if want {
				gave++
			}
		}
	}
	assert.Equal(t, 2+4+6, gave, "granters, heads, all")
	no := grant.MayGive(s, []string{"heads"}, []string{"all"})
	assert.Equal(t, "You can't give or take the role “Writers”: it may edit pages on the whole site, which you don't "+
		"hold yourself.", no.Why, "the role that brings it")
}
