package public

import (
	"vineladder/internal/core/address"
	"vineladder/internal/core/look"
	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
)

// A listRow is a page of a listing that shows more than its name.
type listRow struct {
	Label, Href string
	Summary     string
	Cells       []fact // of a card its facts, of a row one for each column
}

// listing gives what a listing shows of the pages that it found.
func (p *piece) listing(q Request, shows site.BlockListing, hits []site.PageID) {
	if shows.Looks == site.LooksList {
		for _, hit := range hits {
			p.Pages = append(p.Pages, crumb{q.Site.Page(hit).Heading(), q.Base + address.Of(q.Site, hit)})
		}
		return
	}
	panel := reach.NewPanel(q.Lens)
	rows := look.RowsOf(q.Site, shows, hits, func(id site.PageID) bool { return panel.At(q.Site, id).Reachable() != 0 })
	if shows.Looks == site.LooksTable {
		p.Columns = look.Columns(q.Site, shows, rows)
	}
	for _, row := range rows {
		row.Cells.Rebase(q.Base)
		made := listRow{Label: row.Label, Href: q.Base + row.Href, Summary: row.Summary}
		if shows.Looks == site.LooksCards {
			made.Cells = dressed(row.Cells, nil, nil)
			p.Cards = append(p.Cards, made)
			continue
		}
		for _, label := range p.Columns {
			made.Cells = append(made.Cells, cellOf(row, label))
		}
		p.Table = append(p.Table, made)
	}
}

// cellOf is what a row has in a column, which can be nothing.
func cellOf(row look.Row, label string) fact {
	cell := fact{Label: label}
	for _, v := range row.Cell(label) {
		cell.Values = append(cell.Values, factValue{Words: v.Words, Href: v.Href, Picture: v.File})
	}
	return cell
}
