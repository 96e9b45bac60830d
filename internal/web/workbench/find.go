package workbench

import (
	"net/http"
	"strconv"

	"vineladder/internal/core/ask"
	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
)

// selectLimit bounds the pages that one selection can hold, so that it fits into one request.
const selectLimit = 100_000

// ask gives the ids of all pages that answer the filter, or of the rows from one page to another, or of a page's
// siblings: what a selection can be made of in one go.
func (s *Server) ask(w http.ResponseWriter, r *http.Request, d *desk) error {
	var found []site.PageID
	switch number, _ := strconv.ParseInt(r.FormValue("to"), 10, 64); {
	case number != 0:
		open, err := s.store.OpenBranches(r.Context(), d.Who.ID, "tree")
		if err != nil {
			return err
		}
		found = d.span(open, d.Selected, site.PageID(number))
	case !d.Filter.Empty():
		found = ask.Find(d.Site, d.Filter, d.Lens)
	default:
		found = d.Site.Children(d.Site.Page(d.Selected).Parent)
	}
	made := reply{IDs: make([]int64, 0, len(found))}
	for _, id := range found[:min(len(found), selectLimit)] {
		made.IDs = append(made.IDs, int64(id))
	}
	s.say(w, http.StatusOK, made)
	return nil
}

// tally says how large a selection is: how many pages it has, and how many below them travel along.
func (s *Server) tally(w http.ResponseWriter, r *http.Request, d *desk) error {
	chosen := readIDs(r.FormValue("pages"))
	tops := edit.Tops(d.Site, chosen)
	travel := 0
	for _, top := range tops {
		travel += 1 + d.Site.Below(top)
	}
	words := count.Number(len(chosen)) + " selected"
	if below := travel - len(chosen); below > 0 {
		words += ", " + count.Number(below) + " more below travel along"
	}
	s.say(w, http.StatusOK, reply{Facts: &tryFacts{Place: words}})
	return nil
}

// span gives the pages in the rows between two pages, both included.
func (d *desk) span(open map[site.PageID]bool, from, to site.PageID) []site.PageID {
	var pages []site.PageID
	inside := false
	for _, row := range d.rows(open, 0, selectLimit).Rows {
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

// A keyLine is a shape of the ladder with its name and the number of pages that have it.
type keyLine struct {
	ask.Question
	Count int
	On    bool // the ladder is cut down to it
}

type keyView struct {
	*desk
	Lines []keyLine
	Items []itemKeyLine // in the menus area
}

// key counts the pages of each shape. It looks at every page, so the screen asks for it by itself, after the rows.
func (s *Server) key(w http.ResponseWriter, r *http.Request, d *desk) error {
	counts := ask.Counts(d.Site, d.Filter.Within, d.Lens)
	view := keyView{desk: d}
	for _, q := range ask.Questions()[:4] {
		view.Lines = append(view.Lines, keyLine{q, counts[ask.Shape(q.Key)], d.Filter.Question == q.Key})
	}
	s.render(w, r, "key", view)
	return nil
}

// A tick is a moment on the strip of time.
type tick struct {
	At   string // as the lens takes it
	When string
	What string
	On   bool
}

const stripLimit = 5

// strip gives the next moments at which the visitor gains or loses pages, counted from now whatever moment the lens
// has.
func (s *Server) strip(d *desk) []tick {
	lens := d.Lens
	lens.At = s.now()
	var ticks []tick
	for _, edge := range ask.Edges(d.Site, lens, stripLimit) {
		t := tick{At: formMoment(d.Site, edge.At), When: day(d.Site, edge.At)}
		t.On = t.At == d.At
		switch {
		case edge.Appear == 1:
			t.What = "“" + short(edge.Appears.Label) + "” appears"
		case edge.Appear > 1:
			t.What = count.Pages(edge.Appear) + " appear"
		}
		if edge.Vanish > 0 && t.What != "" {
			t.What += ", "
		}
		switch {
		case edge.Vanish == 1:
			t.What += "“" + short(edge.Vanishes.Label) + "” goes"
		case edge.Vanish > 1:
			t.What += count.Pages(edge.Vanish) + " go"
		}
		ticks = append(ticks, t)
	}
	return ticks
}
