package site

import (
	"strconv"
	"strings"
)

// Owner is who looks after pages: a role as "role:staff", a person by the name with which they sign in as
// "person:keeper", or nobody: "".
type Owner string

// What begins an owner.
const (
	ownerRole   = "role:"
	ownerPerson = "person:"
)

// RoleOwner and PersonOwner make an owner of a role, and of a person.
func RoleOwner(key string) Owner { return Owner(ownerRole + key) }

func PersonOwner(login string) Owner { return Owner(ownerPerson + login) }

// Role gives the key of the role that owns; ok is false where none does.
func (o Owner) Role() (key string, ok bool) { return strings.CutPrefix(string(o), ownerRole) }

// Person gives the sign-in name of the person who owns; ok is false where none does.
func (o Owner) Person() (login string, ok bool) { return strings.CutPrefix(string(o), ownerPerson) }

// ReviewEvery is after how many months somebody looks at a page again: "1" to "60", "never", or as above: "".
type ReviewEvery string

// ReviewNever ends the reviews of a branch above.
const ReviewNever ReviewEvery = "never"

// Reviews are those that are offered.
func Reviews() []ReviewEvery { return []ReviewEvery{"", "1", "3", "6", "12", "24", "36", ReviewNever} }

// Months gives the number of months; 0 for none.
func (r ReviewEvery) Months() int {
	months, _ := strconv.Atoi(string(r))
	return months
}
