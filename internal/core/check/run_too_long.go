package check

import (
	"cmp"

	"vineladder/internal/core/site"
)

// UsualBeside and UsualLevels are the bounds from which a menu is hard to look over, where the settings say no others:
// common practice, no source.
const (
	UsualBeside = 15 // items of one level
	UsualLevels = 7  // levels of the tree
)

func runTooLong() Check {
	return Check{
		Key: "run-too-long", Name: "Too many items at one level of a menu", Weight: Advice,
		Why: "Long lists are not read to their end (common practice, no source).",
		Menu: func(l *Look, m *site.Menu, tell Tell) {
			most := cmp.Or(l.Site.Settings().MostBeside, UsualBeside)
			beside := map[site.EntryID]int{}
			for i := range m.Entries {
				if e := &m.Entries[i]; !e.Off && e.Under == 0 {
					beside[e.Parent]++
				}
			}
			for parent, n := range beside {
				if n <= most {
					continue
				}
				if e := m.Entry(parent); e != nil {
					tell(entryThing(parent), 0, "", "%d items stand below %s.", n, l.called(m, e))
				} else {
					tell(site.MenuThing(m.ID), 0, "", "%d items stand at the top of the menu “%s”.", n, m.Name)
				}
			}
		},
	}
}
