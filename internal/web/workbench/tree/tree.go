package tree

import (
	"cmp"
	"net/http"
	"slices"
	"strconv"

	"vineladder/internal/core/ask"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/grid"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// treeView is the area of the tree, or of the topics: the frame, the ladder, the sheet and what will change.
type treeView struct {
	desk.Screen
	Ladder ladder
	Sheet  sheet
	Strip  []desk.Tick
	Asks   []askGroup
	Topics bool // the area is that of the topics
	Files  bool // the area is that of the files

	Thumbs []thumbnail // the pictures beside the selected file
	Empty  bool        // there is no topic list yet
}

// TableRows are the pages of a selection that one table can have.
func (v treeView) TableRows() int { return grid.RowLimit }

// TagWords says what giving topics is called where the person is.
func (v treeView) TagWords() string {
	if v.Topics {
		return "Add a page to it"
	}
	return "Add a topic"
}

// What says what the rows of the area are.
func (v treeView) What() string {
	switch {
	case v.Topics:
		return "topic"
	case v.Files:
		return "file"
	}
	return "page"
}

// Title names the area.
func (v treeView) Title() string {
	switch {
	case v.Topics:
		return "Topics"
	case v.Files:
		return "Files"
	}
	return "Tree"
}

// SKOS are the formats in which a topic list goes out, by their names.
func (treeView) SKOS() map[string]string {
	return map[string]string{"turtle": "Turtle", "xml": "RDF/XML", "json": "JSON-LD"}
}

// An askGroup is some questions that are offered together.
type askGroup struct {
	Group     string
	Questions []ask.Question
}

func asksOf(s *site.Site) (groups []askGroup) {
	for _, q := range ask.Questions(s) {
		if n := len(groups); n == 0 || groups[n-1].Group != q.Group {
			groups = append(groups, askGroup{Group: q.Group})
		}
		last := &groups[len(groups)-1]
		last.Questions = append(last.Questions, q)
	}
	return groups
}

// AboutTopic is the topic that the filter asks for; nil if it asks for any.
func (v treeView) AboutTopic() *site.Page { return v.Site.Page(v.Filter.Topic) }

// ladder renders an area, or with X-Part only its parts.
func (s *Area) ladder(g grove) desk.DeskHandler {
	return func(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
		if err := s.choose(r, d, g); err != nil {
			return err
		}
		open, err := s.Store.OpenBranches(r.Context(), d.Who.ID, g.area)
		if err != nil {
			return err
		}
		tops, from := g.tops(d.Site), -1
		if n, err := strconv.Atoi(r.FormValue("from")); err == nil {
			from = max(0, n)
		} else if missing := closedAbove(d.Site, tops, d.Selected, open); len(missing) > 0 {
			if err := s.Store.SetOpen(r.Context(), d.Who.ID, g.area, true, missing...); err != nil {
				return err
			}
			for _, id := range missing {
				open[id] = true
			}
		}
		view := treeView{
			Screen: desk.Screen{
				Desk: d,
			}, Topics: g.area == topicGrove.area, Files: g.keeps != nil, Empty: len(tops) == 0,
			Ladder: g.rows(d, open, from, desk.WindowRows),
		}
		if r.Header.Get("X-Part") == "rows" {
			s.Render(w, r, "rows", view)
			return nil
		}
		if view.Screen, err = s.Screen(r, d, g.area); err != nil {
			return err
		}
		if view.Wrong, err = s.ProblemsOn(r, d, site.PageThing(d.Selected)); err != nil {
			return err
		}
		view.Sheet, view.Strip, view.Asks = s.sheet(d), s.Strip(d), asksOf(d.Site)
		if view.Sheet.Links, err = s.links(r.Context(), d, view.Sheet.Page); err != nil {
			return err
		}
		if view.Sheet.Care, err = s.careOn(r, d, view.Sheet.Page); err != nil {
			return err
		}
		if view.Sheet.Kept, err = s.isKept(r, d); err != nil {
			return err
		}
		if view.Sheet.Others, err = s.Others(r, d); err != nil {
			return err
		}
		if view.Files {
			view.Thumbs = thumbnails(d, d.Selected)
		}
		part := "tree"
		if r.Header.Get("X-Part") != "" {
			part = "parts"
		}
		s.Render(w, r, part, view)
		return nil
	}
}

// choose selects what was asked for, else what was selected last, else the first that there is.
func (s *Area) choose(r *http.Request, d *desk.Desk, g grove) error {
	if r.FormValue("page") != "" && (g.has(d.Site, d.Selected) || d.InBin != 0) {
		return s.Store.SetPlace(r.Context(), d.Who.ID, g.area, d.Selected)
	}
	last, err := s.Store.Place(r.Context(), d.Who.ID, g.area)
	if tops := g.tops(d.Site); g.has(d.Site, last) {
		d.Selected = last
	} else if len(tops) > 0 {
		d.Selected = tops[0]
	}
	return err
}

// closedAbove gives the pages above one that must open for it to be in sight in the ladder of some branches.
func closedAbove(s *site.Site, tops []site.PageID, id site.PageID, open map[site.PageID]bool) []site.PageID {
	var closed []site.PageID
	for p := s.Page(id); p.Parent != 0 && !slices.Contains(tops, p.ID); {
		if p = s.Page(p.Parent); !open[p.ID] && p.Parent != 0 {
			closed = append(closed, p.ID)
		}
	}
	return closed
}

func (s *Area) openBranch(g grove) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		id, _ := strconv.ParseInt(r.FormValue("page"), 10, 64)
		err := s.Store.SetOpen(r.Context(), desk.Who(r).ID, g.area, r.FormValue("open") == "yes", site.PageID(id))
		if err != nil {
			s.Refuse(w, r, err)
			return
		}
		s.Say(w, http.StatusOK, desk.Reply{})
	}
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
