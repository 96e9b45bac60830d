package store

import (
	"context"
	"fmt"
	"strings"

	"github.com/jmoiron/sqlx"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// A keptRole is a role with its place among them; one that was taken away keeps its row, and with it its key.
type keptRole struct {
	site.Role
	Given    []string // its grants in their written form
	Position int
	Gone     bool
}

func roleRow() row[keptRole] {
	return row[keptRole]{table: "roles", key: "key", order: "position", columns: []column[keptRole]{
		phrase("key", "", func(r *keptRole) *string { return &r.Key }),
		phrase("name", edit.FieldName, func(r *keptRole) *string { return &r.Name }),
		listed("includes", edit.FieldIncludes, func(r *keptRole) *[]string { return &r.Includes }),
		listed("grants", edit.FieldPermissions, func(r *keptRole) *[]string { return &r.Given }),
		number("position", "", func(r *keptRole) *int { return &r.Position }),
		truth("gone", "", func(r *keptRole) *bool { return &r.Gone }),
	}}
}

// loadRoles reads the roles, and remembers the keys of those that were taken away.
func loadRoles(ctx context.Context, tx *sqlx.Tx, b *site.Builder) error {
	rows, err := roleRow().load(ctx, tx, "")
	if err != nil {
		return err
	}
	var all, standing []site.Role
	for _, r := range rows {
		for _, text := range r.Given {
			action, on, _ := strings.Cut(text, ":")
			thing, known := site.ParseThing(on)
			if !known {
				return fmt.Errorf("read roles: the permission “%s” of “%s” is not known", text, r.Key)
			}
			r.Grants = append(r.Grants, site.Grant{Action: site.Action(action), On: thing})
		}
		if all = append(all, r.Role); !r.Gone {
			standing = append(standing, r.Role)
		}
	}
	b.SetRoles(all)
	b.SetRoles(standing)
	return nil
}

// writeRoles writes the roles in which two Sites differ.
func writeRoles(ctx context.Context, tx *sqlx.Tx, was, is *site.Site) error {
	var written []*keptRole
	for i, role := range is.Roles() {
		if i >= len(was.Roles()) || !was.Roles()[i].Equal(role) {
			written = append(written, keptAs(role, i))
		}
	}
	for i, role := range was.Roles() {
		if is.Role(role.Key) == nil {
			gone := keptAs(site.Role{Key: role.Key, Name: role.Name}, i)
			gone.Gone = true
			written = append(written, gone)
		}
	}
	return roleRow().save(ctx, tx, written)
}

func keptAs(role site.Role, position int) *keptRole {
	kept := &keptRole{Role: role, Position: position}
	for _, g := range role.Grants {
		kept.Given = append(kept.Given, g.String())
	}
	return kept
}
