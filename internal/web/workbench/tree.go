package workbench

import (
	"cmp"
	"net/http"
	"strconv"

	"vineladder/internal/core/ask"
	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
)

// treeView is the tree area: the frame, the ladder, the sheet and what will change.
type treeView struct {
	screen
	Ladder ladder
	Sheet  sheet
	Strip  []tick
	Asks   []ask.Question
}

// Begins says that nothing stands in the tree yet but what was there from the beginning.
func (v treeView) Begins() bool {
	return v.Site.Count() <= 1+len(edit.Specials(v.Site.Settings()))
}

// A dock is the line that says what will change.
type dock struct {
	Sentences []consequence.Sentence
	Edits     int
	Held      int
	Undo      string
	Redo      string
}

const windowRows = 80

// tree renders the tree area, or with X-Part only its parts.
func (s *Server) tree(w http.ResponseWriter, r *http.Request, d *desk) error {
	if r.FormValue("page") == "" {
		last, err := s.store.Place(r.Context(), d.Who.ID, "tree")
		if err != nil {
			return err
		}
		if d.Site.InTree(last) {
			d.Selected = last
		}
	} else if err := s.store.SetPlace(r.Context(), d.Who.ID, "tree", d.Selected); err != nil {
		return err
	}
	open, err := s.store.OpenBranches(r.Context(), d.Who.ID, "tree")
	if err != nil {
		return err
	}
	from := -1
	if n, err := strconv.Atoi(r.FormValue("from")); err == nil {
		from = max(0, n)
	} else if missing := closedAbove(d.Site, d.Selected, open); len(missing) > 0 {
		if err := s.store.SetOpen(r.Context(), d.Who.ID, "tree", true, missing...); err != nil {
			return err
		}
		for _, id := range missing {
			open[id] = true
		}
	}
	view := treeView{screen: screen{desk: d}, Ladder: d.rows(open, from, windowRows)}
	if r.Header.Get("X-Part") == "rows" {
		s.render(w, r, "rows", view)
		return nil
	}
	if view.screen, err = s.screen(r, d, "tree"); err != nil {
		return err
	}
	view.Sheet, view.Strip, view.Asks = s.sheet(d), s.strip(d), ask.Questions()
	if r.Header.Get("X-Part") != "" {
		s.render(w, r, "parts", view)
		return nil
	}
	s.render(w, r, "tree", view)
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

// changes says what will change, at the moment of the lens or at the one that the draft is set to. Now is the usual
// moment, and computed once for all who ask.
func (s *Server) changes(r *http.Request, d *desk) ([]consequence.Sentence, error) {
	if d.At == "" && d.Draft.Planned.IsZero() && !d.Veiled {
		return s.store.Consequences(r.Context(), d.Draft)
	}
	viewers, err := s.viewers(r, d)
	if err != nil {
		return nil, err
	}
	return s.store.Compare(r.Context(), d.Draft.Base.Site, d.Draft.After(s.now()), viewers)
}

func (s *Server) dock(r *http.Request, d *desk) (dock, error) {
	made := dock{Edits: len(d.Draft.Steps), Held: len(d.Draft.Held)}
	var err error
	made.Sentences, err = s.changes(r, d)
	if made.Sentences = d.readable(made.Sentences); err != nil {
		return dock{}, err
	}
	if at := store.LastOf(d.Draft.Steps, d.Who.ID); at >= 0 {
		made.Undo = d.Draft.Steps[at].Said
	}
	for _, step := range d.Draft.Undone {
		if step.By == d.Who.ID {
			made.Redo = step.Said
			break
		}
	}
	return made, nil
}

func (s *Server) openBranch(w http.ResponseWriter, r *http.Request) {
	id, _ := strconv.ParseInt(r.FormValue("page"), 10, 64)
	if err := s.store.SetOpen(r.Context(), who(r).ID, "tree", r.FormValue("open") == "yes", site.PageID(id)); err != nil {
		s.refuse(w, r, err)
		return
	}
	s.say(w, http.StatusOK, reply{})
}

// short bounds what a step says of a label.
func short(label string) string {
	if runes := []rune(label); len(runes) > 60 {
		return string(runes[:59]) + "…"
	}
	return label
}

func said(verb string, p *site.Page) string {
	return verb + " “" + short(cmp.Or(p.Label, p.Key)) + "”"
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
