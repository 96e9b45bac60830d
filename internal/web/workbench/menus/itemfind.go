package menus

import (
	"errors"
	"fmt"
	"net/http"
	"slices"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// openItem keeps which items are open: an item is open until it is closed, an automatic line the other way round.
func (s *Area) openItem(w http.ResponseWriter, r *http.Request) {
	id, open := desk.ReadItem(r.FormValue("item")), r.FormValue("open") == "yes"
	area, at := menusClosed, site.PageID(id.Entry)
	who, ctx := desk.Who(r).ID, r.Context()
	err := error(nil)
	if id.Page != 0 { // one with items below it is open until it is closed, too
		err = s.Store.SetOpen(ctx, who, menusLines, open, id.Page)
		at = -id.Page
	}
	if err = errors.Join(err, s.Store.SetOpen(ctx, who, area, !open, at)); err != nil {
		s.Refuse(w, r, err)
		return
	}
	s.Say(w, http.StatusOK, desk.Reply{})
}

// question is what the ladder of items is cut down to: by shape. What is asked of pages is not asked here.
func question(d *desk.Desk) string {
	if q := d.Filter.Question; q == "full" || q == "stub" {
		return q
	}
	return ""
}

// rowsOf gives the rows of all items that can be selected, closed ones opened.
func rowsOf(d *desk.Desk) []itemRow {
	if d.Menu == nil {
		return nil
	}
	return slices.DeleteFunc(
		items(d, nil, nil, 0, desk.SelectLimit).Rows,
		func(r itemRow) bool { return r.Ghost != "" || r.Automatic },
	)
}

// askItems gives the items from one row to another, or all that a filter keeps, or those beside the selected one.
func (s *Area) askItems(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	rows := rowsOf(d)
	at := func(id string) int { return slices.IndexFunc(rows, func(r itemRow) bool { return r.ID == id }) }
	from, to := at(d.Item.String()), at(r.FormValue("to"))
	switch {
	case r.FormValue("to") != "" && from >= 0 && to >= 0:
		rows = rows[min(from, to) : max(from, to)+1]
	case question(d) != "":
		rows = slices.DeleteFunc(rows, func(r itemRow) bool { return r.Shape != question(d) })
	default:
		beside := edit.Gap{}
		if e := d.Menu.Entry(d.Item.Entry); e != nil {
			beside.Parent, beside.Under = e.Parent, e.Under
		}
		rows = slices.DeleteFunc(rows, func(r itemRow) bool {
			e := d.Menu.Entry(desk.ReadItem(r.ID).Entry)
			return e.Parent != beside.Parent || e.Under != beside.Under
		})
	}
	made := desk.Reply{Keys: []string{}}
	for _, row := range rows {
		made.Keys = append(made.Keys, row.ID)
	}
	s.Say(w, http.StatusOK, made)
	return nil
}

// tallyItems says how large a selection of items is.
func (s *Area) tallyItems(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	i, err := readMenuIntent(r, d)
	if err != nil {
		return err
	}
	words := tallyWords(d.Menu, i.entries())
	s.Say(w, http.StatusOK, desk.Reply{Facts: &desk.TryFacts{Place: words}})
	return nil
}

// itemKey counts the rows of each shape.
func (s *Area) itemKey(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	view := desk.KeyView{Desk: d}
	on := d.Filter.Question
	d.Filter.Question = ""
	full, stub := 0, 0
	for _, row := range rowsOf(d) {
		if row.Shape == "full" {
			full++
		} else {
			stub++
		}
	}
	view.Items = []desk.ItemKeyLine{
		{Key: "full", Words: "Shows", Count: full, On: on == "full"},
		{Key: "stub", Words: "Does not show", Count: stub, On: on == "stub"},
	}
	s.Render(w, r, "item-key", view)
	return nil
}

// findItems finds items of all menus by label, and the menus themselves, for moving something there.
func (s *Area) findItems(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	typed := r.FormValue("q")
	var hits []desk.Hit
	for mi := range d.Site.Menus() {
		m := &d.Site.Menus()[mi]
		if desk.HasAll(m.Name, typed) && len(hits) < desk.HitLimit {
			hits = append(
				hits,
				desk.Hit{Key: fmt.Sprintf("menu:%d", m.ID), Label: m.Name, Where: "The end of this menu"},
			)
		}
		for ei := range m.Entries {
			e := &m.Entries[ei]
			if label := d.Site.EntryLabel(e); typed != "" && desk.HasAll(label, typed) && len(hits) < desk.HitLimit {
				where, _, _ := d.ItemPlace(d.Site, m, e)
				hits = append(
					hits,
					desk.Hit{Key: desk.ItemID{Entry: e.ID}.String(), Label: label, Address: d.Leads(e), Where: where},
				)
			}
		}
	}
	s.Say(w, http.StatusOK, desk.Reply{Hits: hits})
	return nil
}
