package site

import (
	"slices"
	"strings"
)

// A Role is a named group of people; it holds all that the roles it includes hold (rules 8.1). Its key never changes,
// and no other role ever has it, so that what names a role by it never means another one.
type Role struct {
	Key      string
	Name     string
	Includes []string // keys of other roles, sorted; inclusion has no cycle
	Grants   []Grant  // sorted, each once
}

// Action is what a grant allows (rules 8.1).
type Action string

const (
	ActionEdit     Action = "edit"
	ActionArrange  Action = "arrange"
	ActionAdmit    Action = "admit"
	ActionPlace    Action = "place"
	ActionLink     Action = "link"
	ActionClassify Action = "classify"
	ActionKeep     Action = "keep"
	ActionPublish  Action = "publish"
)

// Actions gives every action there is, in the order in which roles show them; the caller may keep the list.
func Actions() []Action {
	return []Action{
		ActionEdit, ActionArrange, ActionAdmit, ActionPlace, ActionLink, ActionClassify, ActionKeep, ActionPublish,
	}
}

// A Grant is an action and what it is allowed on: the site, a page with all below it, the pages of a type, a menu or a
// region (rules 8.1).
type Grant struct {
	Action Action
	On     Thing
}

// String is the grant in its written form, as in “edit:page:12”.
func (g Grant) String() string { return string(g.Action) + ":" + g.On.String() }

// OnSite gives grants of actions on the whole site.
func OnSite(actions ...Action) []Grant {
	grants := make([]Grant, len(actions))
	for i, action := range actions {
		grants[i] = Grant{action, SiteThing}
	}
	slices.SortFunc(grants, compareGrants)
	return grants
}

func compareGrants(a, b Grant) int { return strings.Compare(a.String(), b.String()) }

// Role finds a role by key; nil if there is none.
func (s *Site) Role(key string) *Role {
	for i := range s.roles {
		if s.roles[i].Key == key {
			return &s.roles[i]
		}
	}
	return nil
}

// Roles gives every role, in the site's order.
func (s *Site) Roles() []Role { return s.roles }

// RolesGone gives the keys of roles that were taken away, sorted; none of them is given to another role.
func (s *Site) RolesGone() []string { return s.rolesGone }

// SetRoles replaces the roles. Keys of those that are not among them any more are remembered.
func (b *Builder) SetRoles(roles []Role) {
	s := &b.site
	gone := slices.Clone(s.rolesGone)
	for i := range s.roles {
		gone = append(gone, s.roles[i].Key)
	}
	has := func(key string) bool {
		return slices.ContainsFunc(roles, func(r Role) bool { return r.Key == key })
	}
	gone = slices.DeleteFunc(gone, has)
	slices.Sort(gone)
	s.roles, s.rolesGone = roles, slices.Compact(gone)
}

// Holds expands roles by all they include, sorted. Unknown keys stay: they admit to nothing.
func (s *Site) Holds(keys []string) []string {
	held := make([]string, 0, len(keys))
	var add func(string)
	add = func(key string) {
		if slices.Contains(held, key) {
			return
		}
		held = append(held, key)
		if role := s.Role(key); role != nil {
			for _, included := range role.Includes {
				add(included)
			}
		}
	}
	for _, key := range keys {
		add(key)
	}
	slices.Sort(held)
	return held
}

// AudienceWords names an audience; the inherited one has no words.
func (s *Site) AudienceWords(a Audience) string {
	switch a {
	case AudienceInherited:
		return ""
	case AudienceEveryone:
		return "Everyone"
	case AudienceSignedIn:
		return "Signed in"
	case AudienceEditors:
		return "Only us until it is ready"
	}
	words := ""
	for i, key := range a.Roles() {
		if i > 0 {
			words += " or "
		}
		if role := s.Role(key); role != nil {
			words += role.Name
		}
	}
	return words
}

// RoleName names a role; one that is gone by its key.
func (s *Site) RoleName(key string) string {
	if role := s.Role(key); role != nil {
		return role.Name
	}
	return key
}

// WayOf gives the roles by which one includes another, both among them, the shortest way; nil if it does not. A role
// leads to itself.
func (s *Site) WayOf(from, to string) []string {
	ways := [][]string{{from}}
	seen := map[string]bool{from: true}
	for len(ways) > 0 {
		way := ways[0]
		ways = ways[1:]
		last := way[len(way)-1]
		if last == to {
			return way
		}
		role := s.Role(last)
		if role == nil {
			continue
		}
		for _, next := range role.Includes {
			if !seen[next] {
				seen[next] = true
				ways = append(ways, append(slices.Clip(way), next))
			}
		}
	}
	return nil
}

// Equal says whether two roles are the same in all they say.
func (r Role) Equal(o Role) bool {
	return r.Key == o.Key && r.Name == o.Name && slices.Equal(r.Includes, o.Includes) && slices.Equal(r.Grants, o.Grants)
}

// SameRoles says whether two Sites have the same roles, in the same order.
func SameRoles(a, b *Site) bool { return slices.EqualFunc(a.roles, b.roles, Role.Equal) }
