package tree

import (
	"cmp"
	"net/http"
	"strconv"

	"vineladder/internal/core/ask"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// treeView is the tree area: the frame, the ladder, the sheet and what will change.
type treeView struct {
	desk.Screen
	Ladder ladder
	Sheet  sheet
	Strip  []desk.Tick
	Asks   []ask.Question
}

// tree renders the tree area, or with X-Part only its parts.
func (s *Area) tree(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	if r.FormValue("page") == "" {
		last, err := s.Store.Place(r.Context(), d.Who.ID, "tree")
		if err != nil {
			return err
		}
		if d.Site.InTree(last) {
			d.Selected = last
		}
	} else if err := s.Store.SetPlace(r.Context(), d.Who.ID, "tree", d.Selected); err != nil {
		return err
	}
	open, err := s.Store.OpenBranches(r.Context(), d.Who.ID, "tree")
	if err != nil {
		return err
	}
	from := -1
	if n, err := strconv.Atoi(r.FormValue("from")); err == nil {
		from = max(0, n)
	} else if missing := closedAbove(d.Site, d.Selected, open); len(missing) > 0 {
		if err := s.Store.SetOpen(r.Context(), d.Who.ID, "tree", true, missing...); err != nil {
			return err
		}
		for _, id := range missing {
			open[id] = true
		}
	}
	view := treeView{Screen: desk.Screen{Desk: d}, Ladder: rows(d, open, from, desk.WindowRows)}
	if r.Header.Get("X-Part") == "rows" {
		s.Render(w, r, "rows", view)
		return nil
	}
	if view.Screen, err = s.Screen(r, d, "tree"); err != nil {
		return err
	}
	view.Sheet, view.Strip, view.Asks = s.sheet(d), s.Strip(d), ask.Questions()
	if r.Header.Get("X-Part") != "" {
		s.Render(w, r, "parts", view)
		return nil
	}
	s.Render(w, r, "tree", view)
	return nil
}

// closedAbove gives the ancestors that must open for a page to be in sight.
func closedAbove(s *site.Site, id site.PageID, open map[site.PageID]bool) []site.PageID {
	var closed []site.PageID
	for p := s.Page(s.Page(id).Parent); p != nil; p = s.Page(p.Parent) {
		if !open[p.ID] && p.Parent != 0 {
			closed = append(closed, p.ID)
		}
	}
	return closed
}

func (s *Area) openBranch(w http.ResponseWriter, r *http.Request) {
	id, _ := strconv.ParseInt(r.FormValue("page"), 10, 64)
	if err := s.Store.SetOpen(r.Context(), desk.Who(r).ID, "tree", r.FormValue("open") == "yes",
		site.PageID(id)); err != nil {
		s.Refuse(w, r, err)
		return
	}
	s.Say(w, http.StatusOK, desk.Reply{})
}

func said(verb string, p *site.Page) string {
	return verb + " “" + desk.Short(cmp.Or(p.Label, p.Key)) + "”"
}

// settingVerb says what setting a field does.
func settingVerb(field edit.Field, value string) string {
	switch {
	case field == edit.FieldLabel:
		return "renamed"
	case field == edit.FieldText:
		return "wrote the text of"
	case field == edit.FieldStatus && value == string(site.StatusLive):
		return "set live"
	case field == edit.FieldStatus:
		return "took offline"
	case field == edit.FieldListed && value == "yes":
		return "listed"
	case field == edit.FieldListed:
		return "unlisted"
	case field == edit.FieldPin && value == "":
		return "unpinned"
	}
	return "changed the " + field.Words() + " of"
}
