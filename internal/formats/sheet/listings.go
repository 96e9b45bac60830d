package sheet

import (
	"errors"
	"net/url"
	"strconv"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/site"
)

// listingCell writes what a page lists, with the keys of the pages that it names, so that a sheet means the same on
// every site. One that names a page in the bin or gone, which has no row, stays on the page unsaid.
func listingCell(s *site.Site, p *site.Page) string {
	if !sayable(s, p) {
		return ""
	}
	return listing.Rename(p.Listing, func(number string) string {
		id, _ := strconv.ParseInt(number, 10, 64)
		return url.QueryEscape(s.Page(site.PageID(id)).Key)
	})
}

// sayable says whether all pages that a page's question names have a row.
func sayable(s *site.Site, p *site.Page) bool {
	if p == nil {
		return true
	}
	all := true
	listing.Rename(p.Listing, func(number string) string {
		id, _ := strconv.ParseInt(number, 10, 64)
		all = all && s.InTree(site.PageID(id))
		return number
	})
	return all
}

// checkListings finds rows that list what can't be asked for, or name pages that are not there.
func (p *plan) checkListings() error {
	var faults []error
	for _, row := range p.rows {
		if row.lists == "" {
			continue
		}
		var missing []string
		listing.Rename(row.lists, func(escaped string) string {
			key, err := url.QueryUnescape(escaped)
			if err != nil || p.byKey[key] == nil && (p.page(key) == nil || !p.site.InTree(p.ids[key])) {
				missing = append(missing, escaped)
			}
			return ""
		})
		if len(missing) > 0 {
			faults = append(faults, row.fault("listing", "there is no page “%s”, neither here nor on the site", missing[0]))
			continue
		}
		if _, err := listing.Read(p.site, listing.Nameless(row.lists)); err != nil {
			faults = append(faults, row.fault("listing", "%s", err))
		}
	}
	return errors.Join(faults...)
}

// list gives pages what their rows say that they list, when all pages are there.
func (p *plan) list() {
	for _, row := range p.rows {
		page := p.page(row.key)
		if !row.asks || !sayable(p.site, page) {
			continue
		}
		was := ""
		if page != nil {
			was = page.Listing
		}
		is := listing.Rename(row.lists, func(escaped string) string {
			key, _ := url.QueryUnescape(escaped) // checked
			return strconv.FormatInt(int64(p.ids[key]), 10)
		})
		if was != is {
			p.ops = append(p.ops, edit.OpEdit{Page: p.ids[row.key], Fields: []edit.FieldChange{
				{Field: edit.FieldListing, Old: was, New: is},
			}})
		}
	}
}
