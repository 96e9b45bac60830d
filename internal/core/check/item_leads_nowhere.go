package check

import (
	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

func itemLeadsNowhere() Check {
	return Check{
		Key: "item-leads-nowhere", Name: "Menu items whose page is not there", Weight: Wrong,
		Why:      "Nobody sees the item, and who looks after the menu believes it is there (common practice, no source).",
		Menu:     eachItem(itemNowhere),
		FixWords: "Take the item out",
		Fix:      func(l *Look, p Problem) []edit.Op { return l.takeItem(p) },
	}
}

// eachItem looks at the items of a menu one by one.
func eachItem(look func(l *Look, m *site.Menu, e *site.Entry, tell Tell)) func(*Look, *site.Menu, Tell) {
	return func(l *Look, m *site.Menu, tell Tell) {
		for i := range m.Entries {
			look(l, m, &m.Entries[i], tell)
		}
	}
}

func itemNowhere(l *Look, m *site.Menu, e *site.Entry, tell Tell) {
	id := e.Target()
	if id == 0 || e.Off {
		return
	}
	p, value := l.Site.Page(id), ""
	switch {
	case p == nil || p.Purged:
		value = "is gone for good"
	case !l.Site.InTree(id):
		value = "is in the bin"
	default:
		from, _, online := reach.OnlineFrom(l.Site, id)
		if why := reach.WhyOffline(l.Site, id, l.At); why.Cause != nil && (!online || !from.After(l.At)) {
			value = "is offline"
		}
	}
	if value != "" {
		tell(entryThing(e.ID), 0, value, "%s leads to %s, which %s.", l.called(m, e), l.label(id), value)
	}
}
