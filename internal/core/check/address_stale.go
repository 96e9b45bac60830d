package check

import (
	"strings"

	"vineladder/internal/core/address"
	"vineladder/internal/core/ask"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

func addressStale() Check {
	return Check{
		Key: "address-stale", Name: "Addresses that no longer match the label", Weight: Advice,
		Why: "Readers trust an address that says what they find there; the old one keeps working (rules 3.4).",
		Page: func(l *Look, p *site.Page, _ Standing, tell Tell) {
			if p.Parent == 0 || site.IsOwnKind(p.Kind) || p.OwnAddress != "" || matches(p) {
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

// matches says whether each word of the segment is one of the label or of the title, whole or in part. A segment that
// was shortened, or numbered since another has it, matches.
func matches(p *site.Page) bool {
	return says(strings.ToLower(p.Label+" "+p.Title), p.Segment) || // which is quick, and settles most
		says(ask.Folded(p.Label+" "+p.Title), p.Segment) || // and this those with other letters
		says(address.Segment(p.Label)+"-"+address.Segment(p.Title), p.Segment)
}

func says(words, segment string) bool {
	for word := range strings.SplitSeq(segment, "-") {
		if len(word) > 2 && !strings.Contains(words, word) {
			return false
		}
	}
	return true
}
