package check

import (
	"strings"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

func hintRepeats() Check {
	return Check{
		Key: "hint-repeats", Name: "Hints that repeat the label", Weight: Advice,
		Why: "Screen readers say it twice, and nobody learns more (WCAG technique H33).",
		Menu: eachItem(func(l *Look, m *site.Menu, e *site.Entry, tell Tell) {
			if e.Hint != "" && strings.EqualFold(strings.TrimSpace(e.Hint), strings.TrimSpace(l.Site.EntryLabel(e))) {
				tell(entryThing(e.ID), 0, e.Hint, "The hint of %s says what the label says.", l.called(m, e))
			}
		}),
		FixWords: "Take the hint out",
		Fix:      func(l *Look, p Problem) []edit.Op { return l.setItem(p, edit.FieldHint, "") },
	}
}
