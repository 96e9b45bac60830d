package tree

import (
	"net/http"
	"slices"
	"strconv"

	"vineladder/internal/core/ask"
	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// ask gives the ids of all pages that answer the filter, or of the rows from one page to another, or of a page's
// siblings: what a selection can be made of in one go.
func (s *Area) ask(g grove) desk.DeskHandler {
	return func(w http.ResponseWriter, r *http.Request, d *desk.Desk) error { return s.found(w, r, d, g) }
}

func (s *Area) found(w http.ResponseWriter, r *http.Request, d *desk.Desk, g grove) error {
	var found []site.PageID
	switch number, _ := strconv.ParseInt(r.FormValue("to"), 10, 64); {
	case number != 0:
		open, err := s.Store.OpenBranches(r.Context(), d.Who.ID, g.area)
		if err != nil {
			return err
		}
		found = g.span(d, open, d.Selected, site.PageID(number))
	case !d.Filter.Empty():
		found = slices.DeleteFunc(ask.Find(d.Site, d.Filter, d.Lens), func(id site.PageID) bool {
			return !g.has(d.Site, id)
		})
	default:
		found = d.Site.Children(d.Site.Page(d.Selected).Parent)
	}
	made := desk.Reply{IDs: make([]int64, 0, len(found))}
	for _, id := range found[:min(len(found), desk.SelectLimit)] {
		made.IDs = append(made.IDs, int64(id))
	}
	s.Say(w, http.StatusOK, made)
	return nil
}

// tally says how large a selection is: how many pages it has, and how many below them travel along.
func (s *Area) tally(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	words := tallyWords(d.Site, desk.ReadIDs(r.FormValue("pages")))
	s.Say(w, http.StatusOK, desk.Reply{Facts: &desk.TryFacts{Place: words}})
	return nil
}

func tallyWords(s *site.Site, chosen []site.PageID) string {
	travel := 0
	for _, top := range edit.Tops(s, chosen) {
		travel += 1 + s.Below(top)
	}
	words := count.Number(len(chosen)) + " selected"
	if below := travel - len(chosen); below > 0 {
		words += ", " + count.Number(below) + " more below travel along"
	}
	return words
}

// span gives the pages in the rows between two pages, both included.
func (g grove) span(d *desk.Desk, open map[site.PageID]bool, from, to site.PageID) []site.PageID {
	var pages []site.PageID
	inside := false
	for _, row := range g.rows(d, open, 0, desk.SelectLimit).Rows {
		edge := row.Ghost == "" && (row.ID == from || row.ID == to)
		if (inside || edge) && row.Ghost == "" {
			pages = append(pages, row.ID)
		}
		if edge && (inside || from == to) {
			break
		}
		inside = inside || edge
	}
	return pages
}

// key counts the pages of each shape. It looks at every page, so the screen asks for it by itself, after the rows.
func (s *Area) key(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	counts := ask.Counts(d.Site, d.Filter.Within, d.Lens)
	view := desk.KeyView{Desk: d}
	for _, q := range ask.Questions(d.Site)[:4] {
		view.Lines = append(
			view.Lines,
			desk.KeyLine{Question: q, Count: counts[ask.Shape(q.Key)], On: d.Filter.Question == q.Key},
		)
	}
	s.Render(w, r, "key", view)
	return nil
}
