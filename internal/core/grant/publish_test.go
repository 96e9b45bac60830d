package grant_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/site"
	"vineladder/internal/core/testkit"
)

// What it takes to publish is one question, whichever way a draft is published: who publishes may, and each edit's own
// needs are held by its maker or by who publishes, as rights are then.
func TestRightsAtPublishing(t *testing.T) {
	b := site.NewBuilder(testkit.Settings())
	b.SetRoles([]site.Role{
		{Key: "writer", Name: "Writer", Grants: site.OnSite(site.ActionEdit)},
		{Key: "chief", Name: "Chief", Grants: site.OnSite(site.ActionAdmit, site.ActionArrange)},
		{Key: "press", Name: "Press", Grants: site.OnSite(site.ActionPublish)},
	})
	s := b.Site()
	field := func(f edit.Field, value string) []edit.Op {
		return []edit.Op{edit.OpEdit{Page: 1, Fields: []edit.FieldChange{{Field: f, New: value}}}}
	}
	words, audience := field(edit.FieldSummary, "Words"), field(edit.FieldAudience, "staff")
	for _, c := range []struct {
		what      string
		publisher []string
		steps     []grant.Made
		no        string
	}{
		{
			"made by who may, published by who may",
			[]string{"press"},
			[]grant.Made{{Ops: words, Roles: []string{"writer"}}},
			"",
		},
		{"the publisher's own rights count too", []string{"press", "chief"}, []grant.Made{{Ops: audience, Roles: nil}}, ""},
		{
			"who may not publish",
			[]string{"chief"},
			[]grant.Made{{Ops: audience, Roles: []string{"chief"}}},
			"To publish you need",
		},
		{
			"the maker was demoted since",
			[]string{"press"},
			[]grant.Made{{Ops: words, Roles: nil}},
			"edit pages, which neither who made it nor who publishes holds now",
		},
		{"one step of several", []string{"press"}, []grant.Made{
			{Ops: words, Roles: []string{"writer"}},
			{Ops: audience, Roles: []string{"writer"}},
		}, "set who sees"},
	} {
		answer := grant.MayPublish(s, s, c.publisher, c.steps, testkit.Now)
		assert.Equal(t, c.no == "", answer.Yes, c.what)
		assert.Contains(t, answer.Why, c.no, c.what)
	}
}
