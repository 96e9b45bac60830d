package check

import (
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/target"
)

func sameTarget() Check {
	return Check{
		Key: "same-target", Name: "Menus that lead to one page twice", Weight: Doubt,
		Why: "One of two lines for one page is seldom meant, and only one of them lights up (rules 5.4).",
		Menu: func(l *Look, m *site.Menu, tell Tell) {
			seen := map[string]bool{}
			for i := range m.Entries {
				e := &m.Entries[i]
				if to := target.Text(e.Shows); e.Target() != 0 && !e.Off {
					if seen[to] {
						tell(entryThing(e.ID), 0, to, "%s leads to %s, as an item before it does.",
							l.called(m, e), l.label(e.Target()))
					}
					seen[to] = true
				}
			}
		},
		FixWords: "Take the second one out",
		Fix: func(l *Look, p Problem) []edit.Op {
			if m, e := l.item(p); e == nil || len(m.Branch(e.ID)) > 1 {
				return nil // what stands below would go too
			}
			return l.takeItem(p)
		},
	}
}
