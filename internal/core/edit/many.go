package edit

import (
	"cmp"
	"slices"
	"strconv"

	"vineladder/internal/core/address"
	"vineladder/internal/core/listing"
	"vineladder/internal/core/site"
)

// Tops gives the pages of a selection that travel on their own, in the tree's order: a page whose ancestor is selected
// travels with it, and pages that are not in the tree are left out (rules 2.6).
func Tops(s *site.Site, selection []site.PageID) []site.PageID {
	chosen := make(map[site.PageID]bool, len(selection))
	for _, id := range selection {
		chosen[id] = true
	}
	var tops []site.PageID
	for id := range chosen {
		if !s.InTree(id) {
			continue
		}
		above := s.Page(id).Parent
		for above != 0 && !chosen[above] {
			above = s.Page(above).Parent
		}
		if above == 0 {
			tops = append(tops, id)
		}
	}
	s.SortByTree(tops)
	return tops
}

// topicsThere gives the topics of a page that the bin was not emptied of.
func topicsThere(s *site.Site, p *site.Page) []site.PageID {
	return slices.DeleteFunc(slices.Clone(p.Topics), func(id site.PageID) bool {
		topic := s.Page(id)
		return topic == nil || topic.Purged
	})
}

// MoveMany gives the moves that take a selection to one place, its tops in their order.
func MoveMany(s *site.Site, selection []site.PageID, to Place) []Op {
	var ops []Op
	for _, id := range Tops(s, selection) {
		ops = append(ops, OpMove{Page: id, From: Place{Parent: s.Page(id).Parent}, To: to})
		if to.After != 0 || to.Before != 0 {
			to.After = id
		}
	}
	return ops
}

// TakeFromPlace lets the new place of each page say who sees it.
func TakeFromPlace(ops []Op) {
	for i, op := range ops {
		if move, is := op.(OpMove); is {
			move.Takes = true
			ops[i] = move
		}
	}
}

// SetMany gives the edits that set a field of every page of a selection. Pages that have the value already, and the
// home page where its field is fixed, are left out.
func SetMany(s *site.Site, selection []site.PageID, field Field, value string) []Op {
	var ops []Op
	selection = slices.Clone(selection)
	s.SortByTree(selection)
	for _, id := range slices.Compact(selection) {
		p := s.Page(id)
		if p == nil || p.Parent == 0 && FixedOnHome(field) || Value(p, field) == value {
			continue
		}
		ops = append(ops, OpEdit{Page: id, Fields: []FieldChange{{Field: field, Old: Value(p, field), New: value}}})
	}
	return ops
}

// A Copying is a selection that is made anew at a place.
type Copying struct {
	Selection []site.PageID
	Below     bool // what is below each page comes along
	To        Place
}

// Pages lists the pages that will be copied, parents before what is in them. Files are not copied: the copies link to
// the same ones.
func (c Copying) Pages(s *site.Site) []site.PageID {
	var pages []site.PageID
	for _, top := range Tops(s, c.Selection) {
		if !c.Below {
			pages = append(pages, top)
			continue
		}
		s.Walk(top, func(p *site.Page) bool { pages = append(pages, p.ID); return true })
	}
	return slices.DeleteFunc(pages, func(id site.PageID) bool { return s.Page(id).IsFile() || s.Page(id).IsFolder() })
}

// Ops gives the operations that make the copies. made has a new id for each of Pages; text gives the hash of the text
// that the copy of a page gets, in which links inside the copied branch point at the copies.
func (c Copying) Ops(s *site.Site, made map[site.PageID]site.PageID, text func(*site.Page) string) []Op {
	var ops []Op
	to := c.To
	taken := map[string]bool{}
	for _, id := range c.Pages(s) {
		p := s.Page(id)
		op := OpMake{Page: made[id], Place: Place{Parent: made[p.Parent]}}
		top := made[p.Parent] == 0 || slices.Contains(c.Selection, id) && !c.Below
		if top {
			op.Place = to
			if to.After != 0 || to.Before != 0 {
				to.After = op.Page
			}
		}
		// What a copy keeps (rules 2.8): it is offline, and has no own or short address, and no pin.
		for _, field := range PageFields(Copied) {
			value := Value(p, field)
			switch field {
			case FieldText:
				value = text(p)
			case FieldTopics:
				value = TopicsText(topicsThere(s, p)...)
			case FieldListing: // it can name copies, and is set when they are there
				value = ""
			}
			if value != "" && (value != Value(&unset, field) || field == FieldLabel) {
				op.Fields = append(op.Fields, FieldChange{Field: field, New: value})
			}
		}
		if top {
			op.Fields = append(op.Fields, closedCopy(s, p, op.Place.Parent)...)
		}
		switch {
		case p.SegmentFollows || p.Parent == 0:
		case top:
			standing := &site.Page{Parent: to.Parent}
			segment := address.FreeSegment(s, standing, p.Segment, address.AnyOther)
			for n := 2; taken[segment]; n++ {
				segment = address.FreeSegment(s, standing, address.Suffixed(p.Segment, n), address.AnyOther)
			}
			taken[segment] = true
			op.Fields = append(op.Fields, FieldChange{Field: FieldSegment, New: segment})
		default:
			op.Fields = append(op.Fields, FieldChange{Field: FieldSegment, New: p.Segment})
		}
		ops = append(ops, op)
	}
	for _, id := range c.Pages(s) {
		if lists := listingOfCopy(s, s.Page(id), made); lists != "" {
			ops = append(ops, OpEdit{Page: made[id], Fields: []FieldChange{{Field: FieldListing, New: lists}}})
		}
	}
	return ops
}

// listingOfCopy is what the copy of a page lists: of pages that are copied too, their copies. What can't be asked for
// any more it does not list.
func listingOfCopy(s *site.Site, p *site.Page, made map[site.PageID]site.PageID) string {
	if _, err := listing.Read(s, p.Listing); err != nil {
		return ""
	}
	return listing.Rename(p.Listing, func(number string) string {
		id, _ := strconv.ParseInt(number, 10, 64)
		return strconv.FormatInt(cmp.Or(int64(made[site.PageID(id)]), id), 10)
	})
}
