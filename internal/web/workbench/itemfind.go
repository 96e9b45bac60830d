package workbench

import (
	"errors"
	"fmt"
	"net/http"
	"slices"

	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/core/site"
	"vineladder/internal/files"
)

// openItem keeps which items are open: an item is open until it is closed, an automatic line the other way round.
func (s *Server) openItem(w http.ResponseWriter, r *http.Request) {
	id, open := readItem(r.FormValue("item")), r.FormValue("open") == "yes"
	area, at := menusClosed, site.PageID(id.Entry)
	if id.Page != 0 {
		area, at = menusLines, id.Page
	} else {
		open = !open
	}
	if err := s.store.SetOpen(r.Context(), who(r).ID, area, open, at); err != nil {
		s.refuse(w, r, err)
		return
	}
	s.say(w, http.StatusOK, reply{})
}

// rowsOf gives the rows of all items that can be selected, closed ones opened.
func (d *desk) rowsOf() []itemRow {
	if d.Menu == nil {
		return nil
	}
	return slices.DeleteFunc(
		d.items(nil, nil, 0, selectLimit).Rows,
		func(r itemRow) bool { return r.Ghost != "" || r.Automatic },
	)
}

// askItems gives the items from one row to another, or all that a filter keeps, or those beside the selected one.
func (s *Server) askItems(w http.ResponseWriter, r *http.Request, d *desk) error {
	rows := d.rowsOf()
	at := func(id string) int { return slices.IndexFunc(rows, func(r itemRow) bool { return r.ID == id }) }
	from, to := at(d.Item.String()), at(r.FormValue("to"))
	switch {
	case r.FormValue("to") != "" && from >= 0 && to >= 0:
		rows = rows[min(from, to) : max(from, to)+1]
	case !d.Filter.Empty():
		rows = slices.DeleteFunc(rows, func(r itemRow) bool { return r.Shape != d.Filter.Question })
	default:
		parent := site.EntryID(0)
		if e := d.Menu.Entry(d.Item.Entry); e != nil {
			parent = e.Parent
		}
		rows = slices.DeleteFunc(
			rows,
			func(r itemRow) bool { return d.Menu.Entry(readItem(r.ID).Entry).Parent != parent },
		)
	}
	made := reply{Keys: []string{}}
	for _, row := range rows {
		made.Keys = append(made.Keys, row.ID)
	}
	s.say(w, http.StatusOK, made)
	return nil
}

// tallyItems says how large a selection of items is.
func (s *Server) tallyItems(w http.ResponseWriter, r *http.Request, d *desk) error {
	i, err := readMenuIntent(r, d)
	if err != nil {
		return err
	}
	chosen := i.entries()
	words := count.Number(len(chosen)) + " selected"
	if d.Menu != nil {
		travel := 0
		for _, top := range topItems(d.Menu, chosen) {
			travel += len(d.Menu.Branch(top))
		}
		if below := travel - len(chosen); below > 0 {
			words += ", " + count.Number(below) + " more below travel along"
		}
	}
	s.say(w, http.StatusOK, reply{Facts: &tryFacts{Place: words}})
	return nil
}

// itemKey counts the rows of each shape.
func (s *Server) itemKey(w http.ResponseWriter, r *http.Request, d *desk) error {
	view := keyView{desk: d}
	on := d.Filter.Question
	d.Filter.Question = ""
	full, stub := 0, 0
	for _, row := range d.rowsOf() {
		if row.Shape == "full" {
			full++
		} else {
			stub++
		}
	}
	view.Items = []itemKeyLine{{"full", "Shows", full, on == "full"}, {"stub", "Does not show", stub, on == "stub"}}
	s.render(w, r, "item-key", view)
	return nil
}

// An itemKeyLine is a shape of a menu's ladder with the number of items that have it.
type itemKeyLine struct {
	Key, Words string
	Count      int
	On         bool
}

// upload keeps a file, so that items and blocks can lead to it. It is public as soon as something public leads to it,
// or somebody knows its name; the screen says so.
func (s *Server) upload(w http.ResponseWriter, r *http.Request, d *desk) error {
	base := d.Draft.Base.Site
	if link, place := grant.May(base, d.Who.Roles, site.ActionLink), grant.May(base, d.Who.Roles, site.ActionPlace); !link.Yes &&
		!place.Yes {
		return fmt.Errorf("%w: %s", errForbidden, link.Why)
	}
	file, header, err := r.FormFile("file")
	if err != nil {
		return &edit.Refusal{Sentence: fmt.Sprintf("Choose a file of %d MiB at most.", files.Limit>>20)}
	}
	defer file.Close()
	name, err := s.settings.Files.Save(header.Filename, file)
	if errors.Is(err, files.ErrTooLarge) || errors.Is(err, files.ErrEmpty) {
		return &edit.Refusal{Sentence: "“" + header.Filename + "” was not kept: " + err.Error() + "."}
	}
	if err != nil {
		return err
	}
	if err := s.store.Note(r.Context(), d.Who, "uploaded the file “"+name+"”"); err != nil {
		return err
	}
	s.say(
		w,
		http.StatusOK,
		reply{
			Said: "Kept the file “" + name + "”.",
			Hits: []hit{{Key: "file:" + name, Label: name, Address: "/files/" + name, Where: "File"}},
		},
	)
	return nil
}

// findItems finds items of all menus by label, and the menus themselves, for moving something there.
func (s *Server) findItems(w http.ResponseWriter, r *http.Request, d *desk) error {
	typed := r.FormValue("q")
	var hits []hit
	for mi := range d.Site.Menus() {
		m := &d.Site.Menus()[mi]
		if hasAll(m.Name, typed) && len(hits) < hitLimit {
			hits = append(hits, hit{Key: fmt.Sprintf("menu:%d", m.ID), Label: m.Name, Where: "The end of this menu"})
		}
		for ei := range m.Entries {
			e := &m.Entries[ei]
			if label := d.Site.EntryLabel(e); typed != "" && hasAll(label, typed) && len(hits) < hitLimit {
				where, _, _ := d.itemPlace(d.Site, m, e)
				hits = append(
					hits,
					hit{Key: itemID{Entry: e.ID}.String(), Label: label, Address: d.leads(e), Where: where},
				)
			}
		}
	}
	s.say(w, http.StatusOK, reply{Hits: hits})
	return nil
}
