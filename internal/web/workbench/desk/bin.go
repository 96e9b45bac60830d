package desk

import (
	"vineladder/internal/core/edit"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A Binned is a page in the bin: where it was, how long it is kept, what its addresses do.
type Binned struct {
	ID    site.PageID
	Label string
	Was   string // label of the page that it was in; "" if that is gone
	Pages int    // below it
	Draft bool   // it is public until the draft is published
	When  string
	Kept  string     // the day until which it can't be emptied; "" where it can
	Leads *site.Page // where its addresses lead; nil: they answer “gone”
	Offer string     // an address that they could lead to
}

// Binned says what is known of a page in the bin.
func (d *Desk) Binned(id site.PageID) Binned {
	on, p := d.Site, d.Site.Page(id)
	b := Binned{
		ID: id, Label: p.Label, Pages: on.Below(id), Draft: d.Draft.Base.Site.InTree(id), Leads: on.Page(p.LeadsTo),
		When: LongMoment(on, p.BinnedAt),
	}
	if until := edit.KeptUntil(on, id); d.Now.Before(until) {
		b.Kept = until.In(on.Settings().Zone).Format("2 January 2006")
	}
	if parent := on.Page(p.Parent); parent != nil {
		b.Was = parent.Label
	}
	if above := reach.NearestAbove(on, id, d.Lens); above != nil {
		b.Offer = AddressOf(on, above.ID)
	}
	return b
}
