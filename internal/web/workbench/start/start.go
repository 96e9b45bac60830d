package start

import (
	"fmt"
	"net/http"
	"slices"

	"vineladder/internal/core/check"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
	"vineladder/internal/web/workbench/desk"
)

// How much of each is shown.
const (
	pagesShown   = 8
	newsShown    = 6
	reviewsShown = 5
)

// A view is what waits for a person.
type view struct {
	desk.Screen
	Wait    []desk.Wait
	Recent  []pageLine
	Kept    []pageLine
	Since   string // when they last looked; "" if they never did
	News    []newsLine
	Wrong   int // problems that visitors run into
	Doubts  int
	Came    int // by the person's draft
	Reviews []pageLine
	Due     int // reviews of theirs that are overdue
}

// A pageLine is a page with a way to it.
type pageLine struct {
	Page  *site.Page
	Where string
	Link  string
	Day   string
}

// A newsLine is a publication of somebody else.
type newsLine struct {
	store.Publication
	When string
}

func (s *Area) show(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	v := view{}
	var err error
	if v.Screen, err = s.Screen(r, d, "start"); err != nil {
		return err
	}
	asked, err := s.ToApprove(r, d)
	if err != nil {
		return err
	}
	v.Wait = s.Waits(d, v.Drafts, asked)
	for _, fill := range []func(*http.Request, *view) error{s.pages, s.news, s.problems, s.reviews} {
		if err := fill(r, &v); err != nil {
			return err
		}
	}
	name := "start"
	if r.Header.Get("X-Part") != "" {
		name = "start-parts"
	}
	s.Render(w, r, name, v)
	return nil
}

// pages finds what the person opened last, and keeps at hand.
func (s *Area) pages(r *http.Request, v *view) error {
	recent, err := s.Store.Recent(r.Context(), v.Who.ID)
	if err != nil {
		return err
	}
	kept, err := s.Store.KeptBy(r.Context(), v.Who.ID)
	if err != nil {
		return err
	}
	v.Recent, v.Kept = v.lines(recent, pagesShown), v.lines(kept, len(kept))
	return nil
}

func (v *view) lines(pages []site.PageID, most int) (lines []pageLine) {
	for _, id := range pages {
		if len(lines) < most && v.Site.InTree(id) {
			lines = append(lines, pageLine{
				Page: v.Site.Page(id), Where: desk.Place(v.Site, id), Link: v.ThingLink(site.PageThing(id)),
			})
		}
	}
	return lines
}

// news finds what others have published since the person last looked.
func (s *Area) news(r *http.Request, v *view) error {
	since, err := s.Store.Look(r.Context(), v.Who.ID)
	if err != nil {
		return err
	}
	if since.IsZero() {
		since = v.Now.AddDate(0, 0, -7)
	}
	v.Since = desk.LongMoment(v.Site, since)
	found, err := s.Store.History(r.Context(), store.Search{From: since, Limit: 3 * newsShown})
	if err != nil {
		return err
	}
	for _, p := range found {
		if p.By != v.Who.Name && len(v.News) < newsShown && !v.Veiled {
			v.News = append(v.News, newsLine{p, desk.LongMoment(v.Site, p.At)})
		}
	}
	return nil
}

func (s *Area) problems(r *http.Request, v *view) error {
	found, err := s.Problems(r, v.Desk)
	if err != nil {
		return err
	}
	for _, p := range found.All {
		switch check.WeightOf(p) {
		case check.Wrong:
			v.Wrong++
		case check.Doubt:
			v.Doubts++
		}
	}
	v.Came = len(found.New)
	return nil
}

// reviews finds the pages that the person looks after and that are due.
func (s *Area) reviews(_ *http.Request, v *view) error {
	for _, d := range v.Care.DuePages(v.Draft.Base.Site, v.Now) {
		if !d.Overdue(v.Now) || !slices.Contains(v.Filter.Mine, d.At.Owner) {
			continue
		}
		if v.Due++; len(v.Reviews) < reviewsShown {
			link := v.Link("/tree", "page", fmt.Sprint(d.Page.ID))
			v.Reviews = append(v.Reviews, pageLine{Page: d.Page, Link: link, Day: v.DayOf(d.Due)})
		}
	}
	return nil
}

// keep puts the selected page at the person's hand, or away.
func (s *Area) keep(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	kept := r.FormValue("kept") == "yes"
	if err := s.Store.Keep(r.Context(), d.Who.ID, d.Selected, kept); err != nil {
		return err
	}
	said := "“" + desk.Short(d.Site.Page(d.Selected).Label) + "” is at hand on the first screen."
	if !kept {
		said = "“" + desk.Short(d.Site.Page(d.Selected).Label) + "” is no longer at hand."
	}
	s.Say(w, http.StatusOK, desk.Reply{Said: said})
	return nil
}

// Hour greets by the time of the day where the site is.
func (v view) Hour() string {
	switch hour := v.Now.In(v.Site.Settings().Zone).Hour(); {
	case hour < 5, hour >= 18:
		return "Good evening"
	case hour < 12:
		return "Good morning"
	}
	return "Good day"
}
