package check

import (
	"vineladder/internal/core/colour"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

func badgeContrast() Check {
	return Check{
		Key: "badge-contrast", Name: "Badges that are hard to read", Weight: Wrong,
		Why: "The colours of text and ground are nearer to each other than 4.5 to 1 (WCAG 2.2, 1.4.3).",
		Menu: eachItem(func(l *Look, m *site.Menu, e *site.Entry, tell Tell) {
			if pair, free := colour.ParsePair(e.Badge.Pair); e.Badge.Text != "" && free &&
				pair.Contrast() < colour.Enough {
				tell(entryThing(e.ID), 0, e.Badge.Pair, "The badge “%s” of %s has a contrast of %s to 1.",
					e.Badge.Text, l.called(m, e), pair.Ratio())
			}
		}),
		FixWords: "Use the theme's first pair of colours",
		Fix: func(l *Look, p Problem) []edit.Op {
			if pairs := l.Site.Theme().Pairs; len(pairs) > 0 {
				return l.setItem(p, edit.FieldBadgePair, pairs[0].Key)
			}
			return nil
		},
	}
}
