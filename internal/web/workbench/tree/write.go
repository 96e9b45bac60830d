package tree

import (
	"fmt"
	"net/http"

	"vineladder/internal/core/reach"
	"vineladder/internal/core/site"
	"vineladder/internal/core/text"
	"vineladder/internal/web/workbench/desk"
)

// writeView is the text of a page with room, and the real page beside it.
type writeView struct {
	desk.Screen
	Page   *site.Page
	Where  string
	Unread string // why the person may not read the text; "" if they may
	Kept   bool   // a file or folder, which has none
	Others []string
}

// write renders the writing view, or with X-Part only its parts.
func (s *Area) write(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	screen, err := s.Screen(r, d, "write")
	if err != nil {
		return err
	}
	view := writeView{Screen: screen, Page: d.Site.Page(d.Selected), Where: desk.Place(d.Site, d.Selected) + "."}
	view.Kept = inFiles(view.Page)
	if view.Others, err = s.Others(r, d); err != nil {
		return err
	}
	if answer := d.Reads(d.Selected); !answer.Yes {
		view.Unread = answer.Why
	}
	name := "write"
	if r.Header.Get("X-Part") != "" {
		name = "write-parts"
	}
	s.Render(w, r, name, view)
	return nil
}

// parts says where a link leads, what this visitor gets there, and which headings of that page it can lead to.
func (s *Area) parts(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	id := desk.Number[site.PageID](r.FormValue("of"))
	p := d.Site.Page(id)
	switch {
	case p == nil || p.Purged:
		s.Say(
			w,
			http.StatusOK,
			desk.Reply{Error: "The page to which this leads is gone for good: the link will be plain words."},
		)
		return nil
	case !d.Site.InTree(id):
		s.Say(
			w,
			http.StatusOK,
			desk.Reply{Error: fmt.Sprintf("“%s” is in the bin: the link will be plain words.", p.Label)},
		)
		return nil
	}
	answer := desk.Reply{Said: fmt.Sprintf("Leads to “%s”, %s.", p.Label, desk.AddressOf(d.Site, id))}
	if reach.NewPanel(d.Lens).At(d.Site, id).Reachable() == 0 {
		answer.Error = fmt.Sprintf(
			"Leads to “%s”, which %s can’t reach: for them the link is plain words.",
			p.Label,
			d.LensWords(),
		)
	}
	if d.Reads(id).Yes && p.Text != "" {
		kept, err := s.Store.Text(r.Context(), p.Text)
		if err != nil {
			return err
		}
		for _, heading := range text.Headings(kept) {
			answer.Hits = append(answer.Hits, desk.Hit{Key: heading.Anchor, Label: heading.Words})
		}
	}
	s.Say(w, http.StatusOK, answer)
	return nil
}
