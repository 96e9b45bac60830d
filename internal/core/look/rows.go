package look

import (
	"slices"
	"strings"

	"vineladder/internal/core/address"
	"vineladder/internal/core/detail"
	"vineladder/internal/core/site"
)

// A Row is a page of a listing that shows more than its name: a card, or a row of a table.
type Row struct {
	Link
	Summary string // of a card
	Cells   Facts  // those details of its type that belong into listings
}

// RowsOf gives the rows of what a listing found, to who reaches some pages.
func RowsOf(s *site.Site, q site.BlockListing, hits []site.PageID, reached func(site.PageID) bool) []Row {
	rows := make([]Row, len(hits))
	for i, id := range hits {
		p := s.Page(id)
		rows[i].Link = Link{p.Heading(), address.Of(s, id)}
		if q.Looks == site.LooksCards {
			rows[i].Summary = p.Summary
		}
		rows[i].Cells = slices.DeleteFunc(detail.Facts(s, p, site.Detail.InLists, reached), func(f detail.Fact) bool {
			return f.Values[0].Rich != "" // a text of its own has its place on the page
		})
	}
	return rows
}

// Columns gives the labels of the columns of a table: those of the types that have something in some row, in the order
// of the types and of their details.
func Columns(s *site.Site, q site.BlockListing, rows []Row) []string {
	var labels []string
	add := func(label string) {
		has := func(row Row) bool { return row.Cell(label) != nil }
		if !slices.Contains(labels, label) && slices.ContainsFunc(rows, has) {
			labels = append(labels, label)
		}
	}
	for _, k := range s.Kinds() {
		if q.Kinds != "" && !slices.Contains(strings.Split(q.Kinds, "|"), k.Key) {
			continue
		}
		if k.DateName != "" {
			add(k.DateName)
		}
		for _, d := range s.Details(k.Key) {
			add(d.Label)
		}
	}
	return labels
}

// Cell gives what a row has in a column.
func (r Row) Cell(label string) []detail.Shown {
	for _, cell := range r.Cells {
		if cell.Label == label {
			return cell.Values
		}
	}
	return nil
}

// words says a row in one line.
func (r Row) words() string {
	line := "lists " + r.Link.words()
	if r.Summary != "" {
		line += ": " + r.Summary
	}
	if cells := r.Cells.Words(func(string) []string { return nil }); len(cells) > 0 {
		line += "; " + strings.Join(cells, "; ")
	}
	return line
}
