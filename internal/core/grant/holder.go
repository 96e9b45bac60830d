package grant

import (
	"fmt"
	"slices"
	"strings"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// A Holder is somebody who holds roles, as they are on a Site: what is public. Rights are asked along the path that a
// page has there, in the bin along its old one; of a page that is not there yet along its path in the draft, up to the
// nearest one that is (rules 8.1).
type Holder struct {
	public *site.Site
	draft  *site.Site
	above  map[site.PageID]site.PageID // of pages that a step makes: the one inside which they are made
	roles  []string
	given  map[site.Grant][]string // what the roles hold, by the way of roles to it, the shortest
}

// Holding looks up what roles hold on a Site.
func Holding(public *site.Site, roles []string) *Holder {
	h := &Holder{public: public, draft: public, roles: roles, given: map[site.Grant][]string{}}
	ways := make([][]string, len(roles))
	for i, key := range roles {
		ways[i] = []string{key}
	}
	seen := map[string]bool{}
	for len(ways) > 0 {
		way := ways[0]
		ways = ways[1:]
		role := public.Role(way[len(way)-1])
		if role == nil || seen[role.Key] {
			continue
		}
		seen[role.Key] = true
		for _, g := range role.Grants {
			if h.given[g] == nil {
				h.given[g] = way
			}
		}
		for _, next := range role.Includes {
			ways = append(ways, append(slices.Clip(way), next))
		}
	}
	return h
}

// In has rights asked for what stands in a draft as well.
func (h *Holder) In(draft *site.Site) *Holder {
	made := *h
	made.draft = draft
	return &made
}

// Standing has rights asked along the paths of another Site, by what the roles hold on their own.
func (h *Holder) Standing(on *site.Site) *Holder {
	made := *h
	made.public, made.draft = on, on
	return &made
}

// A Chain is why somebody may: the way of roles, from one that they hold, to a permission on something.
type Chain struct {
	Roles []string // each includes the next; the last one has the permission
	Grant site.Grant
}

// May asks for an action on a thing.
func (h *Holder) May(action site.Action, on site.Thing) Answer {
	if chain := h.Through(action, on); chain != nil {
		return Answer{Yes: true, Why: Said(h.public, *chain)}
	}
	return Answer{Why: fmt.Sprintf("To %s%s you need a role that has this permission%s.", Words(action),
		there(h.public, on), whoHas(h.public, h, action, on))}
}

// Through gives a chain by which somebody may do something: the nearest to the thing; nil if there is none.
func (h *Holder) Through(action site.Action, on site.Thing) *Chain {
	for _, g := range h.suffice(action, on) {
		if way := h.given[g]; way != nil {
			return &Chain{way, g}
		}
	}
	return nil
}

// All gives every chain by which somebody may do something, the nearest to the thing first.
func (h *Holder) All(action site.Action, on site.Thing) []Chain {
	var all []Chain
	for _, g := range h.suffice(action, on) {
		if way := h.given[g]; way != nil {
			all = append(all, Chain{way, g})
		}
	}
	return all
}

// suffice gives the grants any of which allows an action on a thing, the nearest first.
func (h *Holder) suffice(action site.Action, on site.Thing) []site.Grant {
	var all []site.Grant
	add := func(thing site.Thing) { all = append(all, site.Grant{Action: action, On: thing}) }
	switch on.Family {
	case site.FamilyAny:
		for g := range h.given {
			if g.Action == action {
				all = append(all, g)
			}
		}
		slices.SortFunc(all, func(a, b site.Grant) int { return strings.Compare(a.String(), b.String()) })
		return all
	case site.FamilyPage:
		id := site.PageID(on.ID)
		for p := h.page(id); p != nil; p = h.page(p.Parent) {
			add(site.PageThing(p.ID))
			if p.ID == id && on.Key == "" {
				add(site.KindThing(p.Kind))
			}
		}
		if on.Key != "" {
			add(site.KindThing(on.Key))
		}
	case site.FamilyMenu, site.FamilyRegion, site.FamilyKind:
		add(on)
	}
	add(site.SiteThing)
	return all
}

// page finds a page as rights look at it: as it is public, else as it stands in the draft or is made by the step.
func (h *Holder) page(id site.PageID) *site.Page {
	if id == 0 {
		return nil
	}
	if p := h.public.Page(id); p != nil {
		return p
	}
	if p := h.draft.Page(id); p != nil {
		return p
	}
	if above, made := h.above[id]; made {
		return &site.Page{ID: id, Parent: above}
	}
	return nil
}

// Has asks for what an operation needs.
func (h *Holder) Has(need edit.Need) Answer {
	answer := h.May(need.Action, need.On)
	if answer.Yes || len(need.Or) == 0 {
		return answer
	}
	for _, on := range need.Or {
		if h.Through(need.Action, on) == nil {
			return answer
		}
	}
	return h.May(need.Action, need.Or[0])
}

// doing has rights asked for the pages that operations make, too.
func (h *Holder) doing(ops []edit.Op) *Holder {
	made := *h
	made.above = map[site.PageID]site.PageID{}
	for _, op := range ops {
		if o, makes := op.(edit.OpMake); makes {
			made.above[o.Page] = o.Place.Parent
		}
	}
	return &made
}

// Anything says whether somebody may do anything at all, so that they have business in the workbench.
func (h *Holder) Anything() bool { return len(h.given) > 0 }

// Said says why somebody may.
func Said(s *site.Site, c Chain) string {
	last := len(c.Roles) - 1
	by := "The role “" + s.RoleName(c.Roles[last]) + "”"
	if last > 0 {
		names := make([]string, last)
		for i, key := range c.Roles[:last] {
			names[last-1-i] = "“" + s.RoleName(key) + "”"
		}
		by += ", which " + strings.Join(names, " includes, which ") + " includes,"
	}
	return fmt.Sprintf("%s may %s %s.", by, Words(c.Grant.Action), Where(s, c.Grant.On))
}

// Where says on what a permission holds.
func Where(s *site.Site, on site.Thing) string {
	switch on.Family {
	case site.FamilySite:
		return "on the whole site"
	case site.FamilyPage:
		if p := s.Page(site.PageID(on.ID)); p != nil {
			return "on “" + p.Label + "” and all below it"
		}
		return "on a page that is gone"
	case site.FamilyMenu:
		if m := s.Menu(site.MenuID(on.ID)); m != nil {
			return "in the menu “" + m.Name + "”"
		}
		return "in a menu that is gone"
	case site.FamilyRegion:
		if r := s.Theme().Region(on.Key); r != nil {
			return "in the region “" + r.Name + "”"
		}
		return "in the region “" + on.Key + "”"
	case site.FamilyKind:
		return "on all pages of the type “" + s.Kind(on.Key).Name + "”"
	}
	return "on something"
}

// there names what a no is about; nothing for the whole site.
func there(s *site.Site, on site.Thing) string {
	switch on.Family {
	case site.FamilyPage:
		if p := s.Page(site.PageID(on.ID)); p != nil {
			return " in “" + p.Label + "”"
		}
	case site.FamilyMenu, site.FamilyRegion:
		return " " + Where(s, on)
	}
	return ""
}

// namesShown bounds the roles that a no names.
const namesShown = 3

// whoHas names the roles that have a permission themselves.
func whoHas(s *site.Site, h *Holder, action site.Action, on site.Thing) string {
	enough := h.suffice(action, on)
	if on.Family == site.FamilyAny {
		return "; ask your site keeper"
	}
	var names []string
	for i := range s.Roles() {
		r := &s.Roles()[i]
		if slices.ContainsFunc(r.Grants, func(g site.Grant) bool { return slices.Contains(enough, g) }) {
			names = append(names, "“"+r.Name+"”")
		}
	}
	switch n := len(names); {
	case n == 0:
		return "; no role has it yet"
	case n > namesShown:
		return fmt.Sprintf(", as %s and %d more have", strings.Join(names[:namesShown], ", "), n-namesShown)
	case n == 1:
		return ", as " + names[0] + " has"
	}
	return ", as " + strings.Join(names[:len(names)-1], ", ") + " and " + names[len(names)-1] + " have"
}
