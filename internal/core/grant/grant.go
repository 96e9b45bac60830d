// Package grant decides who may do what, and says why (rules 8).
package grant

import (
	"fmt"
	"slices"
	"time"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// An Answer to "may this person do that", with its reason.
type Answer struct {
	Yes bool
	Why string
}

// May asks for an action on the whole site. Roles are given as held, without what they include. Grants add up; there is
// no deny.
func May(s *site.Site, roles []string, action site.Action) Answer {
	for _, key := range s.Holds(roles) {
		if role := s.Role(key); role != nil && slices.Contains(role.Actions, action) {
			return Answer{true, fmt.Sprintf("The role “%s” may %s on the whole site.", role.Name, Words(action))}
		}
	}
	return Answer{
		false,
		fmt.Sprintf("To %s you need a role that has this permission; ask your site keeper.", Words(action)),
	}
}

// MayAll asks for everything that operations need, and gives the first no.
func MayAll(s *site.Site, roles []string, ops []edit.Op) Answer {
	for _, op := range ops {
		for _, need := range op.Needs(s) {
			if answer := May(s, roles, need.Action); !answer.Yes {
				return answer
			}
		}
	}
	return Answer{Yes: true}
}

// MayOpen asks whether somebody who may not admit opens nothing by operations that lead from what is public to a Site.
func MayOpen(public, after *site.Site, roles []string, ops []edit.Op, now time.Time) Answer {
	answer := May(public, roles, site.ActionAdmit)
	if answer.Yes {
		return answer
	}
	if why := Opens(public, after, ops, now); why != "" {
		return Answer{Why: why + ". To do that you need the right to " + Words(site.ActionAdmit) + "."}
	}
	return Answer{Yes: true}
}

// A Made step is what somebody did: its operations, with the roles that its maker holds at this moment.
type Made struct {
	Ops   []edit.Op
	Roles []string
}

// MayPublish asks for what it takes to publish steps, as rights are at this moment, whichever way they are published:
// the publisher may publish, and what each operation needs its maker may do, or the publisher (rules 8.1). after is the
// Site as all the steps leave it.
func MayPublish(s, after *site.Site, publisher []string, steps []Made, now time.Time) Answer {
	if answer := May(s, publisher, site.ActionPublish); !answer.Yes {
		return answer
	}
	var open []edit.Op // by whom may not admit
	for _, step := range steps {
		if !May(s, step.Roles, site.ActionAdmit).Yes {
			open = append(open, step.Ops...)
		}
		for _, op := range step.Ops {
			if action := lacking(s, op, step.Roles, publisher); action != "" {
				const no = "One of these edits needs the right to %s, which neither who made it nor who publishes holds now."
				return Answer{Why: fmt.Sprintf(no, Words(action))}
			}
		}
	}
	// Asked once for all of them, since it looks at every page on which one of their blocks shows.
	if answer := MayOpen(s, after, publisher, open, now); !answer.Yes {
		return Answer{Why: answer.Why + " Neither who made it nor who publishes holds it now."}
	}
	return Answer{Yes: true}
}

// lacking gives a right that an operation needs and that neither of two people has; "" for none.
func lacking(s *site.Site, op edit.Op, maker, publisher []string) site.Action {
	for _, need := range op.Needs(s) {
		if !May(s, maker, need.Action).Yes && !May(s, publisher, need.Action).Yes {
			return need.Action
		}
	}
	return ""
}

// Works says whether any of the roles may do anything, so that the person has business in the workbench.
func Works(s *site.Site, roles []string) bool {
	return slices.ContainsFunc(s.Holds(roles), func(key string) bool {
		role := s.Role(key)
		return role != nil && len(role.Actions) > 0
	})
}

// ClosedTo says whether the site is closed for somebody (rules 4.5): people with a permission see it all the same.
func ClosedTo(s *site.Site, roles []string) bool { return s.Settings().Closed && !Works(s, roles) }

// Words says an action as the screens do.
func Words(action site.Action) string {
	switch action {
	case site.ActionEdit:
		return "edit pages"
	case site.ActionArrange:
		return "order pages"
	case site.ActionAdmit:
		return "set who sees"
	case site.ActionPlace:
		return "set out regions"
	case site.ActionLink:
		return "edit menus"
	case site.ActionClassify:
		return "set topics"
	case site.ActionKeep:
		return "keep the site"
	case site.ActionPublish:
		return "publish"
	}
	return string(action)
}
