package grid

import (
	"cmp"
	"slices"
	"strconv"
	"strings"

	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/rise"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
)

// position is the column of where a page stands among those beside it.
func (t *Table) position() Column {
	stands := func(p *site.Page) string {
		at, _ := t.site.Index(p.ID)
		return strconv.Itoa(at + 1)
	}
	return Column{
		Key: Position, Name: "Position", write: stands,
		read: func(p *site.Page, text string) (string, error) {
			first, last := t.bounds(p.Parent)
			at, err := strconv.Atoi(strings.TrimSpace(text))
			if err != nil || at < first || at > last {
				const none = "“%s” is no position for it: there are %s to %s."
				return "", typed.Refuse(none, strings.TrimSpace(text), count.Number(first), count.Number(last))
			}
			return strconv.Itoa(at), nil
		},
	}
}

// bounds gives the first and the last position at which a child of a page can stand that is not pinned.
func (t *Table) bounds(parent site.PageID) (first, last int) {
	kids := t.site.Children(parent)
	first, last = 1, len(kids)
	for _, id := range kids {
		switch t.site.Page(id).Pin {
		case site.PinStart:
			first++
		case site.PinEnd:
			last--
		}
	}
	return first, last
}

// arranged gives the children of a page with some of them at positions, counted from 1, and the others in the order in
// which they stand.
func arranged(kids []site.PageID, at map[site.PageID]int) []site.PageID {
	var placed, rest []site.PageID
	for _, id := range kids {
		if at[id] > 0 {
			placed = append(placed, id)
		} else {
			rest = append(rest, id)
		}
	}
	slices.SortStableFunc(placed, func(a, b site.PageID) int { return cmp.Compare(at[a], at[b]) })
	order := make([]site.PageID, 0, len(kids))
	for len(placed)+len(rest) > 0 {
		if len(placed) > 0 && (at[placed[0]] <= len(order)+1 || len(rest) == 0) {
			order, placed = append(order, placed[0]), placed[1:]
			continue
		}
		order, rest = append(order, rest[0]), rest[1:]
	}
	return order
}

// moves gives the fewest moves that put the children of a page in an order.
func moves(parent site.PageID, kids, order []site.PageID) (ops []edit.Op) {
	moved := map[site.PageID]bool{}
	for _, id := range rise.Moved(kids, order) {
		moved[id] = true
	}
	var after site.PageID
	for i, id := range order {
		if moved[id] {
			to := edit.Place{Parent: parent, After: after}
			if i == 0 {
				to.Before = kids[0]
			}
			ops = append(ops, edit.OpMove{Page: id, From: edit.Place{Parent: parent}, To: to})
		}
		after = id
	}
	return ops
}
