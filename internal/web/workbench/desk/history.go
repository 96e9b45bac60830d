package desk

import (
	"net/http"
	"regexp"
	"slices"
	"strings"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
)

// A HistoryLine is a publication that changed one thing, as its sheet tells it.
type HistoryLine struct {
	When, By, Reason string
	Did              []string // what was done to the thing: from what to what
	Then, Before     string   // where the site is as it was after and before it
}

// historyShown are the publications that a sheet tells.
const historyShown = 5

// history tells the last publications of a thing: who, when, from what to what, and why.
func (s *Server) history(
	r *http.Request,
	d *Desk,
	asked store.Search,
	about func(edit.Op) bool,
) ([]HistoryLine, error) {
	if d.Veiled {
		return nil, nil
	}
	asked.Limit = historyShown
	found, err := s.Store.History(r.Context(), asked)
	if err != nil {
		return nil, err
	}
	lines := make([]HistoryLine, len(found))
	for i, p := range found {
		ops, err := s.Store.PublishedOps(r.Context(), p.Revision)
		if err != nil {
			return nil, err
		}
		line := HistoryLine{When: LongMoment(d.Site, p.At), By: p.By, Reason: p.Reason}
		for _, op := range ops {
			if about(op) {
				line.Did = append(line.Did, didWords(op)...)
			}
		}
		if len(line.Did) == 0 {
			line.Did = p.Said[:min(len(p.Said), 3)]
		}
		line.Then, line.Before = d.ThenLink(p.Revision), d.ThenLink(p.Revision-1)
		lines[i] = line
	}
	return lines, nil
}

// namesPages finds values that name pages or menus by number, which says nothing to a person; and wordsLimit is the
// length from which two values are not told.
var namesPages = regexp.MustCompile(`\b(page|branch|topic|menu):\d`)

const wordsLimit = 120

// didWords says what an operation did, from what to what where it set fields.
func didWords(op edit.Op) (words []string) {
	for _, c := range edit.FieldsSet(op) {
		switch {
		case edit.IsDetail(c.Field), c.Field == edit.FieldText, namesPages.MatchString(c.Old + c.New),
			len(c.Old)+len(c.New) > wordsLimit:
			words = append(words, "changed the "+c.Field.Words())
		default:
			words = append(
				words,
				c.Field.Words()+": “"+strings.TrimPrefix(c.Old, "~")+"” → “"+strings.TrimPrefix(c.New, "~")+"”",
			)
		}
	}
	return words
}

// A pastView is the last publications of one thing.
type pastView struct {
	*Desk
	Past []HistoryLine
}

// historyOf answers with the last publications of a page, a menu with its items, or a block with its places.
func (s *Server) historyOf(w http.ResponseWriter, r *http.Request, d *Desk) error {
	v := pastView{Desk: d}
	menu, block := Number[site.MenuID](r.FormValue("of-menu")), Number[site.BlockID](r.FormValue("of-block"))
	var err error
	switch {
	case menu != 0:
		v.Past, err = s.history(
			r,
			d,
			store.Search{Menu: menu},
			func(op edit.Op) bool { return edit.OfMenu(op, menu) },
		)
	case block != 0:
		asked := store.Search{Block: block}
		for _, p := range d.Site.PlacementsOf(block) {
			asked.Places = append(asked.Places, p.ID)
			if p.Set != 0 {
				asked.Sets = append(asked.Sets, p.Set)
			}
		}
		v.Past, err = s.history(r, d, asked, func(op edit.Op) bool {
			ofSet := func(id site.SetID) bool { return edit.OfSet(op, id) }
			return edit.OfBlock(op, block) || slices.ContainsFunc(asked.Sets, ofSet)
		})
	default:
		if err := d.MustRead(); err != nil {
			return err
		}
		v.Past, err = s.history(r, d, store.Search{Page: d.Selected}, func(op edit.Op) bool {
			return edit.IsAbout(op, d.Selected)
		})
	}
	if err != nil {
		return err
	}
	s.Render(w, r, "past-lines", v)
	return nil
}
