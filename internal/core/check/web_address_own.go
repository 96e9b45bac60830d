package check

import (
	"net/url"
	"strings"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/core/target"
)

func webAddressOwn() Check {
	return Check{
		Key: "web-address-own", Name: "Web addresses that are pages of this site", Weight: Doubt,
		Why: "A typed address does not follow the page when it moves, and shows to people who don't reach the page " +
			"(common practice, no source).",
		Menu: eachItem(func(l *Look, m *site.Menu, e *site.Entry, tell Tell) {
			if id := l.ownPage(e); id != 0 {
				tell(entryThing(e.ID), 0, e.Shows.(site.ItemWeb).Address,
					"%s leads to the typed address %s, which is the page %s.", l.called(m, e),
					e.Shows.(site.ItemWeb).Address, l.label(id))
			}
		}),
		FixWords: "Lead to the page itself",
		Fix: func(l *Look, p Problem) []edit.Op {
			_, e := l.item(p)
			if e == nil || l.ownPage(e) == 0 {
				return nil
			}
			return l.setItem(p, edit.FieldShows, target.Text(site.ItemPage{Page: l.ownPage(e)}))
		},
	}
}

// ownPage gives the page of this site to which an item leads by a typed address; 0: none.
func (l *Look) ownPage(e *site.Entry) site.PageID {
	to, web := e.Shows.(site.ItemWeb)
	if !web || l.Origin == "" {
		return 0
	}
	at, err := url.Parse(to.Address)
	own, wrong := url.Parse(l.Origin)
	if err != nil || wrong != nil || !strings.EqualFold(at.Host, own.Host) || at.RawQuery != "" || at.Fragment != "" {
		return 0
	}
	normal, err := address.Normal(at.Path)
	if err != nil {
		return 0
	}
	found := address.Resolve(l.Site, normal, l.At)
	if !l.Site.InTree(found.Page) {
		return 0
	}
	return found.Page
}
