package reviews

import (
	"fmt"
	"net/http"
	"slices"

	"vineladder/internal/core/care"
	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/web/workbench/desk"
)

// linesLimit bounds the pages that are sent at once; the longest overdue come first.
const linesLimit = 200

// A view is the pages that are due, by who looks after them.
type view struct {
	desk.Screen
	Of      string // the owner that was asked for; "" for all
	Owners  []owner
	Lines   []line
	Count   int
	Overdue int
}

// An owner is somebody who looks after pages, with how many are due.
type owner struct {
	Owner        site.Owner
	Name         string
	Due, Overdue int
	On           bool
}

// A line is a page that is due, or soon will be.
type line struct {
	Page    *site.Page
	Where   string
	Owner   string
	Gone    bool // the owner that is set is gone
	Day     string
	Overdue bool
	May     bool
	Link    string
}

func (s *Area) show(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	v := view{Of: r.FormValue("of")}
	var err error
	if v.Screen, err = s.Screen(r, d, "reviews"); err != nil {
		return err
	}
	due := v.Care.DuePages(d.Draft.Base.Site, v.Now)
	owners := make([]site.Owner, len(due))
	for i := range due {
		owners[i] = due[i].At.Owner
	}
	named, err := s.OwnerNames(r.Context(), d.Site, owners...)
	if err != nil {
		return err
	}
	v.fill(due, named)
	name := "reviews"
	if r.Header.Get("X-Part") != "" {
		name = "reviews-parts"
	}
	s.Render(w, r, name, v)
	return nil
}

// fill finds the pages in what is public, as far as the person may know of them.
func (v *view) fill(due []care.DuePage, named func(site.Owner) string) {
	on := v.Draft.Base.Site
	owners := map[site.Owner]*owner{}
	for _, d := range due {
		of := owners[d.At.Owner]
		if of == nil {
			of = &owner{Owner: d.At.Owner, Name: named(d.At.Owner), On: v.Of == string(d.At.Owner)}
			owners[d.At.Owner] = of
		}
		of.Due++
		if d.Overdue(v.Now) {
			of.Overdue++
		}
		if v.Of != "" && !of.On {
			continue
		}
		v.Count++
		if d.Overdue(v.Now) {
			v.Overdue++
		}
		v.Lines = append(v.Lines, line{
			Page: d.Page, Owner: of.Name, Gone: d.At.GoneOwner != "", Day: v.DayOf(d.Due), Overdue: d.Overdue(v.Now),
		})
	}
	for _, of := range owners {
		v.Owners = append(v.Owners, *of)
	}
	slices.SortFunc(v.Owners, func(a, b owner) int { return b.Overdue - a.Overdue })
	v.Lines = v.Lines[:min(len(v.Lines), linesLimit)]
	for i := range v.Lines {
		p := v.Lines[i].Page
		v.Lines[i].Where, v.Lines[i].Link = desk.Place(on, p.ID), v.Link("/tree", "page", fmt.Sprint(p.ID))
		v.Lines[i].May = v.MayOn(string(site.ActionEdit), site.PageThing(p.ID)).Yes
	}
}

// stillRight takes somebody's word for several pages.
func (s *Area) stillRight(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	if err := r.ParseForm(); err != nil {
		return err
	}
	ids := r.Form["id"]
	switch {
	case len(ids) == 0:
		return &edit.Refusal{Sentence: "Nothing is ticked."}
	case len(ids) > linesLimit:
		return &edit.Refusal{Sentence: "These are too many at once."}
	}
	for _, typed := range ids {
		id := desk.Number[site.PageID](typed)
		if !d.Draft.Base.Site.InTree(id) {
			return &edit.Refusal{Sentence: "A page is not there any more; nothing was said of the others either."}
		}
		if answer := d.MayOn(string(site.ActionEdit), site.PageThing(id)); !answer.Yes {
			return fmt.Errorf("%w: %s", desk.ErrForbidden, answer.Why)
		}
	}
	for _, typed := range ids {
		if err := s.Store.StillRight(r.Context(), desk.Number[site.PageID](typed), false, d.Who); err != nil {
			return err
		}
	}
	s.Say(
		w,
		http.StatusOK,
		desk.Reply{Said: "You said that " + count.Of(len(ids), "page is", "pages are") + " still right."},
	)
	return nil
}
