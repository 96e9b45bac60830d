package access

import (
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
	"vineladder/internal/web/workbench/desk"
)

// A rolesView is the roles as a list and as a chart, and all of the one that is chosen.
type rolesView struct {
	view
	Lines  []roleLine
	Chart  chart
	Chosen *roleSheet
}

type roleLine struct {
	site.Role
	People int
	On     bool
}

// A roleSheet is all of one role.
type roleSheet struct {
	roleLine
	Fields   map[string]string
	Includes []includable
	Holds    []permitted // its own
	Through  []permitted // by what it includes
	Holders  []store.AccountLine
	User     string // why it can't go; "" if it can
	Actions  []desk.Option
	Menus    []desk.Option
	Regions  []desk.Option
	Kinds    []desk.Option
	sight
}

// Sight is what somebody sees of the tree.
type sight struct {
	Sees, All int
	Closed    []closedBranch // seen that not everybody sees
	Look      string         // address of the tree as they see it
	Picture   string
}

// A closedBranch is a page with all below it that not everybody sees, with the way to why.
type closedBranch struct{ Words, Link string }

// An includable role can be included, or not: with the reason.
type includable struct {
	site.Role
	On  bool
	Why string
}

// A permitted thing is what is permitted on it, in words.
type permitted struct {
	Where string
	Link  string // to the thing
	By    string // name of the role that has it, where that is another one
	Gone  bool
	Take  grant.Answer // whether the person may take it
	May   []permission
}

// A permission is a grant in words.
type permission struct {
	Text string // its written form
	May  string
}

// Words says all that is permitted.
func (p permitted) Words() string {
	words := make([]string, len(p.May))
	for i, one := range p.May {
		words[i] = one.May
	}
	return strings.Join(words, ", ")
}

func (s *Area) roles(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	base, err := s.view(r, d, "roles")
	if err != nil {
		return err
	}
	people, err := s.Store.AccountLines(r.Context())
	if err != nil {
		return err
	}
	v := rolesView{view: base}
	chosen := r.FormValue("role")
	if d.Site.Role(chosen) == nil && len(d.Site.Roles()) > 0 {
		chosen = d.Site.Roles()[0].Key
	}
	for _, role := range d.Site.Roles() {
		holders := holdersOf(people, role.Key)
		line := roleLine{role, len(holders), role.Key == chosen}
		v.Lines = append(v.Lines, line)
		if line.On {
			v.Chosen = roleSheetOf(d, line, holders)
		}
	}
	v.Chart = drawn(d.Site, chosen, func(key string) string { return v.Link("/access/roles", "role", key) })
	s.show(w, r, v)
	return nil
}

func holdersOf(people []store.AccountLine, role string) []store.AccountLine {
	return slices.DeleteFunc(slices.Clone(people), func(a store.AccountLine) bool {
		return !slices.Contains(a.Roles, role) || !a.Disabled.IsZero()
	})
}

func roleSheetOf(d *desk.Desk, line roleLine, holders []store.AccountLine) *roleSheet {
	s := d.Site
	made := &roleSheet{roleLine: line, Holders: holders, Actions: actionWords(), Fields: map[string]string{}}
	for _, field := range edit.Fields()["role"] {
		made.Fields[string(field)] = edit.RoleValue(&line.Role, field)
	}
	for _, other := range s.Roles() {
		if other.Key == line.Key {
			continue
		}
		one := includable{Role: other, On: slices.Contains(line.Includes, other.Key)}
		if s.WayOf(other.Key, line.Key) != nil {
			one.Why = "it includes this one"
		}
		made.Includes = append(made.Includes, one)
	}
	made.Holds = permissionsOf(d, line.Grants, "")
	for _, key := range s.Holds(line.Includes) {
		made.Through = append(made.Through, permissionsOf(d, s.Role(key).Grants, s.RoleName(key))...)
	}
	made.User = edit.RoleUser(s, line.Key)
	if made.User == "" && len(holders) > 0 {
		made.User = holders[0].Name + " holds it"
	}
	for i := range s.Menus() {
		m := &s.Menus()[i]
		made.Menus = append(made.Menus, desk.Option{Value: site.MenuThing(m.ID).String(), Words: m.Name})
	}
	for _, region := range s.Theme().Regions {
		made.Regions = append(made.Regions, desk.Option{Value: site.RegionThing(region.Key).String(), Words: region.Name})
	}
	for _, kind := range s.Kinds() {
		made.Kinds = append(made.Kinds, desk.Option{Value: site.KindThing(kind.Key).String(), Words: kind.Name})
	}
	made.sight = sightOf(d, reach.As(s, []string{line.Key}), line.Key)
	return made
}

// permissionsOf says grants in words, by what they are on: the whole site first.
func permissionsOf(d *desk.Desk, grants []site.Grant, by string) []permitted {
	grants = slices.Clone(grants)
	slices.SortStableFunc(grants, func(a, b site.Grant) int {
		order := slices.Index(site.Actions(), a.Action) - slices.Index(site.Actions(), b.Action)
		switch {
		case a.On == b.On:
			return order
		case a.On == site.SiteThing:
			return -1
		case b.On == site.SiteThing:
			return 1
		}
		return strings.Compare(a.On.String(), b.On.String())
	})
	var all []permitted
	for _, g := range grants {
		if n := len(all); n == 0 || all[n-1].Where != grant.Where(d.Site, g.On) {
			all = append(all, onThing(d, g.On, by))
		}
		last := &all[len(all)-1]
		last.May = append(last.May, permission{g.String(), grant.Words(g.Action)})
	}
	return all
}

// onThing names a thing on which something is permitted.
func onThing(d *desk.Desk, on site.Thing, by string) permitted {
	one := permitted{Where: grant.Where(d.Site, on), By: by, Take: d.MayOn(string(site.ActionAdmit), on)}
	number := strconv.FormatInt(on.ID, 10)
	switch {
	case on.Family == site.FamilyPage && d.Site.InTree(site.PageID(on.ID)):
		one.Link = d.Link("/tree", "page", number)
	case on.Family == site.FamilyMenu && d.Site.Menu(site.MenuID(on.ID)) != nil:
		one.Link = d.Link("/menus", "menu", number)
	case on.Family == site.FamilyPage, on.Family == site.FamilyMenu:
		one.Gone = true
	}
	return one
}

// closedShown bounds the closed branches that are named.
const closedShown = 12

// sightOf walks the tree for somebody: how much they see, and which branches of that are not for everybody.
func sightOf(d *desk.Desk, who reach.Visitor, as string) sight {
	made := sight{All: d.Site.Count()}
	panel := reach.NewPanel(reach.Lens{At: d.Lens.At}, reach.Lens{Visitor: who, At: d.Lens.At})
	reach.Walk(d.Site, panel, func(p *site.Page, state reach.State) bool {
		if !state.Reachable().Has(1) {
			return true
		}
		made.Sees++
		closed := !state.Reachable().Has(0)
		if closed && p.Audience != site.AudienceInherited && len(made.Closed) < closedShown {
			link := d.Link("/access/why", "page", strconv.FormatInt(int64(p.ID), 10))
			made.Closed = append(made.Closed, closedBranch{p.Label, link})
		}
		return true
	})
	look := func(path string) string {
		at, query, _ := cutQuery(d.Link(path, "as", as))
		return at + "?" + query.Encode()
	}
	made.Look, made.Picture = look("/tree"), look("/picture")
	return made
}

func cutQuery(link string) (path string, query url.Values, err error) {
	u, err := url.Parse(link)
	if err != nil {
		return link, url.Values{}, err
	}
	return u.Path, u.Query(), nil
}
