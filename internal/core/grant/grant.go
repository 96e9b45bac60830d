// Package grant decides who may do what, and says why (rules 8).
package grant

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// An Answer to "may this person do that", with its reason.
type Answer struct {
	Yes bool
	Why string
	// Alone says that nothing is missing but a second person, and that a site keeper could do without one (rules 8.2).
	Alone bool
}

// May asks for an action on a thing. Roles are given as held, without what they include. Grants add up; there is no
// deny.
func May(s *site.Site, roles []string, action site.Action, on site.Thing) Answer {
	return Holding(s, roles).May(action, on)
}

// MayAll asks for everything that operations in a draft need, and gives the first no.
func MayAll(public, draft *site.Site, roles []string, ops []edit.Op) Answer {
	h := Holding(public, roles).In(draft).doing(ops)
	for _, op := range ops {
		for _, need := range op.Needs(draft) {
			if answer := h.Has(need); !answer.Yes {
				return answer
			}
		}
		if need, widens := widening(public, draft, op); widens {
			if answer := h.Has(need); !answer.Yes {
				return Answer{Why: "There others could do more with it than now. " + answer.Why}
			}
		}
	}
	return Answer{Yes: true}
}

// widening asks for the right to admit for a move after which anybody could do more with a page than where it stands
// (rules 8.1): somebody holds a permission on what stands above the new place, and not on what stands above the old.
func widening(public, draft *site.Site, op edit.Op) (edit.Need, bool) {
	o, moves := op.(edit.OpMove)
	if !moves || public.Page(o.Page) == nil || !grantsOnPages(public) {
		return edit.Need{}, false
	}
	need := edit.Need{Action: site.ActionAdmit, On: site.PageThing(o.Page)}
	for i := range public.Roles() {
		key := public.Roles()[i].Key
		h := Holding(public, []string{key}).In(draft)
		for _, action := range site.Actions() {
			there := h.Through(action, site.PageThing(o.To.Parent))
			if there != nil && there.Grant.On.Family == site.FamilyPage &&
				h.Through(action, site.PageThing(o.Page)) == nil {
				return need, true
			}
		}
	}
	return need, false
}

func grantsOnPages(s *site.Site) bool {
	return slices.ContainsFunc(s.Roles(), func(r site.Role) bool {
		return slices.ContainsFunc(r.Grants, func(g site.Grant) bool { return g.On.Family == site.FamilyPage })
	})
}

// MayOpen asks whether somebody opens nothing, where they may not admit, by operations that lead from what is public to
// a Site.
func MayOpen(public, after *site.Site, roles []string, ops []edit.Op, now time.Time) Answer {
	h := Holding(public, roles)
	answer := h.May(site.ActionAdmit, site.SiteThing)
	if answer.Yes {
		return answer
	}
	if why := Opens(public, after, unless(h, public, ops), now); why != "" {
		return Answer{Why: why + ". To do that you need the right to " + Words(site.ActionAdmit) + "."}
	}
	return Answer{Yes: true}
}

// unless leaves out the operations on what somebody may admit to.
func unless(h *Holder, s *site.Site, ops []edit.Op) []edit.Op {
	return slices.DeleteFunc(slices.Clone(ops), func(op edit.Op) bool {
		return !slices.ContainsFunc(op.Needs(s), func(need edit.Need) bool {
			need.Action = site.ActionAdmit
			return !h.Has(need).Yes
		})
	})
}

// A Made step is what somebody did: its operations, with the roles that its maker holds at this moment.
type Made struct {
	By    int64 // account
	Ops   []edit.Op
	Roles []string
}

// MayPublish asks for what it takes to publish steps, as rights are at this moment, whichever way they are published:
// the publisher may publish, and what each operation needs its maker may do, or the publisher (rules 8.1). after is the
// Site as all the steps leave it.
func MayPublish(s, after *site.Site, publisher []string, steps []Made, now time.Time) Answer {
	var all, open []edit.Op // open: by whom may not admit
	for _, step := range steps {
		all = append(all, step.Ops...)
	}
	p := Holding(s, publisher).In(after).doing(all)
	holders := map[string]*Holder{}
	for _, step := range steps {
		by := strings.Join(step.Roles, " ")
		if holders[by] == nil {
			holders[by] = Holding(s, step.Roles).In(after).doing(all)
		}
		maker := holders[by]
		if !maker.May(site.ActionAdmit, site.SiteThing).Yes {
			open = append(open, unless(maker, s, step.Ops)...)
		}
		for _, op := range step.Ops {
			if answer := publishes(p, s, op); !answer.Yes {
				return answer
			}
			if need := lacking(s, op, maker, p); need != nil {
				const no = "One of these edits needs the right to %s%s, which neither who made it nor who publishes holds now."
				return Answer{Why: fmt.Sprintf(no, Words(need.Action), there(s, need.On))}
			}
		}
	}
	// Asked once for all of them, since it looks at every page on which one of their blocks shows.
	if answer := MayOpen(s, after, publisher, open, now); !answer.Yes {
		return Answer{Why: answer.Why + " Neither who made it nor who publishes holds it now."}
	}
	return Answer{Yes: true}
}

// publishes asks whether somebody may publish all that an operation names.
func publishes(h *Holder, s *site.Site, op edit.Op) Answer {
	for _, need := range op.Needs(s) {
		need.Action = site.ActionPublish
		if answer := h.Has(need); !answer.Yes {
			return answer
		}
	}
	return Answer{Yes: true}
}

// lacking gives what an operation needs and neither of two people has; nil for nothing.
func lacking(s *site.Site, op edit.Op, maker, publisher *Holder) *edit.Need {
	needed := op.Needs(s)
	for i := range needed {
		if !maker.Has(needed[i]).Yes && !publisher.Has(needed[i]).Yes {
			return &needed[i]
		}
	}
	return nil
}

// Works says whether any of the roles may do anything, so that the person has business in the workbench.
func Works(s *site.Site, roles []string) bool { return Holding(s, roles).Anything() }

// ClosedTo says whether the site is closed for somebody (rules 4.5): people with a permission see it all the same.
func ClosedTo(s *site.Site, roles []string) bool { return s.Settings().Closed && !Works(s, roles) }

// MayGive asks whether somebody may give or take roles: as granting, on the whole site, all that they hold (rules 8.1).
func MayGive(s *site.Site, giver, roles []string) Answer {
	h := Holding(s, giver)
	if answer := h.May(site.ActionAdmit, site.SiteThing); !answer.Yes {
		return answer
	}
	for _, key := range s.Holds(roles) {
		role := s.Role(key)
		if role == nil {
			continue
		}
		for _, g := range role.Grants {
			if !h.May(g.Action, g.On).Yes {
				const no = "You can't give or take the role “%s”: it may %s %s, which you don't hold yourself."
				return Answer{Why: fmt.Sprintf(no, role.Name, Words(g.Action), Where(s, g.On))}
			}
		}
	}
	return Answer{Yes: true}
}

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
