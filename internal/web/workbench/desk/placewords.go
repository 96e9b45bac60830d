package desk

import (
	"fmt"
	"strings"

	"vineladder/internal/core/region"
	"vineladder/internal/core/site"
)

// WhyNotThere says why a placement does not show on a page, as the end of a sentence, with when it would and for whom.
func (d *Desk) WhyNotThere(p *site.Placement, reason region.Reason) string {
	switch {
	case p != nil && reason == region.ReasonOthers:
		return "it is only for " + d.Site.AudienceWords(p.Audience)
	case p != nil && reason == region.ReasonTime:
		return "it shows " + strings.TrimSpace(d.otherTime(p.Window(), ""))
	}
	return reasonWords(reason)
}

func reasonWords(reason region.Reason) string {
	switch reason {
	case region.ReasonOff:
		return "it is switched off there"
	case region.ReasonLayout:
		return "it stands in another layout"
	case region.ReasonNoRegion:
		return "the page's layout has no such region"
	case region.ReasonElsewhere:
		return "the page is not among those that it is for"
	case region.ReasonLeftOut:
		return "the page is left out"
	case region.ReasonKind:
		return "it is for pages of another type"
	case region.ReasonNotKind:
		return "pages of this type are left out"
	case region.ReasonOthers:
		return "it is for other visitors"
	case region.ReasonTime:
		return "it is outside its time"
	case region.ReasonGone:
		return "everything that its condition names is gone"
	case region.ReasonShut:
		return "the site is closed, and all that it leads to answers with this page"
	case region.ReasonEmpty:
		return "it has nothing to show here"
	}
	return ""
}

// PlaceWords says where a placement stands: region, position, layout.
func (d *Desk) PlaceWords(p *site.Placement) string {
	position, of := region.Position(d.Site, p)
	words := fmt.Sprintf("%s, %d of %d", d.Site.Theme().Region(p.Region).Name, position, of)
	if l := d.Site.Layout(p.Layout); l != nil {
		words += ", only in " + l.Name
	}
	if p.Off {
		words += ", switched off"
	}
	return words
}
