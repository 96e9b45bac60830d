package tree

import (
	"fmt"
	"time"

	"vineladder/internal/core/ask"
	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// A ladder is the tree as rows, of which one window is rendered.
type ladder struct {
	Rows  []rung
	From  int // index of the first row
	Total int
	Index int // of the selected row; -1 if its branch is closed
	Hits  int // pages that answer the filter's question; -1 without a filter
}

// A rung is one row.
type rung struct {
	ID        site.PageID
	Row       int // from 1, over all rows
	Level     int // from 1, as WAI-ARIA counts
	Pos, Size int
	Rails     []rail // one for each level above
	Label     string
	Segment   string
	Shape     string // "full", "half", "stub", "clock"
	Cause     bool   // what makes the shape is set on this page
	Words     string // the shape in words
	Audience  string // set here, in words; empty: inherited
	Reached   bool   // by the lens
	Not       string // why not, in words
	Change    string // New, Moved, Edited, Binned
	Ghost     string // a row that only marks an old place: what became of it
	Kids      bool
	Open      bool
	Hit       bool   // answers the filter's question; the others are there to show where it stands
	Rule      string // how the pages inside stand, where not by hand
	Pin       string
	Selected  bool
	Gathers   bool // a topic, or a topic list
	Topic     bool
	File      bool
	Folder    bool
	Counts    bool   // the area says how many pages there are to each topic, or what a file holds
	Counted   string // how many
}

type rail struct{ Double bool }

// A ghost marks the place where a page stands in public and not in the draft.
type ghost struct {
	page  *site.Page
	after site.PageID // the sibling before it, in public
	words string
	kind  string
}

func (c *climb) rung(p *site.Page, pos, size, row int, path []*site.Page) rung {
	s := c.d.Site
	r := rung{
		ID: p.ID, Row: row + 1, Level: len(path) + 1, Pos: pos, Size: size, Rails: rails(path), Label: p.Label,
		Segment: lastPart(p), Change: c.changed[p.ID], Kids: len(c.kids(s, p.ID)) > 0, Selected: p.ID == c.d.Selected,
	}
	r.Open = r.Kids && c.isOpen(p)
	r.Gathers, r.Topic, r.Counts = p.Gathers(), p.IsTopic(), c.tally != nil || c.keeps != nil
	r.File, r.Folder = p.IsFile(), p.IsFolder()
	switch {
	case c.keeps != nil:
		r.Counted = fileWords(s, p)
	case c.tally != nil && p.IsTopic():
		r.Counted = countWords(c.tally.Of(p.ID))
	case c.tally != nil:
		r.Counted = count.Of(s.Below(p.ID), "topic", "topics")
	}
	r.Hit, r.Rule, r.Pin = c.hits[p.ID], ruleMark(s, p), string(p.Pin)
	r.Audience = s.AudienceWords(p.Audience)
	r.Shape, r.Words, r.Cause = c.shape(p)
	state := c.panel.At(s, p.ID)
	if r.Reached = state.Reachable() != 0 || p.IsFolder() && state.Online&state.Admitted != 0; !r.Reached &&
		state.Online != 0 {
		r.Not = "not seen"
	}
	return r
}

// shape draws a row. Among topics it doesn't count whether what stands above their lists is listed.
func (c *climb) shape(p *site.Page) (name, words string, cause bool) {
	drawn, by := ask.ShapeOf(c.d.Site, p.ID, c.d.Lens.At)
	if c.tally != nil && drawn == ask.ShapeHalf && by != nil && !by.Gathers() {
		return string(ask.ShapeFull), "Online", false
	}
	if drawn == ask.ShapeHalf && inFiles(p) { // menus are no place that files are missed in
		return string(ask.ShapeFull), "Online", false
	}
	return shape(c.d.Site, p, c.d.Lens.At)
}

// doubled says whether a rail lies below a page with an audience of its own.
func doubled(path []*site.Page) bool {
	for _, p := range path {
		if p.Audience != site.AudienceInherited && p.Audience != site.AudienceEveryone {
			return true
		}
	}
	return false
}

func rails(path []*site.Page) []rail {
	made := make([]rail, len(path))
	for i := range path {
		made[i].Double = doubled(path[:i+1])
	}
	return made
}

// shape draws the effect of status, window and listing, and says whether its cause is set on this page.
func shape(s *site.Site, p *site.Page, at time.Time) (name, words string, cause bool) {
	shape, by := ask.ShapeOf(s, p.ID, at)
	cause = by != nil && by.ID == p.ID
	switch {
	case shape == ask.ShapeClock:
		words = windowWords(s, by, at, cause)
	case shape == ask.ShapeStub && cause:
		words = "Not online"
	case shape == ask.ShapeStub:
		words = "Not online: “" + by.Label + "” is not"
	case shape == ask.ShapeHalf && cause:
		words = "Not listed"
	case shape == ask.ShapeHalf:
		words = "Not listed: “" + by.Label + "” is not"
	case !p.LiveUntil.IsZero():
		words, cause = "Online until "+desk.Day(s, p.LiveUntil), true
	default:
		words = "Online and listed"
	}
	return string(shape), words, cause
}

// ruleMark says how the pages inside stand, where that is not by hand.
func ruleMark(s *site.Site, p *site.Page) string {
	if p.Sort == site.SortManual || p.Sort == "" || len(s.Children(p.ID)) == 0 {
		return ""
	}
	return edit.RuleWords(p.Sort)
}

func windowWords(s *site.Site, p *site.Page, at time.Time, own bool) string {
	words := "Online from " + desk.Day(s, p.LiveFrom)
	if !p.LiveUntil.IsZero() && !at.Before(p.LiveUntil) {
		words = "Was online until " + desk.Day(s, p.LiveUntil)
	}
	if !own {
		words += ", with “" + p.Label + "”"
	}
	return words
}

// changes gives what the draft did to each page, and the ghosts of places that it emptied.
func changes(d *desk.Desk) (map[site.PageID]string, map[site.PageID][]ghost) {
	changed, ghosts := map[site.PageID]string{}, map[site.PageID][]ghost{}
	was, is := d.Draft.Base.Site, d.Draft.Site
	for _, c := range site.Changes(was, is) {
		if c.Is == nil {
			continue
		}
		id := c.Is.ID
		switch {
		case c.Was == nil || c.Was.Binned && !c.Is.Binned:
			changed[id] = "New"
		case c.Is.Binned:
			changed[id] = "Binned"
		case c.Was.Parent != c.Is.Parent || c.Was.Rank != c.Is.Rank:
			changed[id] = "Moved"
		default:
			changed[id] = "Edited"
		}
		if c.Was == nil || c.Was.Binned || !c.Is.Binned && c.Was.Parent == c.Is.Parent || d.State == "now" {
			continue
		}
		g := ghost{page: c.Was, words: "in the bin after publishing", kind: "Binned"}
		if !c.Is.Binned {
			g.words, g.kind = fmt.Sprintf("moved to “%s”", is.Page(c.Is.Parent).Label), "Moved"
		}
		for before, _ := was.Neighbours(id); before != 0; before, _ = was.Neighbours(before) {
			if p := is.Page(before); p != nil && !p.Binned && p.Parent == c.Was.Parent {
				g.after = before
				break
			}
		}
		ghosts[c.Was.Parent] = append(ghosts[c.Was.Parent], g)
	}
	return changed, ghosts
}

// lastPart is what a row says of the address: its last part, or the whole where it is fixed.
func lastPart(p *site.Page) string {
	if p.OwnAddress != "" {
		return "= " + p.OwnAddress
	}
	return "/" + p.Segment
}
