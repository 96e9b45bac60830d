package sheet

import (
	"errors"
	"fmt"
	"strconv"
	"strings"

	"vineladder/internal/core/detail"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// detailColumns has a column for each detail of the site's types, but those of texts, which have no place in a sheet.
func detailColumns(s *site.Site) (columns []column) {
	for _, d := range s.AllDetails() {
		if d.Type != site.DetailRich {
			columns = append(columns, column{d.Key, edit.DetailField(d.Key)})
		}
	}
	return columns
}

// A detailCell is what a row says of a detail, as it is typed.
type detailCell struct{ key, text string }

// detailWords writes the value that a page has for a detail of its own type, with the key of a page that it names. One
// that points at a page without a row stays on the page unsaid.
func detailWords(s *site.Site, p *site.Page, key string) string {
	d, value := s.Detail(key), p.Values.Get(key)
	if d == nil || d.Kind() != p.Kind || value == "" {
		return ""
	}
	if d.Type != site.DetailPage {
		return value
	}
	if to := s.Page(pageNumber(value)); to != nil && s.InTree(to.ID) {
		return to.Key
	}
	return ""
}

// pageNumber reads the value of a detail that is a page.
func pageNumber(value string) site.PageID {
	id, _ := strconv.ParseInt(strings.TrimPrefix(value, "page:"), 10, 64)
	return site.PageID(id)
}

// kindOf is the type that a page will have.
func (p *plan) kindOf(r *row) string {
	if said, is := r.said(edit.FieldKind); is {
		return said.value
	}
	if page := p.page(r.key); page != nil {
		return page.Kind
	}
	return "page"
}

// checkDetails finds values that can't be meant, and those of another type's details.
func (p *plan) checkDetails() error {
	var faults []error
	for _, row := range p.rows {
		for _, c := range row.details {
			if err := p.checkDetail(row, c); err != nil {
				faults = append(faults, row.fault(c.key, "%v", err))
			}
		}
	}
	return errors.Join(faults...)
}

func (p *plan) checkDetail(r *row, c detailCell) error {
	d := p.site.Detail(c.key)
	switch {
	case c.text == "":
		return nil
	case d.Kind() != p.kindOf(r):
		return fmt.Errorf("“%s” is of the type “%s”, which has no such detail", r.key, p.site.Kind(p.kindOf(r)).Name)
	case d.Type == site.DetailPage && p.ids[c.text] == 0 && p.byKey[c.text] == nil:
		return fmt.Errorf("there is no page “%s”, neither here nor on the site", c.text)
	case d.Type == site.DetailPage:
		return nil
	}
	_, err := detail.Read(p.site, *d, c.text)
	return err
}

// detail gives pages the values that their rows say, when all pages are there and of their types.
func (p *plan) detail() {
	for _, row := range p.rows {
		var changes []edit.FieldChange
		page := p.page(row.key)
		for _, c := range row.details {
			d, was := p.site.Detail(c.key), ""
			if page != nil {
				was = page.Values.Get(c.key)
			}
			unsaid := c.text == "" && page != nil && detailWords(p.site, page, c.key) == ""
			if unsaid || d.Kind() != p.kindOf(row) {
				continue
			}
			is := c.text
			if d.Type == site.DetailPage && is != "" {
				is = fmt.Sprintf("page:%d", p.ids[is])
			} else if is != "" {
				is, _ = detail.Read(p.site, *d, is) // checked
			}
			if was != is {
				changes = append(changes, edit.FieldChange{Field: edit.DetailField(c.key), Old: was, New: is})
			}
		}
		if len(changes) > 0 {
			p.ops = append(p.ops, edit.OpEdit{Page: p.ids[row.key], Fields: changes})
		}
	}
}
