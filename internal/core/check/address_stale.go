package check

import (
	"strings"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

func addressStale() Check {
	return Check{
		Key: "address-stale", Name: "Addresses that no longer match the label", Weight: Advice,
		Why: "Readers trust an address that says what they find there; the old one keeps working (rules 3.4).",
		Page: func(l *Look, p *site.Page, _ Standing, tell Tell) {
			if p.Parent == 0 || site.IsOwnKind(p.Kind) || p.OwnAddress != "" || l.matches(p) {
				return
			}
			tell(site.PageThing(p.ID), p.ID, p.Segment+" "+p.Label, "The last part of the address of %s is “%s”.",
				l.label(p.ID), p.Segment)
		},
		FixWords: "Give it an address by its label",
		Fix: func(l *Look, p Problem) []edit.Op {
			page := l.Site.Page(site.PageID(p.On.ID))
			if page == nil {
				return nil
			}
			free := address.FreeSegment(l.Site, page, address.Segment(page.Label), address.AnyOther)
			return l.setPage(p, edit.FieldSegment, free)
		},
	}
}

// matches says whether a segment has a word of the label or of the title, or they of it: only what has none in common
// with them is stale.
func (l *Look) matches(p *site.Page) bool {
	words := address.Segment(p.Label) + "-" + address.Segment(p.Title)
	for word := range strings.SplitSeq(p.Segment, "-") {
		if len(word) > 2 && strings.Contains(words, word) {
			return true
		}
	}
	for word := range strings.SplitSeq(address.Segment(p.Label), "-") {
		if strings.Contains(p.Segment, word) {
			return true
		}
	}
	return false
}
