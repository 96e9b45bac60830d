package grid

import (
	"cmp"
	"slices"
	"strconv"
	"time"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// A Cell is what somebody typed into a table, and what stood there when they began.
type Cell struct {
	Page   site.PageID
	Column string
	Was    string
	Text   string
}

// A Fault is what is wrong with a cell, or what somebody should know of it.
type Fault struct {
	Page     site.PageID `json:"page"`
	Column   string      `json:"column"`
	Sentence string      `json:"sentence"`
}

// A Plan is what comes of the cells that were changed.
type Plan struct {
	Ops     []edit.Op
	Faults  []Fault // nothing is done as long as there are any
	Remarks []Fault // nothing forbids it
	Cells   int     // that differ from what stands
	Pages   int
	Turns   bool // days were typed with day and month the other way round: Turned reads them
}

// Plan reads cells and gives the edits that bring the Site to what they say. The last cell of a page and column counts.
func (t *Table) Plan(cells []Cell) *Plan {
	w := &planning{Table: t, plan: &Plan{}, rows: map[site.PageID]*row{}}
	for _, c := range cells {
		w.take(c)
	}
	other := t.otherOrder(cells)
	w.plan.Turns = len(other) > 0
	w.readAll(other)
	w.checkWindows()
	w.write()
	w.remark()
	slices.SortStableFunc(w.plan.Faults, func(a, b Fault) int {
		return cmp.Compare(w.rows[a.Page].at, w.rows[b.Page].at)
	})
	return w.plan
}

type planning struct {
	*Table
	plan *Plan
	rows map[site.PageID]*row
	in   []site.PageID // in the order in which pages were first named
}

// A row is what was typed of one page.
type row struct {
	at     int
	page   *site.Page
	cells  map[string]Cell
	values map[string]string // in canonical form, of cells that read and differ
}

func (w *planning) fault(page site.PageID, column, sentence string) {
	w.plan.Faults = append(w.plan.Faults, Fault{page, column, sentence})
}

func (w *planning) take(c Cell) {
	r := w.rows[c.Page]
	if r == nil {
		r = &row{at: len(w.in), cells: map[string]Cell{}, values: map[string]string{}}
		w.rows[c.Page], w.in = r, append(w.in, c.Page)
		if w.site.InTree(c.Page) {
			r.page = w.site.Page(c.Page)
		}
	}
	r.cells[c.Column] = c
}

// readAll reads every cell, the type of each page before its details, since those are asked of what it will be.
func (w *planning) readAll(other map[string]bool) {
	for _, id := range w.in {
		r := w.rows[id]
		if r.page == nil {
			for key := range r.cells {
				w.fault(id, key, "This page is not there any more.")
				break
			}
			continue
		}
		will := *r.page
		for i := range w.Columns {
			c := &w.Columns[i]
			if cell, typed := r.cells[c.Key]; typed && c.Key == string(edit.FieldKind) {
				w.read(r, c, cell, &will, false)
				will.Kind = cmp.Or(r.values[c.Key], will.Kind)
			}
		}
		for i := range w.Columns {
			c := &w.Columns[i]
			if cell, typed := r.cells[c.Key]; typed && c.Key != string(edit.FieldKind) {
				w.read(r, c, cell, &will, other[c.Key])
			}
		}
	}
}

func (w *planning) read(r *row, c *Column, cell Cell, will *site.Page, other bool) {
	stands := w.Text(r.page, c)
	if cell.Text == stands {
		return
	}
	if why := w.Closed(will, c); why != "" {
		w.fault(cell.Page, c.Key, why)
		return
	}
	if cell.Was != stands {
		w.fault(cell.Page, c.Key, "Somebody changed this meanwhile: it is “"+stands+"” now.")
		return
	}
	if other {
		if err := w.ambiguous(cell.Text); err != nil {
			w.fault(cell.Page, c.Key, err.Error())
			return
		}
	}
	value, err := c.read(r.page, cell.Text)
	if err != nil {
		w.fault(cell.Page, c.Key, err.Error())
		return
	}
	if value != w.stands(r.page, c) {
		r.values[c.Key] = value
		w.plan.Cells++
	}
}

// stands gives what a page has in a column, in the form that is kept.
func (t *Table) stands(p *site.Page, c *Column) string {
	switch {
	case c.Key == Position:
		return c.write(p)
	case edit.IsDetail(edit.Field(c.Key)):
		return p.Values.Get(c.Key)
	}
	return edit.Value(p, edit.Field(c.Key))
}

// checkWindows finds pages that would end before they begin.
func (w *planning) checkWindows() {
	for _, id := range w.in {
		r := w.rows[id]
		from, begins := r.values[string(edit.FieldLiveFrom)]
		until, ends := r.values[string(edit.FieldLiveUntil)]
		if !begins && !ends {
			continue
		}
		window, column := r.page.Window(), edit.FieldLiveFrom
		if begins {
			window.From, _ = time.Parse(time.RFC3339, from)
		}
		if ends {
			column = edit.FieldLiveUntil
			window.Until, _ = time.Parse(time.RFC3339, until)
		}
		if window.IsBackwards() {
			w.fault(id, string(column), "It would end before it begins.")
		}
	}
}

// write makes the operations: an edit for each page that differs, then the moves.
func (w *planning) write() {
	at := map[site.PageID]map[site.PageID]int{}
	var parents []site.PageID
	for _, id := range w.in {
		r := w.rows[id]
		if len(r.values) > 0 {
			w.plan.Pages++
		}
		var changes []edit.FieldChange
		for _, c := range w.kindFirst() {
			value, said := r.values[c.Key]
			switch {
			case !said:
			case c.Key == Position:
				parent := r.page.Parent
				if at[parent] == nil {
					at[parent], parents = map[site.PageID]int{}, append(parents, parent)
				}
				at[parent][id], _ = strconv.Atoi(value)
			default:
				changes = append(changes, edit.FieldChange{Field: fieldOf(c.Key), Old: w.stands(r.page, c), New: value})
			}
		}
		if len(changes) > 0 {
			w.plan.Ops = append(w.plan.Ops, edit.OpEdit{Page: id, Fields: changes})
		}
	}
	for _, parent := range parents {
		w.arrange(parent, at[parent])
	}
}

// fieldOf gives the field of a column.
func fieldOf(key string) edit.Field {
	if edit.IsDetail(edit.Field(key)) {
		return edit.DetailField(key)
	}
	return edit.Field(key)
}

// kindFirst has the columns with the page type before what hangs on it.
func (t *Table) kindFirst() []*Column {
	var all []*Column
	for i := range t.Columns {
		if t.Columns[i].Key == string(edit.FieldKind) {
			all = append([]*Column{&t.Columns[i]}, all...)
		} else {
			all = append(all, &t.Columns[i])
		}
	}
	return all
}

// arrange moves the children of one page to the positions that were typed.
func (w *planning) arrange(parent site.PageID, at map[site.PageID]int) {
	taken := map[int]site.PageID{}
	for _, id := range w.in {
		if other := taken[at[id]]; at[id] > 0 && other != 0 {
			w.fault(id, Position, "“"+w.site.Page(other).Label+"” is to stand there as well.")
		}
		taken[at[id]] = id
	}
	kids := w.site.Children(parent)
	w.plan.Ops = append(w.plan.Ops, moves(parent, kids, arranged(kids, at))...)
}

// remark tells of labels that two pages beside each other would have. It looks at those that were typed.
func (w *planning) remark() {
	beside := map[site.PageID]map[string]int{}
	label := func(id site.PageID) string {
		if r := w.rows[id]; r != nil {
			if typed, said := r.values[string(edit.FieldLabel)]; said {
				return typed
			}
		}
		return w.site.Page(id).Label
	}
	for _, id := range w.in {
		r := w.rows[id]
		typed, said := r.values[string(edit.FieldLabel)]
		if !said || r.page.Parent == 0 {
			continue
		}
		named := beside[r.page.Parent]
		if named == nil {
			named = map[string]int{}
			for _, kid := range w.site.Children(r.page.Parent) {
				named[fold(label(kid))]++
			}
			beside[r.page.Parent] = named
		}
		if named[fold(typed)] > 1 {
			w.plan.Remarks = append(w.plan.Remarks, Fault{
				id, string(edit.FieldLabel),
				"Another page in “" + w.site.Page(r.page.Parent).Label + "” would have this label as well.",
			})
		}
	}
}

// Refused says of which cells the rules forbid edits that could not be done together, each beside the one that it
// comes from; nil if nothing is forbidden.
func Refused(s *site.Site, ops []edit.Op, now time.Time) (faults []Fault) {
	_, held := edit.NewRebase(s, now).Add(ops)
	for _, h := range held {
		fault := Fault{Page: h.Op.Subject(), Column: Position, Sentence: h.Why.Error()}
		if o, is := h.Op.(edit.OpEdit); is {
			fault.Column = string(o.Fields[0].Field)
			for _, c := range o.Fields {
				if edit.FieldHas(c.Field, edit.Addresses) {
					fault.Column = string(c.Field)
				}
			}
		}
		faults = append(faults, fault)
	}
	return faults
}
