package consequence

import (
	"slices"
	"strings"
	"time"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// Viewers are the audiences for whom two Sites are compared, with their names (rules 9.3).
type Viewers struct {
	Panel *reach.Panel
	Names []string
	Held  [][]string // of each: the roles held, without what they include; nil for none
	Left  int        // role sets that were not compared, since a panel was full
}

// ViewersOf gives signed out, signed in without roles, each role, and each other role set that an account holds, at one
// moment. Sets beyond reach.PanelLimit lenses are counted and left out; they come most held first.
func ViewersOf(s *site.Site, held [][]string, at time.Time) Viewers {
	lenses := []reach.Lens{{At: at}, {Visitor: reach.Visitor{SignedIn: true}, At: at}}
	names := []string{"visitors who are not signed in", "people signed in without a role"}
	all := make([][]string, len(lenses))
	left := 0
	add := func(name string, roles []string) {
		who := reach.As(s, roles)
		known := func(l reach.Lens) bool { return l.SignedIn && slices.Equal(l.Roles, who.Roles) }
		switch {
		case slices.ContainsFunc(lenses, known):
		case len(lenses) == reach.PanelLimit:
			left++
		default:
			lenses = append(lenses, reach.Lens{Visitor: who, At: at})
			names, all = append(names, name), append(all, roles)
		}
	}
	for _, role := range s.Roles() {
		add(role.Name, []string{role.Key})
	}
	for _, set := range held {
		var named []string
		for _, key := range set {
			if role := s.Role(key); role != nil {
				named = append(named, role.Name)
			}
		}
		add(strings.Join(named, " with "), set)
	}
	return Viewers{reach.NewPanel(lenses...), names, all, left}
}

// Words names the viewers in a mask.
func (v Viewers) Words(m reach.Mask) string {
	all := v.Panel.All()
	switch m {
	case all:
		return "everyone"
	case all &^ 1:
		return "everyone who is signed in"
	}
	if left := all &^ m; left.Count() <= 2 && m.Count() > 2 {
		return "everyone but " + v.list(left)
	}
	return v.list(m)
}

func (v Viewers) list(m reach.Mask) string {
	var names []string
	for i, name := range v.Names {
		if m.Has(i) {
			names = append(names, name)
		}
	}
	return And(names)
}

// And joins words as a sentence does.
func And(words []string) string {
	if n := len(words); n > 1 {
		return strings.Join(words[:n-1], ", ") + " and " + words[n-1]
	}
	return strings.Join(words, "")
}
