package edit

import (
	"fmt"
	"maps"
	"slices"

	"vineladder/internal/core/site"
)

// OpMakeRole makes a role, after another one in their order; OpTakeRole takes one away that nothing names.
type OpMakeRole struct {
	Role   string           `json:"role"`
	After  string           `json:"after,omitempty"` // "": the first
	Fields map[Field]string `json:"fields"`
	Back   bool             `json:"back,omitempty"` // it is one that was taken away
}

func roleTie(key string) tie { return tie{Thing: Thing{Family: site.FamilyRole, Key: key}} }

func (OpMakeRole) name() string { return "make-role" }

func (OpMakeRole) Subject() site.PageID { return 0 }

func (o OpMakeRole) About(*site.Site) About { return About{"Role", o.Fields[FieldName]} }

func (o OpMakeRole) Needs(s *site.Site) []Need {
	needed := []Need{{Action: site.ActionAdmit, On: site.SiteThing}}
	for _, field := range []Field{FieldIncludes, FieldPermissions} {
		needed = giving(s, needed, FieldChange{Field: field, New: o.Fields[field]})
	}
	return needed
}

func (o OpMakeRole) Inverse() Op { return OpTakeRole{o} }

func (o OpMakeRole) ties() ties {
	used := roleFields.named(o.Fields)
	for _, key := range site.Audience(o.Fields[FieldIncludes]).Roles() {
		used = append(used, roleTie(key))
	}
	return ties{makes: []tie{roleTie(o.Role)}, uses: used}
}

func (o OpMakeRole) insist(*site.Site, int64) (Op, error) { return nil, errNoInsisting }

// reservedRoles read as audiences.
var reservedRoles = []string{
	string(
		site.AudienceEveryone,
	), string(site.AudienceSignedIn), string(site.AudienceEditors), "inherit", "inherited",
}

// RoleKeyFree says whether a new role can have a key.
func RoleKeyFree(s *site.Site, key string) bool {
	return kindKey.MatchString(key) && !slices.Contains(reservedRoles, key) && s.Role(key) == nil &&
		!slices.Contains(s.RolesGone(), key)
}

func (o OpMakeRole) apply(st *state) (Op, error) {
	s := st.Peek()
	roles := slices.Clone(s.Roles())
	switch {
	case !kindKey.MatchString(o.Role):
		return nil, refuse("“%s” can't be the key of a role.", o.Role)
	case slices.Contains(reservedRoles, o.Role):
		return nil, refuse("“%s” can't be the key of a role: it reads as who sees a page.", o.Role)
	case s.Role(o.Role) != nil:
		return nil, refuse("There is a role “%s” already.", o.Role)
	case !o.Back && slices.Contains(s.RolesGone(), o.Role):
		return nil, refuse("There was a role “%s”, and no other can have its key.", o.Role)
	}
	made := site.Role{Key: o.Role}
	if err := roleFields.fill(s, &made, o.Fields); err != nil {
		return nil, err
	}
	if made.Name == "" {
		return nil, refuse("A role needs a name.")
	}
	place := slices.IndexFunc(roles, func(r site.Role) bool { return r.Key == o.After }) + 1
	if o.After != "" && place == 0 { // what it came after is gone
		place = len(roles)
	}
	o.After, o.Fields = "", roleFields.written(&made, site.Role{})
	if place > 0 {
		o.After = roles[place-1].Key
	}
	st.SetRoles(slices.Insert(roles, place, made))
	return o, nil
}

type OpTakeRole struct {
	Was OpMakeRole `json:"was"`
}

func (OpTakeRole) name() string { return "take-role" }

func (OpTakeRole) Subject() site.PageID { return 0 }

func (o OpTakeRole) About(s *site.Site) About {
	if name := o.Was.Fields[FieldName]; name != "" {
		return About{"Role", name}
	}
	return About{"Role", s.RoleName(o.Was.Role)}
}

func (OpTakeRole) Needs(*site.Site) []Need {
	return []Need{{Action: site.ActionAdmit, On: site.SiteThing}}
}

func (o OpTakeRole) Inverse() Op {
	o.Was.Back = true
	return o.Was
}

func (o OpTakeRole) ties() ties { return ties{uses: []tie{roleTie(o.Was.Role)}} }

func (o OpTakeRole) insist(*site.Site, int64) (Op, error) {
	o.Was = OpMakeRole{Role: o.Was.Role}
	return o, nil
}

func (o OpTakeRole) apply(st *state) (Op, error) {
	s := st.Peek()
	roles := slices.Clone(s.Roles())
	at := slices.IndexFunc(roles, func(r site.Role) bool { return r.Key == o.Was.Role })
	if at < 0 {
		return nil, errRoleGone()
	}
	role := roles[at]
	if user := RoleUser(s, role.Key); user != "" {
		return nil, refuse("The role “%s” can't go: %s.", role.Name, user)
	}
	is := OpMakeRole{Role: role.Key, Fields: roleFields.written(&role, site.Role{})}
	if at > 0 {
		is.After = roles[at-1].Key
	}
	if o.Was.Fields != nil && !maps.Equal(o.Was.Fields, is.Fields) {
		return nil, &Conflict{
			Mine: "taken away", Theirs: "changed",
			Sentence: fmt.Sprintf("The role “%s” was changed by %s.", role.Name, somebody),
		}
	}
	o.Was = is
	st.SetRoles(slices.Delete(roles, at, at+1))
	return o, nil
}

// RoleUser says what names a role, so that it can't go; "" for nothing. Pages in the bin are asked too: they may come
// back.
func RoleUser(s *site.Site, key string) string {
	for i := range s.Roles() {
		if r := &s.Roles()[i]; slices.Contains(r.Includes, key) {
			return fmt.Sprintf("the role “%s” includes it", r.Name)
		}
	}
	names := func(a site.Audience) bool { return slices.Contains(a.Roles(), key) }
	for _, top := range append([]site.PageID{s.Home()}, s.Binned()...) {
		var found *site.Page
		s.Walk(top, func(p *site.Page) bool {
			if owner, is := p.Owner.Role(); names(p.Audience) || is && owner == key {
				found = p
			}
			return found == nil
		})
		switch {
		case found != nil && !names(found.Audience):
			return fmt.Sprintf("it looks after the page “%s”", found.Label)
		case found != nil && found.Binned:
			return fmt.Sprintf("the page “%s” in the bin is for it", found.Label)
		case found != nil:
			return fmt.Sprintf("the page “%s” is for it", found.Label)
		}
	}
	for i := range s.Menus() {
		m := &s.Menus()[i]
		for k := range m.Entries {
			if names(m.Entries[k].Audience) {
				return fmt.Sprintf("an item of the menu “%s” is for it", m.Name)
			}
		}
	}
	for i := range s.Placements() {
		if p := &s.Placements()[i]; names(p.Audience) {
			return fmt.Sprintf("a place of the block “%s” is for it", s.Block(p.Block).Name)
		}
	}
	return ""
}

// OpEditRole sets fields of a role. What it adds to a set is added to what stands, what it takes is taken from that,
// so that two people who give different permissions don't meet.
type OpEditRole struct {
	Role   string        `json:"role"`
	Fields []FieldChange `json:"fields"`
}

func (OpEditRole) name() string { return "edit-role" }

func (o OpEditRole) edits() []FieldChange { return o.Fields }

func (OpEditRole) Subject() site.PageID { return 0 }

func (o OpEditRole) About(s *site.Site) About { return About{"Role", s.RoleName(o.Role)} }

// Needs asks for the right to admit where a permission is given or taken, on the site for all else, and for all that
// is given: nobody gives what they don't hold there (rules 8.1).
func (o OpEditRole) Needs(s *site.Site) []Need {
	var needed []Need
	for _, c := range o.Fields {
		if c.Field != FieldPermissions {
			needed = with(needed, Need{Action: site.ActionAdmit, On: site.SiteThing})
		}
		needed = giving(s, needed, c)
	}
	return needed
}

// giving adds what it needs to give or take what a change of a role's fields gives or takes.
func giving(s *site.Site, needed []Need, c FieldChange) []Need {
	switch c.Field {
	case FieldIncludes:
		for _, key := range s.Holds(site.Audience(merged("", c.Old, c.New, "|")).Roles()) {
			if role := s.Role(key); role != nil {
				for _, g := range role.Grants {
					needed = with(needed, Need{Action: g.Action, On: g.On})
				}
			}
		}
	case FieldPermissions:
		old, _ := grants().Read(s, c.Old)
		made, _ := grants().Read(s, c.New)
		for _, g := range made {
			if !slices.Contains(old, g) {
				needed = with(
					with(needed, Need{Action: site.ActionAdmit, On: g.On}),
					Need{Action: g.Action, On: g.On},
				)
			}
		}
		for _, g := range old {
			if !slices.Contains(made, g) {
				needed = with(needed, Need{Action: site.ActionAdmit, On: g.On})
			}
		}
	}
	return needed
}

func (o OpEditRole) Inverse() Op { return OpEditRole{o.Role, turned(o.Fields)} }

func (o OpEditRole) ties() ties {
	thing := roleTie(o.Role)
	used := append(roleFields.namedAnew(o.Fields), thing)
	for _, c := range o.Fields {
		if c.Field == FieldIncludes {
			for _, key := range site.Audience(c.New).Roles() {
				used = append(used, roleTie(key))
			}
		}
	}
	return ties{uses: used, sets: fieldTies(thing, o.Fields)}
}

func (o OpEditRole) insist(s *site.Site, _ int64) (Op, error) {
	role := s.Role(o.Role)
	if role == nil {
		return nil, errNoInsisting
	}
	o.Fields = roleFields.onTop(role, o.Fields)
	return o, nil
}

func (o OpEditRole) apply(st *state) (Op, error) {
	roles := slices.Clone(st.Peek().Roles())
	at := slices.IndexFunc(roles, func(r site.Role) bool { return r.Key == o.Role })
	if at < 0 {
		return nil, errRoleGone()
	}
	was, changes := roles[at], slices.Clone(o.Fields)
	for i, c := range changes {
		column, err := roleFields.column(c.Field)
		if err != nil {
			return nil, err
		}
		if apart := column.fact().Apart; apart != "" {
			stands := column.read(&was)
			changes[i].Old, changes[i].New = stands, merged(stands, c.Old, c.New, apart)
		}
	}
	var err error
	o.Fields, err = roleFields.change(st.Peek(), &roles[at], changes, func(field Field, mine, theirs string) error {
		return &Conflict{
			Field: field, Mine: mine, Theirs: theirs,
			Sentence: fmt.Sprintf("The %s of the role “%s” was changed by %s.", field.Words(), was.Name, somebody),
		}
	})
	st.SetRoles(roles)
	return o, err
}

func errRoleGone() error { return &Conflict{Sentence: "The role is not there any more."} }
