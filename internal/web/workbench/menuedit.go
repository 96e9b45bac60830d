package workbench

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"strings"

	"github.com/go-chi/chi/v5"

	"vineladder/internal/core/address"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
)

// A menuIntent is what a form of the menus area asks for, before it is known what stands in the draft.
type menuIntent struct {
	do       string
	menu     site.MenuID
	item     site.EntryID
	form     func(string) string
	shows    string // of an item: what it shows
	newMenu  site.MenuID
	newEntry site.EntryID
}

// menuDo does one thing with a menu or one of its items, in the draft.
func (s *Server) menuDo(w http.ResponseWriter, r *http.Request, d *desk) error {
	if d.State == "now" {
		return &edit.Refusal{Sentence: "You are looking at what is public now. To edit, go to “After publishing”."}
	}
	i, err := s.readMenuIntent(r, d)
	if err != nil {
		return err
	}
	_, words, err := i.operations(d.Draft.Site)
	if err != nil {
		return err
	}
	_, err = s.store.Edit(r.Context(), d.Draft.ID, d.Who, words, func(draft *store.Draft) ([]edit.Op, error) {
		ops, _, err := i.operations(draft.Site)
		if err == nil {
			err = allowed(d, ops)
		}
		return ops, err
	})
	if err != nil {
		return err
	}
	made := reply{Said: strings.ToUpper(words[:1]) + words[1:] + ".", Menu: int64(i.menu), Item: int64(i.item)}
	switch {
	case i.newMenu != 0:
		made.Menu, made.Item = int64(i.newMenu), 0
	case i.newEntry != 0:
		made.Item = int64(i.newEntry)
	case i.do == "take":
		made.Item = 0
	case i.do == "take-menu":
		made.Menu = 0
	}
	s.say(w, http.StatusOK, made)
	return nil
}

func (s *Server) readMenuIntent(r *http.Request, d *desk) (*menuIntent, error) {
	menu, _ := strconv.ParseInt(r.FormValue("menu"), 10, 64)
	item, _ := strconv.ParseInt(r.FormValue("item"), 10, 64)
	i := &menuIntent{do: chi.URLParam(r, "do"), menu: site.MenuID(menu), item: site.EntryID(item), form: r.FormValue}
	var err error
	switch i.do {
	case "make-menu":
		i.newMenu, err = s.store.NewMenuID(r.Context())
	case "put":
		if i.shows, err = s.readShows(r, d); err == nil {
			i.newEntry, err = s.store.NewEntryID(r.Context())
		}
	case "field":
		switch field := edit.Field(r.FormValue("field")); field {
		case edit.Shows:
			if i.shows, err = s.readShows(r, d); err == nil {
				i.form = with(r.FormValue, "new", i.shows)
			}
		case edit.LiveFrom, edit.LiveUntil:
			var value string
			if value, err = readMoment(d.Site, r.FormValue("new")); err == nil {
				i.form = with(r.FormValue, "new", value)
			}
		}
	}
	return i, err
}

// readShows reads what an item shows: its sort, and where it leads as a label, an address, or a pasted full one. What is kept is
// the page's identity, so nothing breaks when the page moves.
func (s *Server) readShows(r *http.Request, d *desk) (string, error) {
	sort, leads := r.FormValue("sort"), strings.TrimSpace(r.FormValue("leads"))
	switch sort {
	case "heading":
		return "heading", nil
	case string(site.SignInLink), string(site.SignOutLink):
		return "account:" + sort, nil
	case "web":
		if own := strings.TrimPrefix(leads, s.settings.Site); own == leads {
			return "web:" + leads, nil
		}
	}
	page, err := s.findTarget(d.Draft.Site, leads)
	if err != nil {
		return "", err
	}
	if sort == "branch" {
		return fmt.Sprintf("branch:%d:%s:%s", page, orZero(r.FormValue("levels")), r.FormValue("self")), nil
	}
	return fmt.Sprintf("page:%d", page), nil
}

func orZero(number string) string {
	if number == "" {
		return "0"
	}
	return number
}

// findTarget finds the one page that somebody means by a label or an address.
func (s *Server) findTarget(on *site.Site, typed string) (site.PageID, error) {
	path, err := address.Normal("/" + strings.TrimLeft(strings.TrimPrefix(typed, s.settings.Site), "/"))
	if found := address.Resolve(on, path, s.now()); err == nil && typed != "" && found.Page != 0 && !found.Gone {
		return found.Page, nil
	}
	hits := search(on, typed, s.now())
	same := slices.DeleteFunc(slices.Clone(hits), func(h hit) bool { return !strings.EqualFold(h.Label, typed) })
	if len(same) > 0 {
		hits = same
	}
	switch len(hits) {
	case 0:
		return 0, &edit.Refusal{Sentence: fmt.Sprintf("No page has the label or address “%s”.", short(typed))}
	case 1:
		return site.PageID(hits[0].ID), nil
	}
	var addresses []string
	for _, h := range hits[:min(len(hits), 5)] {
		addresses = append(addresses, h.Address)
	}
	return 0, &edit.Refusal{Sentence: fmt.Sprintf("Several pages could be meant by “%s”; write the address of one: %s.", short(typed), strings.Join(addresses, ", "))}
}

// operations turns the intent into operations on a Site, with what was done in words.
func (i *menuIntent) operations(s *site.Site) ([]edit.Op, string, error) {
	if i.do == "make-menu" {
		return []edit.Op{edit.MakeMenu{Menu: i.newMenu, Name: i.form("name")}}, "made the menu “" + short(i.form("name")) + "”", nil
	}
	m := s.Menu(i.menu)
	if m == nil {
		return nil, "", &edit.Conflict{Sentence: "The menu is not there any more."}
	}
	switch i.do {
	case "rename-menu":
		return []edit.Op{edit.RenameMenu{Menu: m.ID, Old: m.Name, New: i.form("name")}}, "renamed the menu “" + short(m.Name) + "”", nil
	case "take-menu":
		return []edit.Op{edit.TakeMenu{Was: edit.MakeMenu{Menu: m.ID}}}, "took the menu “" + short(m.Name) + "” away", nil
	case "put":
		form := edit.EntryForm{ID: i.newEntry, Fields: map[edit.Field]string{edit.Shows: i.shows}}
		if label := i.form("label"); label != "" {
			form.Fields[edit.Label] = label
		}
		return []edit.Op{edit.PutEntries{Gap: i.gap(m), Entries: []edit.EntryForm{form}}}, "put an item into “" + short(m.Name) + "”", nil
	}
	e := m.Entry(i.item)
	if e == nil {
		return nil, "", &edit.Conflict{Sentence: "The item is not in this menu any more."}
	}
	label := "“" + short(s.EntryLabel(e)) + "”"
	switch i.do {
	case "field":
		field := edit.Field(i.form("field"))
		return []edit.Op{edit.EditEntry{Menu: m.ID, Entry: e.ID, Fields: []edit.FieldChange{{Field: field, Old: i.form("old"), New: i.form("new")}}}},
			"changed the item " + label, nil
	case "take":
		return []edit.Op{edit.TakeEntry{Entry: e.ID}}, "took " + label + " out of “" + short(m.Name) + "”; its page stays", nil
	case "nudge":
		to, err := nudgedEntry(m, e, i.form("way"))
		return []edit.Op{edit.MoveEntry{Entry: e.ID, From: edit.GapOf(m, e.ID), To: to}}, "moved the item " + label, err
	case "send":
		number, _ := strconv.ParseInt(i.form("to"), 10, 64)
		return []edit.Op{edit.MoveEntry{Entry: e.ID, From: edit.GapOf(m, e.ID), To: edit.Gap{Menu: site.MenuID(number)}}}, "moved the item " + label + " to another menu", nil
	}
	return nil, "", &edit.Refusal{Sentence: "This edit is not known."}
}

// gap is where a new item goes: after or inside the item at hand, or last.
func (i *menuIntent) gap(m *site.Menu) edit.Gap {
	e := m.Entry(i.item)
	switch {
	case e == nil:
		return edit.Gap{Menu: m.ID}
	case i.form("way") == "into":
		return edit.Gap{Menu: m.ID, Parent: e.ID}
	}
	return edit.Gap{Menu: m.ID, Parent: e.Parent, After: e.ID}
}

// nudgedEntry is the gap one step up, down, in or out.
func nudgedEntry(m *site.Menu, e *site.Entry, way string) (edit.Gap, error) {
	siblings := edit.Siblings(m, e.Parent)
	at := slices.Index(siblings, e.ID)
	switch {
	case way == "up" && at > 0:
		return edit.Gap{Menu: m.ID, Parent: e.Parent, Before: siblings[at-1]}, nil
	case way == "down" && at < len(siblings)-1:
		return edit.Gap{Menu: m.ID, Parent: e.Parent, After: siblings[at+1]}, nil
	case way == "in" && at > 0:
		return edit.Gap{Menu: m.ID, Parent: siblings[at-1]}, nil
	case way == "out" && e.Parent != 0:
		return edit.Gap{Menu: m.ID, Parent: m.Entry(e.Parent).Parent, After: e.Parent}, nil
	}
	return edit.Gap{}, &edit.Refusal{Sentence: map[string]string{"up": "The item is the first here already.", "down": "The item is the last here already.",
		"in": "There is no item before this one to go into.", "out": "The item is at the top level already."}[way]}
}
