package edit

import (
	"fmt"
	"slices"
	"strings"

	"vineladder/internal/core/site"
)

// Fields of a role, besides its name.
const (
	FieldIncludes    Field = "includes"    // keys of roles, as in “editor|members”
	FieldPermissions Field = "permissions" // grants, as in “arrange:page:12|edit:site”
)

// GrantsLimit is the number of permissions that one role can hold.
const GrantsLimit = 500

// roleFields is every field of a role.
var roleFields = family[site.Role]{
	Column[site.Role, string]{
		Fact: Fact{Field: FieldName, Needs: site.ActionAdmit},
		Get:  func(r *site.Role) string { return r.Name },
		Set: func(_ *site.Site, r *site.Role, name string) error {
			if r.Name = name; name == "" {
				return refuse("A role needs a name.")
			}
			return nil
		},
		Form: line("A name", NameLimit),
	},
	Column[site.Role, []string]{
		Fact: Fact{Field: FieldIncludes, Words: "roles that it includes", Apart: "|", Needs: site.ActionAdmit},
		Get:  func(r *site.Role) []string { return r.Includes },
		Set: func(s *site.Site, r *site.Role, keys []string) error {
			r.Includes = keys
			return biting(s, r)
		},
		Form: roleKeys(),
	},
	at(
		Fact{Field: FieldPermissions, Apart: "|", Traits: Naming, Needs: site.ActionAdmit},
		grants(), func(r *site.Role) *[]site.Grant { return &r.Grants },
	),
}

// RoleValue gives a field of a role in its canonical form.
func RoleValue(r *site.Role, of Field) string { return roleFields.value(r, of) }

// roleKeys is the form of a set of roles.
func roleKeys() Form[[]string] {
	return Form[[]string]{
		Write: func(keys []string) string { return strings.Join(keys, "|") },
		Read: func(s *site.Site, text string) ([]string, error) {
			keys := site.Audience(text).Roles()
			if text == "" {
				return nil, nil
			}
			for _, key := range keys {
				if s.Role(key) == nil {
					return nil, &Conflict{Sentence: fmt.Sprintf("The role “%s” is not there any more.", key)}
				}
			}
			slices.Sort(keys)
			return slices.Compact(keys), nil
		},
	}
}

// biting refuses a role that would include itself, by way of others or not (ANSI INCITS 359: the hierarchy is a partial
// order).
func biting(s *site.Site, r *site.Role) error {
	for _, key := range r.Includes {
		if way := s.WayOf(key, r.Key); way != nil {
			names := make([]string, len(way))
			for i, on := range way {
				names[i] = "“" + s.RoleName(on) + "”"
			}
			if len(way) == 1 {
				return refuse("A role can't include itself.")
			}
			return refuse("%s can't include %s: %s.", names[len(names)-1], names[0], strings.Join(names, " includes "))
		}
	}
	return nil
}

// grants is the form of a set of permissions.
func grants() Form[[]site.Grant] {
	return Form[[]site.Grant]{
		Write: func(all []site.Grant) string {
			words := make([]string, len(all))
			for i, g := range all {
				words[i] = g.String()
			}
			return strings.Join(words, "|")
		},
		Read: func(s *site.Site, text string) ([]site.Grant, error) {
			var words []string
			if text != "" {
				words = strings.Split(text, "|")
			}
			slices.Sort(words)
			words = slices.Compact(words)
			if len(words) > GrantsLimit {
				return nil, refuse("A role can hold %d permissions at most; these are %d.", GrantsLimit, len(words))
			}
			var all []site.Grant
			for _, word := range words {
				g, err := ParseGrant(s, word)
				if err != nil {
					return nil, err
				}
				all = append(all, g)
			}
			return all, nil
		},
	}
}

// ParseGrant reads a permission in its written form; what it is on must be there, or have been.
func ParseGrant(s *site.Site, text string) (site.Grant, error) {
	action, on, _ := strings.Cut(text, ":")
	thing, ok := site.ParseThing(on)
	g := site.Grant{Action: site.Action(action), On: thing}
	switch {
	case !ok || !slices.Contains(site.Actions(), g.Action):
		return g, refuse("“%s” is no permission.", text)
	case g.Action == site.ActionKeep && thing != site.SiteThing:
		return g, refuse("Keeping the site is for the whole of it.")
	case !holdable(g):
		return g, refuse("That can't be permitted there: %s is not done on a %s.", g.Action, thing.Family)
	}
	return g, nil
}

// holdable says whether an action is done on things of a family (rules 8.1).
func holdable(g site.Grant) bool {
	switch g.On.Family {
	case site.FamilyMenu:
		return slices.Contains([]site.Action{site.ActionLink, site.ActionAdmit, site.ActionPublish}, g.Action)
	case site.FamilyRegion:
		return slices.Contains([]site.Action{site.ActionPlace, site.ActionAdmit, site.ActionPublish}, g.Action)
	case site.FamilyPage, site.FamilyKind:
		return g.Action != site.ActionLink
	}
	return true
}
