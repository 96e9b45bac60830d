package check

import (
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// Mend gives the edits that mend a problem of a site as it stands, and the words for them; none where there is no fix
// of one step.
func (l *Look) Mend(p Problem) (words string, ops []edit.Op) {
	c := Of(p.Check)
	if c == nil || c.Fix == nil {
		return "", nil
	}
	if ops = c.Fix(l, p); len(ops) == 0 {
		return "", nil
	}
	return c.FixWords, ops
}

// setPage sets one field of the page that a problem is on.
func (l *Look) setPage(p Problem, field edit.Field, value string) []edit.Op {
	page := l.Site.Page(site.PageID(p.On.ID))
	if page == nil || edit.Value(page, field) == value {
		return nil
	}
	return []edit.Op{edit.OpEdit{
		Page: page.ID, Fields: []edit.FieldChange{{Field: field, Old: edit.Value(page, field), New: value}},
	}}
}

// setItem sets one field of the item that a problem is on.
func (l *Look) setItem(p Problem, field edit.Field, value string) []edit.Op {
	m, e := l.item(p)
	if e == nil || edit.EntryValue(e, field) == value {
		return nil
	}
	return []edit.Op{edit.OpEditEntry{
		Menu: m.ID, Entry: e.ID,
		Fields: []edit.FieldChange{{Field: field, Old: edit.EntryValue(e, field), New: value}},
	}}
}

// item finds the item that a problem is on.
func (l *Look) item(p Problem) (*site.Menu, *site.Entry) {
	for i := range l.Site.Menus() {
		m := &l.Site.Menus()[i]
		if e := m.Entry(site.EntryID(p.On.ID)); e != nil {
			return m, e
		}
	}
	return nil, nil
}

func (l *Look) takeItem(p Problem) []edit.Op {
	if _, e := l.item(p); e == nil {
		return nil
	}
	return []edit.Op{edit.OpTakeEntry{Entry: site.EntryID(p.On.ID)}}
}

// label calls a page by its name.
func (l *Look) label(id site.PageID) string {
	if p := l.Site.Page(id); p != nil && !p.Purged {
		return "“" + p.Label + "”"
	}
	return "a page that is gone"
}

// called names an item by what visitors read of it.
func (l *Look) called(m *site.Menu, e *site.Entry) string {
	label := l.Site.EntryLabel(e)
	if label == "" {
		label = "An item"
	} else {
		label = "“" + label + "”"
	}
	return label + " in the menu “" + m.Name + "”"
}
