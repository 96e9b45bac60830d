package access

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/grant"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
	"vineladder/internal/web/workbench/desk"
)

// peopleShown bounds the people who are listed for one page.
const peopleShown = 200

// A whyView says who sees a page and who may do what there, and through what.
type whyView struct {
	view
	Page    *site.Page
	Path    []*site.Page
	Action  string // what is asked for: "see", or an action
	Actions []desk.Option
	Whose   string // whom it is asked of: "account:7" or "role:staff"; "" for everybody
	Asked   string // their name
	Answer  grant.Answer
	Steps   []whyStep
	Able    []ablePerson
	More    int
	Roles   []site.Role
	People  []store.Account
}

// A whyStep is one link of the chain of an answer.
type whyStep struct {
	Words string
	Link  string
	Yes   bool
}

// An ablePerson can do what is asked, and through what.
type ablePerson struct {
	Name, Link string
	Through    string
}

func (s *Area) why(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	base, err := s.view(r, d, "why")
	if err != nil {
		return err
	}
	v := whyView{
		view: base, Page: d.Site.Page(d.Selected), Action: r.FormValue("may"), Whose: r.FormValue("who"),
		Roles: d.Site.Roles(), Actions: append([]desk.Option{{Value: "see", Words: "see it"}}, actionWords()...),
	}
	if v.People, err = s.Store.People(r.Context()); err != nil {
		return err
	}
	v.Path = d.Site.Path(v.Page.ID)
	if !slices.ContainsFunc(v.Actions, func(o desk.Option) bool { return o.Value == v.Action }) {
		v.Action = "see"
	}
	v.ask(d)
	v.list(d)
	s.show(w, r, v)
	return nil
}

// ask answers for whom it is asked.
func (v *whyView) ask(d *desk.Desk) {
	family, key, _ := strings.Cut(v.Whose, ":")
	var roles []string
	switch id, _ := strconv.ParseInt(key, 10, 64); family {
	case "role":
		if d.Site.Role(key) == nil {
			return
		}
		roles, v.Asked = []string{key}, "Who holds “"+d.Site.RoleName(key)+"”"
	case "account":
		at := slices.IndexFunc(v.People, func(a store.Account) bool { return a.ID == id })
		if at < 0 {
			return
		}
		roles, v.Asked = v.People[at].Roles, v.People[at].Name
		v.Steps = append(v.Steps, whyStep{
			Words: fmt.Sprintf("%s holds %s", v.Asked, rolesWords(d.Site, roles)), Yes: len(roles) > 0,
			Link: d.Link("/access/people", "person", key),
		})
	default:
		return
	}
	if v.Action == "see" {
		v.seeing(d, roles)
		return
	}
	v.doing(d, roles)
}

func rolesWords(s *site.Site, roles []string) string {
	if len(roles) == 0 {
		return "no role"
	}
	names := make([]string, len(roles))
	for i, key := range roles {
		names[i] = "“" + s.RoleName(key) + "”"
	}
	return strings.Join(names, ", ")
}

// doing explains whether somebody may do something on the page.
func (v *whyView) doing(d *desk.Desk, roles []string) {
	on, h := site.PageThing(v.Page.ID), grant.Holding(d.Site, roles)
	action := site.Action(v.Action)
	v.Answer = h.May(action, on)
	if chain := h.Through(action, on); chain != nil {
		v.follow(d, chain.Roles)
		v.Steps = append(v.Steps, whyStep{
			Words: fmt.Sprintf("“%s” may %s %s", d.Site.RoleName(chain.Roles[len(chain.Roles)-1]), grant.Words(action),
				grant.Where(d.Site, chain.Grant.On)),
			Link: d.Link("/access/roles", "role", chain.Roles[len(chain.Roles)-1]), Yes: true,
		})
		if id := site.PageID(chain.Grant.On.ID); chain.Grant.On.Family == site.FamilyPage && id != v.Page.ID {
			v.Steps = append(v.Steps, whyStep{
				Words: fmt.Sprintf("“%s” stands below “%s”", v.Page.Label, d.Site.Page(id).Label),
				Link:  d.Link("/tree", "page", fmt.Sprint(id)), Yes: true,
			})
		}
	}
}

// follow adds the way from a role that is held to one that has what is asked.
func (v *whyView) follow(d *desk.Desk, way []string) {
	for i := 1; i < len(way); i++ {
		v.Steps = append(v.Steps, whyStep{
			Words: fmt.Sprintf("“%s” includes “%s”", d.Site.RoleName(way[i-1]), d.Site.RoleName(way[i])),
			Link:  d.Link("/access/roles", "role", way[i-1]), Yes: true,
		})
	}
}

// seeing explains whether somebody sees the page: whether it is online, for whom it is, and by which role.
func (v *whyView) seeing(d *desk.Desk, roles []string) {
	lens := reach.Lens{Visitor: reach.As(d.Site, roles), At: d.Lens.At}
	got := reach.Ask(d.Site, v.Page.ID, lens)
	v.Answer = grant.Answer{Yes: got == reach.Sees, Why: "They get: " + answerWords(got) + "."}
	if why := reach.WhyOffline(d.Site, v.Page.ID, lens.At); why.Cause != nil {
		v.Steps = append(v.Steps, whyStep{
			Words: "“" + why.Cause.Label + "” is not online", Link: d.Link("/tree", "page", fmt.Sprint(why.Cause.ID)),
		})
		return
	}
	v.Steps = append(v.Steps, whyStep{Words: "“" + v.Page.Label + "” and all above it are online", Yes: true})
	source := reach.Source(d.Site, v.Page.ID)
	words, _ := audienceOf(d.Site, v.Page.ID)
	step := whyStep{
		Words: fmt.Sprintf("“%s” is for: %s", source.Label, words), Link: d.Link("/tree", "page", fmt.Sprint(source.ID)),
		Yes: got == reach.Sees,
	}
	v.Steps = append(v.Steps, step)
	if source.Audience == site.AudienceEditors {
		v.doingInstead(d, roles)
		return
	}
	for _, held := range roles {
		for _, wanted := range source.Audience.Roles() {
			if way := d.Site.WayOf(held, wanted); way != nil {
				v.follow(d, way)
				return
			}
		}
	}
}

// doingInstead explains a page that is for those who may edit it.
func (v *whyView) doingInstead(d *desk.Desk, roles []string) {
	answer, action := v.Answer, v.Action
	v.Action = string(site.ActionEdit)
	v.doing(d, roles)
	v.Answer, v.Action = answer, action
}

// list names everybody who can do what is asked, and through what.
func (v *whyView) list(d *desk.Desk) {
	for _, a := range v.People {
		through := v.through(d, a)
		if through == "" {
			continue
		}
		if len(v.Able) == peopleShown {
			v.More++
			continue
		}
		link := d.Link("/access/why", "who", fmt.Sprintf("account:%d", a.ID)) + "&may=" + v.Action
		v.Able = append(v.Able, ablePerson{a.Name, link, through})
	}
}

// through says through what a person can do what is asked; "" if they can't.
func (v *whyView) through(d *desk.Desk, a store.Account) string {
	if v.Action == "see" {
		lens := reach.Lens{Visitor: reach.As(d.Site, a.Roles), At: d.Lens.At}
		if reach.Ask(d.Site, v.Page.ID, lens) != reach.Sees {
			return ""
		}
		words, _ := audienceOf(d.Site, v.Page.ID)
		return "the page is for: " + words
	}
	chain := grant.Holding(d.Site, a.Roles).Through(site.Action(v.Action), site.PageThing(v.Page.ID))
	if chain == nil {
		return ""
	}
	return grant.Said(d.Site, *chain)
}
