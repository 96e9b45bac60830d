package access

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/say"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// operations turns a form into operations on roles, with what was done in words.
func operations(r *http.Request) desk.Operations {
	return func(s *site.Site) ([]edit.Op, string, error) {
		key := r.FormValue("role")
		if r.FormValue("do") == "make-role" {
			return makeRole(s, r.FormValue("name"))
		}
		role := s.Role(key)
		if role == nil {
			return nil, "", &edit.Conflict{Sentence: "This role is not there any more."}
		}
		name := "“" + desk.Short(role.Name) + "”"
		edited := func(field edit.Field, was, is, words string) ([]edit.Op, string, error) {
			change := edit.FieldChange{Field: field, Old: was, New: is}
			return []edit.Op{edit.OpEditRole{Role: key, Fields: []edit.FieldChange{change}}}, words, nil
		}
		switch r.FormValue("do") {
		case "take-role":
			return []edit.Op{edit.OpTakeRole{Was: edit.OpMakeRole{Role: key}}}, "took the role " + name + " away", nil
		case "name":
			is := strings.TrimSpace(r.FormValue("new"))
			return edited(edit.FieldName, r.FormValue("old"), is, "called the role "+name+" “"+desk.Short(is)+"”")
		case "include":
			other := r.FormValue("other")
			words := "had the role " + name + " include “" + desk.Short(s.RoleName(other)) + "”"
			return edited(edit.FieldIncludes, "", other, words)
		case "exclude":
			other := r.FormValue("other")
			words := "had the role " + name + " no longer include “" + desk.Short(s.RoleName(other)) + "”"
			return edited(edit.FieldIncludes, other, "", words)
		case "permit":
			return permit(s, role, r.Form["may"], r.FormValue("on"))
		case "forbid":
			g, err := edit.ParseGrant(s, r.FormValue("grant"))
			if err != nil {
				return nil, "", err
			}
			words := fmt.Sprintf("took from the role %s that it may %s %s", name, grant.Words(g.Action), grant.Where(s, g.On))
			return edited(edit.FieldPermissions, g.String(), "", words)
		}
		return nil, "", &edit.Refusal{Sentence: "This edit is not known."}
	}
}

func makeRole(s *site.Site, name string) ([]edit.Op, string, error) {
	name = strings.TrimSpace(name)
	if name == "" {
		return nil, "", &edit.Refusal{Sentence: "A role needs a name."}
	}
	stem := address.Segment(name)
	key := stem
	for n := 2; !edit.RoleKeyFree(s, key) && n < 1000; n++ {
		key = stem + "-" + strconv.Itoa(n)
	}
	op := edit.OpMakeRole{Role: key, Fields: map[edit.Field]string{edit.FieldName: name}}
	if roles := s.Roles(); len(roles) > 0 {
		op.After = roles[len(roles)-1].Key
	}
	return []edit.Op{op}, "made the role “" + desk.Short(name) + "”", nil
}

// permit gives a role some actions on one thing.
func permit(s *site.Site, role *site.Role, actions []string, on string) ([]edit.Op, string, error) {
	if len(actions) == 0 {
		return nil, "", &edit.Refusal{Sentence: "Choose what the role may do."}
	}
	was := edit.RoleValue(role, edit.FieldPermissions)
	grants, words := strings.Split(was, "|"), []string{}
	for _, action := range actions {
		g, err := edit.ParseGrant(s, action+":"+on)
		if err != nil {
			return nil, "", err
		}
		if g.On.Family == site.FamilyPage && !s.InTree(site.PageID(g.On.ID)) {
			return nil, "", &edit.Refusal{Sentence: "Choose the page on which, with all below it, the role may do that."}
		}
		if !slices.Contains(grants, g.String()) {
			grants = append(grants, g.String())
		}
		words = append(words, grant.Words(g.Action))
	}
	thing, _ := site.ParseThing(on)
	change := edit.FieldChange{Field: edit.FieldPermissions, Old: was, New: strings.Trim(strings.Join(grants, "|"), "|")}
	said := fmt.Sprintf("let the role “%s” %s %s", desk.Short(role.Name), strings.Join(words, ", "), grant.Where(s, thing))
	return []edit.Op{edit.OpEditRole{Role: role.Key, Fields: []edit.FieldChange{change}}}, said, nil
}

func (s *Area) edit(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	draft, words, err := s.InDraft(r, d, operations(r))
	if err != nil {
		return err
	}
	reply := desk.Reply{Said: say.Capital(words) + "."}
	if r.FormValue("do") == "make-role" {
		roles := draft.Site.Roles()
		key := roles[len(roles)-1].Key
		reply.URL = "/access/roles?role=" + url.QueryEscape(key) + fmt.Sprintf("&draft=%d", draft.ID)
	}
	s.Say(w, http.StatusOK, reply)
	return nil
}
