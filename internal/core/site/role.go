package site

import "slices"

// A Role is a named group of people; it holds all that the roles it includes hold (rules 8.1).
type Role struct {
	Key      string
	Name     string
	Includes []string // keys of other roles; inclusion has no cycle
	Actions  []Action // granted on the whole site
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
