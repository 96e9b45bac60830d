package check

import (
	"slices"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

func itemOutOfReach() Check {
	return Check{
		Key: "item-out-of-reach", Name: "Menu items that nobody they are for can follow", Weight: Wrong,
		Why:      "The item is for some roles, and its page for others: it shows to neither (common practice, no source).",
		Menu:     eachItem(itemBeyond),
		FixWords: "Show the item to whoever reaches the page",
		Fix: func(l *Look, p Problem) []edit.Op {
			return l.setItem(p, edit.FieldAudience, string(site.AudienceInherited))
		},
	}
}

func itemBeyond(l *Look, m *site.Menu, e *site.Entry, tell Tell) {
	id, roles := e.Target(), e.Audience.Roles()
	if e.Off || len(roles) == 0 || !l.Site.InTree(id) || reach.WhyOffline(l.Site, id, l.At).Cause != nil {
		return
	}
	if !slices.ContainsFunc(roles, func(role string) bool {
		who := reach.Lens{Visitor: reach.As(l.Site, []string{role}), At: l.At}
		return reach.Ask(l.Site, id, who) == reach.Sees
	}) {
		source := reach.Source(l.Site, id)
		tell(entryThing(e.ID), 0, string(e.Audience)+" "+string(source.Audience),
			"%s is for people who don't reach %s.", l.called(m, e), l.label(id))
	}
}
