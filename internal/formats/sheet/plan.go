package sheet

import (
	"cmp"
	"errors"
	"io"
	"slices"
	"time"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/rise"
	"vineladder/internal/core/site"
)

// Read gives the operations that bring a site to what a sheet says: pages by key, made where they are not there, edited
// and moved where they differ. What the sheet does not name stays. newIDs takes that many page ids. An import of an
// export gives no operation. texts keeps what a column of texts has.
func Read(
	r io.Reader, s *site.Site, now time.Time, newIDs func(n int) ([]site.PageID, error), texts ...Texts,
) ([]edit.Op, error) {
	rows, err := read(r, s)
	if err != nil {
		return nil, err
	}
	p := &plan{
		site:  s,
		now:   now,
		rows:  rows,
		byKey: make(map[string]*row, len(rows)),
		ids:   map[string]site.PageID{},
		kids:  map[string][]*row{},
	}
	p.known()
	if err := errors.Join(p.checkKeys(), p.checkParents()); err != nil {
		return nil, err
	}
	if err := p.checkCycles(); err != nil {
		return nil, err
	}
	faults := errors.Join(
		p.checkDepth(), p.checkSegments(), p.checkPositions(), p.checkTopics(), p.checkListings(), p.checkDetails(),
	)
	if faults != nil {
		return nil, faults
	}
	made, err := newIDs(p.countNew())
	if err != nil {
		return nil, err
	}
	for _, row := range rows {
		if p.ids[row.key] == 0 {
			p.ids[row.key], made = made[0], made[1:]
		}
	}
	p.descend()
	p.tag()
	p.list()
	p.detail()
	if err := p.write(texts...); err != nil {
		return nil, err
	}
	return p.ops, nil
}

type plan struct {
	site  *site.Site
	now   time.Time
	rows  []*row
	byKey map[string]*row
	ids   map[string]site.PageID // pages that are there, then all
	kids  map[string][]*row      // rows by parent key
	ops   []edit.Op
}

// known indexes the keys that the site has.
func (p *plan) known() {
	index := func(page *site.Page) bool { p.ids[page.Key] = page.ID; return true }
	p.site.Walk(p.site.Home(), index)
	for _, top := range p.site.Binned() {
		p.site.Walk(top, index)
	}
}

// page gives the page of a key as it is now; nil for a new one.
func (p *plan) page(key string) *site.Page { return p.site.Page(p.ids[key]) }

func (p *plan) checkKeys() error {
	var faults []error
	for _, row := range p.rows {
		if other := p.byKey[row.key]; other != nil {
			faults = append(faults, row.fault("key", "the key “%s” stands in line %d already", row.key, other.line))
		}
		p.byKey[row.key] = row
		page := p.page(row.key)
		switch {
		case page == nil && row.value(edit.FieldLabel) == "":
			faults = append(faults, row.fault("key", "“%s” is a new page and needs a label", row.key))
		case page != nil && !p.site.InTree(page.ID):
			faults = append(faults, row.fault("key", "“%s” is in the bin; restore it first", row.key))
		}
	}
	return errors.Join(faults...)
}

func (p *plan) checkParents() error {
	var faults []error
	home := p.site.Page(p.site.Home())
	for _, row := range p.rows {
		isHome := home != nil && row.key == home.Key
		switch {
		case row.parent == "" && (isHome || home == nil && len(p.kids[""]) == 0):
		case row.parent == "":
			faults = append(faults, row.fault("parent_key", "only the home page has no parent"))
		case isHome:
			faults = append(faults, row.fault("parent_key", "the home page stays where it is"))
		case p.byKey[row.parent] == nil && (p.page(row.parent) == nil || !p.site.InTree(p.ids[row.parent])):
			faults = append(
				faults,
				row.fault("parent_key", "there is no page “%s”, neither here nor on the site", row.parent),
			)
		}
		p.kids[row.parent] = append(p.kids[row.parent], row)
	}
	return errors.Join(faults...)
}

// parentOf gives the key of a page's parent as the sheet will have it.
func (p *plan) parentOf(key string) string {
	if row := p.byKey[key]; row != nil {
		return row.parent
	}
	if parent := p.site.Page(p.page(key).Parent); parent != nil {
		return parent.Key
	}
	return ""
}

func (p *plan) checkCycles() error {
	var faults []error
	settled := map[string]bool{}
	for _, row := range p.rows {
		onPath := map[string]bool{}
		var path []string
		at := row.key
		for at != "" && !settled[at] && !onPath[at] {
			onPath[at] = true
			path = append(path, at)
			at = p.parentOf(at)
		}
		if at != "" && onPath[at] {
			faults = append(faults, row.fault("parent_key", "“%s” would lie inside itself", at))
		}
		for _, key := range path {
			settled[key] = true
		}
	}
	return errors.Join(faults...)
}

// checkDepth finds pages that would stand deeper than a tree goes, the first of each branch.
func (p *plan) checkDepth() error {
	level := map[string]int{}
	var of func(key string) int
	of = func(key string) int {
		if key == "" {
			return -1
		}
		if _, known := level[key]; !known {
			level[key] = of(p.parentOf(key)) + 1
		}
		return level[key]
	}
	var faults []error
	for _, row := range p.rows {
		if n := of(row.key); n == edit.LevelsLimit+1 && len(faults) < errorLimit {
			faults = append(
				faults,
				row.fault(
					"parent_key",
					"“%s” would stand %d levels deep; a tree has at most %d levels",
					row.key,
					n,
					edit.LevelsLimit,
				),
			)
		}
	}
	return errors.Join(faults...)
}

// checkSegments finds two siblings that would have one segment, both typed, here or before.
func (p *plan) checkSegments() error {
	var faults []error
	for parent, rows := range p.kids {
		taken := map[string]string{}
		if page := p.page(parent); page != nil {
			for _, kid := range p.site.Children(page.ID) {
				if sibling := p.site.Page(kid); p.byKey[sibling.Key] == nil && !sibling.Follows(p.now) {
					taken[sibling.Segment] = sibling.Key
				}
			}
		}
		for _, row := range rows {
			typed, said := row.said(edit.FieldSegment)
			segment := typed.value
			if page := p.page(row.key); page != nil && !said && !page.Follows(p.now) {
				segment = page.Segment
			}
			if other := taken[segment]; segment != "" && other != "" {
				faults = append(
					faults,
					row.fault("segment", "“%s” and “%s” would both be “%s” in “%s”", other, row.key, segment, parent),
				)
			}
			taken[segment] = row.key
		}
	}
	return errors.Join(faults...)
}

func (p *plan) checkPositions() error {
	var faults []error
	for _, row := range p.rows {
		if page := p.page(row.parent); page != nil && page.Sort != site.SortManual && row.position > 0 {
			faults = append(
				faults,
				row.fault("position", "the pages in “%s” stand by a rule; leave the position empty", row.parent),
			)
		}
	}
	return errors.Join(faults...)
}

func (p *plan) countNew() int {
	n := 0
	for _, row := range p.rows {
		if p.ids[row.key] == 0 {
			n++
		}
	}
	return n
}

// descend makes the operations from the top of the tree down, so that a parent always stands where it will before its
// children come.
func (p *plan) descend() {
	queue := []string{""}
	for len(queue) > 0 {
		parent := queue[0]
		queue = queue[1:]
		p.arrange(parent)
		seen := map[string]bool{}
		if page := p.page(parent); page != nil {
			for _, kid := range p.site.Children(page.ID) {
				if key := p.site.Page(kid).Key; p.byKey[key] == nil {
					queue, seen[key] = append(queue, key), true
				}
			}
		} else if home := p.site.Page(p.site.Home()); parent == "" && home != nil {
			queue, seen[home.Key] = append(queue, home.Key), true
		}
		for _, row := range p.kids[parent] {
			if !seen[row.key] {
				queue = append(queue, row.key)
			}
		}
	}
}

// arrange makes and moves the children of one parent and edits their fields.
func (p *plan) arrange(parent string) {
	rows := p.kids[parent]
	if len(rows) == 0 {
		return
	}
	parentID := p.ids[parent]
	order := p.desired(parent, rows)
	moved := p.moved(parentID, order)
	var after site.PageID
	for i, key := range order {
		row, page := p.byKey[key], p.page(key)
		place := edit.Place{Parent: parentID, After: after}
		if after == 0 && parentID != 0 {
			if kids := p.site.Children(parentID); len(kids) > 0 {
				place.Before = kids[0]
			}
		}
		switch {
		case row == nil:
		case page == nil:
			p.ops = append(p.ops, edit.OpMake{Page: p.ids[key], Key: key, Place: place, Fields: row.made()})
		default:
			changes := row.changes(page, p.now)
			if page.Parent != parentID && !row.takes && row.value(edit.FieldAudience) == "" {
				changes = slices.DeleteFunc(changes, func(c edit.FieldChange) bool { return c.Field == edit.FieldAudience })
			}
			if moved[i] {
				// Who sees the page is said before it moves: a move can give it the audience that it had from above.
				changes = p.admitFirst(page, changes)
				p.ops = append(p.ops, edit.OpMove{Page: page.ID, To: place, Takes: row.takes && page.Parent != parentID})
			}
			if len(changes) > 0 {
				p.ops = append(p.ops, edit.OpEdit{Page: page.ID, Fields: changes})
			}
		}
		after = p.ids[key]
	}
}

// admitFirst edits who sees a page, and gives the other changes.
func (p *plan) admitFirst(page *site.Page, changes []edit.FieldChange) (rest []edit.FieldChange) {
	var first []edit.FieldChange
	for _, c := range changes {
		if c.Field == edit.FieldAudience || c.Field == edit.FieldConceal {
			first = append(first, c)
		} else {
			rest = append(rest, c)
		}
	}
	if len(first) > 0 {
		p.ops = append(p.ops, edit.OpEdit{Page: page.ID, Fields: first})
	}
	return rest
}

// desired is the order of a parent's children as the sheet asks: rows with a position at it, the others where they
// stand, new ones last.
func (p *plan) desired(parent string, rows []*row) []string {
	var rest []string
	if page := p.page(parent); page != nil {
		for _, kid := range p.site.Children(page.ID) {
			key := p.site.Page(kid).Key
			if row := p.byKey[key]; row == nil || row.parent == parent && row.position == 0 {
				rest = append(rest, key)
			}
		}
	}
	var placed []*row
	for _, row := range rows {
		page := p.page(row.key)
		switch {
		case row.position > 0:
			placed = append(placed, row)
		case page == nil || page.Parent != p.ids[parent] || page.Parent == 0:
			rest = append(rest, row.key)
		}
	}
	slices.SortStableFunc(placed, func(a, b *row) int { return cmp.Compare(a.position, b.position) })
	order := make([]string, 0, len(rest)+len(placed))
	for len(placed) > 0 || len(rest) > 0 {
		if len(placed) > 0 && (placed[0].position <= len(order)+1 || len(rest) == 0) {
			order, placed = append(order, placed[0].key), placed[1:]
			continue
		}
		order, rest = append(order, rest[0]), rest[1:]
	}
	return order
}

// moved says which of the children must move: those that come from elsewhere, and the fewest that put the others in
// order.
func (p *plan) moved(parent site.PageID, order []string) []bool {
	moved := make([]bool, len(order))
	if above := p.site.Page(parent); above == nil || above.Sort != site.SortManual {
		for i, key := range order {
			page := p.page(key)
			moved[i] = page != nil && page.Parent != parent
		}
		return moved
	}
	place := map[site.PageID]int{}
	for i, kid := range p.site.Children(parent) {
		place[kid] = i
	}
	var stayed, at []int
	for i, key := range order {
		if was, stands := place[p.ids[key]]; stands {
			stayed, at = append(stayed, was), append(at, i)
		} else if p.page(key) != nil {
			moved[i] = true
		}
	}
	for _, i := range rise.Outside(stayed) {
		moved[at[i]] = true
	}
	return moved
}

// made gives the fields of a new page, defaults left out.
func (r *row) made() []edit.FieldChange {
	changes := []edit.FieldChange{{Field: edit.FieldLabel, New: r.value(edit.FieldLabel)}}
	for _, c := range r.cells {
		if c.field == "" || c.field == edit.FieldLabel || c.value == "" || r.parent == "" && edit.FixedOnHome(c.field) ||
			c.value == edit.UnsetValue(c.field) {
			continue
		}
		changes = append(changes, edit.FieldChange{Field: c.field, New: c.value})
	}
	return slices.Clip(changes)
}

// changes gives the fields in which a page differs from its row.
func (r *row) changes(page *site.Page, now time.Time) []edit.FieldChange {
	var changes []edit.FieldChange
	for _, c := range r.cells {
		field, value, stands := c.field, c.value, edit.Value(page, c.field)
		if field == "" || value == stands ||
			field == edit.FieldSegment &&
				(value == "" && page.SegmentFollows || value == page.Segment && !page.Follows(now)) ||
			page.Parent == 0 && (field == edit.FieldSegment || edit.FixedOnHome(field) && c.unsaid) {
			continue
		}
		changes = append(changes, edit.FieldChange{Field: field, Old: stands, New: value})
	}
	return changes
}
