package access

import (
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/say"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
	"vineladder/internal/web/workbench/desk"
)

// A peopleView is the accounts, all of the one that is chosen, and what was written to people.
type peopleView struct {
	view
	Lines   []personLine
	Roles   []roleChoice // for an invitation
	Chosen  *personSheet
	Groups  []store.Mapping // of the organisation
	Vouches string          // name of the organisation's own sign-in; "" for none
	Outbox  []store.Letter
	Records []store.Record
}

type personLine struct {
	store.AccountLine
	RoleNames string
	On        bool
}

// A personSheet is all of one person.
type personSheet struct {
	personLine
	Choices []roleChoice
	May     []permitted
	Left    store.Left
	Heirs   []store.Account // to whom their drafts can go
	Myself  bool
	sight
}

// A roleChoice is a role that a person can be given, or not: with the reason.
type roleChoice struct {
	site.Role
	On  bool
	Why string
}

const (
	lettersShown = 20
	recordsShown = 40
)

func (s *Area) people(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	base, err := s.view(r, d, "people")
	if err != nil {
		return err
	}
	v := peopleView{view: base}
	v.Locked = !v.Steer.Yes // people are no edits of a draft
	lines, err := s.Store.AccountLines(r.Context())
	if err != nil {
		return err
	}
	chosen, _ := strconv.ParseInt(r.FormValue("person"), 10, 64)
	if chosen == 0 {
		chosen = d.Who.ID
	}
	for _, a := range lines {
		line := personLine{a, roleNames(d.Site, a.Roles), a.ID == chosen}
		if !v.Steer.Yes {
			line.Email = "" // for who may act on it
		}
		v.Lines = append(v.Lines, line)
	}
	v.Roles = s.choices(d, nil)
	if at := slices.IndexFunc(v.Lines, func(l personLine) bool { return l.On }); at >= 0 {
		if v.Chosen, err = s.personOf(r, d, v.Lines[at], lines); err != nil {
			return err
		}
	}
	if v.Steer.Yes {
		if v.Outbox, err = s.Store.Outbox(r.Context(), lettersShown); err != nil {
			return err
		}
		if s.Settings.Outside != nil {
			v.Vouches = s.Settings.Outside.Name
			if v.Groups, err = s.Store.Mappings(r.Context()); err != nil {
				return err
			}
		}
		if v.Records, err = s.Store.Records(r.Context(), recordsShown); err != nil {
			return err
		}
	}
	s.show(w, r, v)
	return nil
}

func roleNames(s *site.Site, keys []string) string {
	names := make([]string, len(keys))
	for i, key := range keys {
		names[i] = s.RoleName(key)
	}
	return strings.Join(names, ", ")
}

// choices says of each public role whether the person at the desk may give or take it.
func (s *Area) choices(d *desk.Desk, held []string) []roleChoice {
	var all []roleChoice
	public := d.Draft.Base.Site
	for _, role := range public.Roles() {
		one := roleChoice{Role: role, On: slices.Contains(held, role.Key)}
		one.Why = grant.MayGive(public, d.Who.Roles, []string{role.Key}).Why
		all = append(all, one)
	}
	return all
}

func (s *Area) personOf(
	r *http.Request, d *desk.Desk, line personLine, lines []store.AccountLine,
) (*personSheet, error) {
	made := &personSheet{personLine: line, Choices: s.choices(d, line.Roles), Myself: line.ID == d.Who.ID}
	for _, key := range d.Site.Holds(line.Roles) {
		if role := d.Site.Role(key); role != nil {
			made.May = append(made.May, permissionsOf(d, role.Grants, role.Name)...)
		}
	}
	made.sight = sightOf(d, reach.As(d.Site, line.Roles), fmt.Sprintf("account:%d", line.ID))
	for _, a := range lines {
		if a.ID != line.ID && a.Disabled.IsZero() && grant.Works(d.Draft.Base.Site, a.Roles) {
			made.Heirs = append(made.Heirs, a.Account)
		}
	}
	var err error
	made.Left, err = s.Store.Leaves(r.Context(), line.ID)
	return made, err
}

// Since says when an account was disabled.
func (p personSheet) Since(d *desk.Desk) string {
	return p.Disabled.In(d.Site.Settings().Zone).Format(time.DateOnly)
}

// changePeople does at once what is asked of an account: people are no edits of a draft.
func (s *Area) changePeople(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	if answer := d.May(string(site.ActionAdmit)); !answer.Yes {
		return fmt.Errorf("%w: %s", desk.ErrForbidden, answer.Why)
	}
	ctx, login, by := r.Context(), r.FormValue("login"), d.Who
	said := ""
	var err error
	switch r.FormValue("do") {
	case "invite":
		err = s.Store.Invite(ctx, by, login, r.FormValue("name"), r.FormValue("email"), r.Form["role"], s.Settings.Site)
		said = "Invited. The letter is " + s.letterWords() + "."
	case "roles":
		err = s.Store.SetRolesBy(ctx, by, login, r.Form["role"])
		said = "The roles are set. They hold from the next request on."
	case "password":
		var a store.Account
		if a, err = s.Store.AccountByLogin(ctx, login); err == nil {
			err = s.Store.SendPasswordLink(ctx, by, a, s.Settings.Site)
		}
		said = "The letter is " + s.letterWords() + "."
	case "disable":
		err = s.Store.DisableBy(ctx, by, login, desk.Number[int64](r.FormValue("heir")))
		said = "The account is disabled, and signed out everywhere."
	case "enable":
		err, said = s.Store.EnableBy(ctx, by, login), "They can sign in again."
	case "sign-out":
		err, said = s.Store.SignOutBy(ctx, by, login), "Signed out everywhere."
	case "drop-second":
		err = s.Store.DropSecondBy(ctx, by, login)
		said = "They sign in with the password alone, and can set up another device."
	case "address":
		err, said = s.Store.SetAddress(ctx, by, login, r.FormValue("email")), "The address is changed."
	case "map", "unmap":
		err = s.Store.Map(ctx, by, r.FormValue("group"), r.FormValue("role"), r.FormValue("do") == "map")
		said = "It holds from their next sign-in on."
	case "show-link":
		var link string
		link, err = s.Store.ShowLink(ctx, by, desk.Number[int64](r.FormValue("letter")))
		said = "For the person it is meant for, and shown this once: " + link
	default:
		err = &edit.Refusal{Sentence: "This is not known."}
	}
	if err != nil {
		return asRefusal(err)
	}
	s.Say(w, http.StatusOK, desk.Reply{Said: said})
	return nil
}

// asRefusal gives what a person did wrong with an account as a refusal; other errors are the program's affair.
func asRefusal(err error) error {
	var name *store.BadName
	switch {
	case errors.As(err, &name):
		return &edit.Refusal{Sentence: say.Capital(strings.TrimSuffix(name.Sentence, ".")) + "."}
	case errors.Is(err, store.ErrLastKeeper), errors.Is(err, store.ErrDisabled):
		return &edit.Refusal{Sentence: say.Capital(err.Error()) + "."}
	}
	return err
}

// letterWords says where letters are.
func (s *Area) letterWords() string {
	if s.Settings.SendsMail {
		return "on its way"
	}
	return "in the outbox below: no mail server is set"
}
