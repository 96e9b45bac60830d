package edit_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// randomRoleOp draws an operation on roles, or who sees a page; it may be refused.
func randomRoleOp(t *rapid.T, s *site.Site, next *int) edit.Op {
	*next++
	keys := []string{"gone"}
	for _, r := range s.Roles() {
		keys = append(keys, r.Key)
	}
	key := rapid.SampledFrom(keys).Draw(t, "role")
	set := func(field edit.Field, choice ...string) edit.Op {
		was := ""
		if r := s.Role(key); r != nil {
			was = edit.RoleValue(r, field)
		}
		value := rapid.SampledFrom(choice).Draw(t, "value")
		return edit.OpEditRole{Role: key, Fields: []edit.FieldChange{{Field: field, Old: was, New: value}}}
	}
	switch rapid.IntRange(0, 5).Draw(t, "op") {
	case 0:
		return edit.OpMakeRole{
			Role: fmt.Sprint("made-", *next%4), After: key, Fields: map[edit.Field]string{
				edit.FieldName: "Made", edit.FieldIncludes: rapid.SampledFrom([]string{"", "staff"}).Draw(t, "includes"),
			},
		}
	case 1:
		return edit.OpTakeRole{Was: edit.OpMakeRole{Role: key}}
	case 2:
		return set(edit.FieldName, "Readers", "Crew", "")
	case 3:
		return set(edit.FieldIncludes, append(keys, "", strings.Join(keys, "|"))...)
	case 4:
		return set(edit.FieldPermissions, "", "edit:site", "edit:page:2|link:menu:1", "keep:page:2", "place:region:header")
	}
	p := s.Page(2)
	return setting(2, edit.FieldAudience, string(p.Audience), key)
}

// Whatever is done to roles is undone exactly, and what is written as JSON does the same; no role ever includes itself,
// nothing names a role that is not there, and none has a key that another one had.
func TestRolesComeBackAsTheyWere(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		s, next := exampleSite(t), 0
		sites, done := []*site.Site{s}, []edit.Op{}
		for range rapid.IntRange(1, 14).Draw(rt, "edits") {
			op := randomRoleOp(rt, s, &next)
			made, settled, err := edit.Apply(s, op, testkit.Now)
			if err != nil {
				continue
			}
			data, err := edit.Encode(settled)
			require.NoError(rt, err)
			read, err := edit.Decode(data)
			require.NoError(rt, err)
			again, _, err := edit.Apply(s, read, testkit.Now)
			require.NoError(rt, err)
			require.True(rt, site.SameRoles(made, again))
			if o, makes := op.(edit.OpMakeRole); makes {
				require.NotContains(rt, s.RolesGone(), o.Role)
			}
			s, sites, done = made, append(sites, made), append(done, settled)
			for _, r := range s.Roles() {
				for _, included := range r.Includes {
					require.NotNil(rt, s.Role(included), "it is there")
					require.Nil(rt, s.WayOf(included, r.Key), "no way leads back")
				}
			}
			for _, key := range s.Page(2).Audience.Roles() {
				require.NotNil(rt, s.Role(key))
			}
		}
		for i, op := range slices.Backward(done) {
			back, _, err := edit.Apply(s, op.Inverse(), testkit.Now)
			require.NoError(rt, err)
			require.True(rt, site.SameRoles(sites[i], back), "%#v", op)
			require.Equal(rt, sites[i].Page(2).Audience, back.Page(2).Audience)
			s = back
		}
	})
}

func TestWhatCannotBeDoneToRoles(t *testing.T) {
	s := exampleSite(t)
	include := func(role, key string) edit.Op {
		return edit.OpEditRole{Role: role, Fields: []edit.FieldChange{{Field: edit.FieldIncludes, New: key}}}
	}
	permit := func(text string) edit.Op {
		return edit.OpEditRole{Role: "staff", Fields: []edit.FieldChange{{Field: edit.FieldPermissions, New: text}}}
	}
	named := map[edit.Field]string{edit.FieldName: "Made"}
	make := func(key string) edit.Op { return edit.OpMakeRole{Role: key, Fields: named} }
	for _, c := range []struct {
		want string
		op   edit.Op
	}{
		{"A role can't include itself.", include("staff", "staff")},
		{"“staff” can't include “harbour masters”: “harbour masters” includes “staff”.", include("staff", "masters")},
		{"“everyone” can't be the key of a role: it reads as who sees a page.", make("everyone")},
		{"“Crew!” can't be the key of a role.", make("Crew!")},
		{"There is a role “staff” already.", make("staff")},
		{"A role needs a name.", edit.OpMakeRole{Role: "crew"}},
		{"“fly:site” is no permission.", permit("fly:site")},
		{"“edit:page:0” is no permission.", permit("edit:page:0")},
		{"“edit:page:07” is no permission.", permit("edit:page:07")},
		{"Keeping the site is for the whole of it.", permit("keep:page:2")},
		{"That can't be permitted there: edit is not done on a menu.", permit("edit:menu:1")},
		{
			"The role “staff” can't go: the role “harbour masters” includes it.",
			edit.OpTakeRole{Was: edit.OpMakeRole{Role: "staff"}},
		},
	} {
		_, _, err := edit.Apply(s, c.op, testkit.Now)
		assert.EqualError(t, err, c.want)
	}
	closed, _, err := edit.Apply(s, setting(2, edit.FieldAudience, string(s.Page(2).Audience), "masters"), testkit.Now)
	require.NoError(t, err)
	_, _, err = edit.Apply(closed, edit.OpTakeRole{Was: edit.OpMakeRole{Role: "masters"}}, testkit.Now)
	want := fmt.Sprintf("The role “harbour masters” can't go: the page “%s” is for it.", s.Page(2).Label)
	assert.EqualError(t, err, want)

	binned, _, err := edit.Apply(closed, edit.OpBin{Page: 2}, testkit.Now)
	require.NoError(t, err)
	_, _, err = edit.Apply(binned, edit.OpTakeRole{Was: edit.OpMakeRole{Role: "masters"}}, testkit.Now)
	assert.ErrorContains(t, err, "in the bin is for it")

	gone, _, err := edit.Apply(s, edit.OpTakeRole{Was: edit.OpMakeRole{Role: "masters"}}, testkit.Now)
	require.NoError(t, err)
	_, _, err = edit.Apply(gone, edit.OpMakeRole{Role: "masters", Fields: named}, testkit.Now)
	assert.EqualError(t, err, "There was a role “masters”, and no other can have its key.")
}

// Two people who give one role different permissions both get what they gave, and neither gives back what the other
// took.
func TestTwoWhoPermitDontMeet(t *testing.T) {
	s := exampleSite(t)
	give := func(s *site.Site, old, made string) *site.Site {
		next, _, err := edit.Apply(s, edit.OpEditRole{Role: "staff", Fields: []edit.FieldChange{
			{Field: edit.FieldPermissions, Old: old, New: made},
		}}, testkit.Now)
		require.NoError(t, err)
		return next
	}
	s = give(s, "", "edit:page:2|link:menu:1")
	one := give(s, "edit:page:2|link:menu:1", "edit:page:2|link:menu:1|publish:page:2")
	both := give(one, "edit:page:2|link:menu:1", "edit:page:2|arrange:page:2")
	assert.Equal(t, "arrange:page:2|edit:page:2|publish:page:2", edit.RoleValue(both.Role("staff"), edit.FieldPermissions))
}

// Who gives a permission needs the right to say who may, there, and holds what they give; a role that is included gives
// all that it holds.
func TestWhatGivingNeeds(t *testing.T) {
	s := exampleSite(t)
	s, _, err := edit.Apply(s, edit.OpEditRole{Role: "staff", Fields: []edit.FieldChange{
		{Field: edit.FieldPermissions, New: "edit:page:2"},
	}}, testkit.Now)
	require.NoError(t, err)
	needs := func(op edit.Op) string {
		var words []string
		for _, need := range op.Needs(s) {
			words = append(words, site.Grant{Action: need.Action, On: need.On}.String())
		}
		slices.Sort(words)
		return strings.Join(words, " ")
	}
	instead := edit.FieldChange{Field: edit.FieldPermissions, Old: "edit:page:2", New: "link:menu:1"}
	assert.Equal(
		t,
		"admit:menu:1 admit:page:2 link:menu:1",
		needs(edit.OpEditRole{Role: "staff", Fields: []edit.FieldChange{instead}}),
	)
	assert.Equal(t, "admit:site edit:page:2", needs(edit.OpMakeRole{Role: "crew", Fields: map[edit.Field]string{
		edit.FieldName: "Crew", edit.FieldIncludes: "masters",
	}}), "Harbour masters include Staff")
}
