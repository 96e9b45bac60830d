package demo

import (
	"context"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
)

// A department may do some things on its own branches, menus and page types, and nothing elsewhere.
type department struct {
	key, name string
	includes  string
	grants    []site.Grant
}

// on gives some actions on one thing.
func on(thing site.Thing, actions ...site.Action) []site.Grant {
	grants := make([]site.Grant, len(actions))
	for i, action := range actions {
		grants[i] = site.Grant{Action: action, On: thing}
	}
	return grants
}

// tending is what those do who look after a branch.
var tending = []site.Action{site.ActionEdit, site.ActionArrange, site.ActionClassify}

func departments(s *site.Site) []department {
	page := func(label string) site.Thing { return site.PageThing(find(s, label)) }
	menu := func(name string) site.Thing {
		for i := range s.Menus() {
			if s.Menus()[i].Name == name {
				return site.MenuThing(s.Menus()[i].ID)
			}
		}
		return site.SiteThing
	}
	freight := append(
		on(page("Freight"), append(tending, site.ActionPlace)...),
		on(menu("Freight"), site.ActionLink)...)
	words := append(on(page("Notices"), append(tending, site.ActionPublish)...),
		on(menu("Footer"), site.ActionLink, site.ActionPublish)...)
	return []department{
		{
			"sailings-editors",
			"Sailings editors",
			"staff",
			on(page("Sailings"), append(tending, site.ActionPublish)...),
		},
		{"harbours-editors", "Harbours editors", "staff", on(page("Harbours"), tending...)},
		{"freight-editors", "Freight editors", "staff", freight},
		{"communications", "Communications", "staff", words},
		{"clerk", "Clerk", "board-members", on(page("Board papers"), append(tending, site.ActionPublish)...)},
		{"approvers", "Approvers", "staff", site.OnSite(site.ActionPublish)},
		{"access-stewards", "Access stewards", "staff", site.OnSite(site.ActionAdmit)},
	}
}

// settle makes the roles of the departments, and the accounts that hold them.
func settle(ctx context.Context, st *store.Store, by store.Account) error {
	s := st.Published().Site
	var ops []edit.Op
	after := s.Roles()[len(s.Roles())-1].Key
	for _, d := range departments(s) {
		role := site.Role{Grants: d.grants}
		ops = append(ops, edit.OpMakeRole{Role: d.key, After: after, Fields: map[edit.Field]string{
			edit.FieldName: d.name, edit.FieldIncludes: d.includes,
			edit.FieldPermissions: edit.RoleValue(&role, edit.FieldPermissions),
		}})
		after = d.key
	}
	if _, err := st.PublishDirect(ctx, by, "made the roles of the departments", ops); err != nil {
		return err
	}
	if err := st.Map(ctx, by, Office, "staff", true); err != nil {
		return err
	}
	if err := addAccounts(ctx, st); err != nil {
		return err
	}
	return lookAfter(ctx, st, by)
}

// addAccounts makes the accounts whose roles are there, and that are not.
func addAccounts(ctx context.Context, st *store.Store) error {
	for _, a := range Accounts {
		if st.Published().Site.Role(a.Role) == nil {
			continue
		}
		if _, err := st.AccountByLogin(ctx, a.Login); err == nil {
			continue
		}
		if _, err := st.AddAccount(ctx, a.Login, a.Name, a.Password, []string{a.Role}); err != nil {
			return err
		}
	}
	return nil
}
