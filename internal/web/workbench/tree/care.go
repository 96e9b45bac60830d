package tree

import (
	"fmt"
	"net/http"
	"slices"

	"vineladder/internal/core/care"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
	"vineladder/internal/web/workbench/desk"
)

// careOf is who looks after a page, and when somebody looks next whether it is still right.
type careOf struct {
	Words   string // who looks after it, and where that is set
	Due     string // when it is due; "" if it never is
	Overdue bool
	Said    []store.Review
	People  []desk.Option
	Roles   []desk.Option
	Every   []desk.Option
}

// reviewsShown are the last reviews that a sheet tells.
const reviewsShown = 3

func (s *Area) careOn(r *http.Request, d *desk.Desk, p *site.Page) (made careOf, err error) {
	if made.Said, err = s.Store.ReviewsOf(r.Context(), p.ID, reviewsShown); err != nil {
		return made, err
	}
	at := d.Care.At(d.Site, p.ID)
	named, err := s.OwnerNames(r.Context(), d.Site, at.Owner, p.Owner)
	if err != nil {
		return made, err
	}
	made.Words = "Nobody looks after it."
	if at.From != nil {
		made.Words = named(at.Owner) + " looks after it"
		if at.From.ID != p.ID {
			made.Words += fmt.Sprintf(", as set on “%s”", at.From.Label)
		}
		made.Words += "."
	}
	if at.GoneOwner != "" {
		made.Words += " The owner that is set is gone, so the next above has it."
	}
	if due, ok := d.Care.Due(at, p, d.Now); ok {
		made.Overdue = due.Before(d.Now)
		made.Due = due.In(d.Site.Settings().Zone).Format("2 January 2006")
	}
	if login, is := p.Owner.Person(); is { // the others are asked for when somebody chooses
		words := named(p.Owner)
		if d.Care.Gone[login] {
			words += ", who is gone"
		}
		made.People = append(made.People, desk.Option{Value: string(p.Owner), Words: words})
	}
	for _, role := range d.Site.Roles() {
		made.Roles = append(made.Roles, desk.Option{Value: string(site.RoleOwner(role.Key)), Words: role.Name})
	}
	for _, every := range site.Reviews()[1:] {
		made.Every = append(made.Every, desk.Option{Value: string(every), Words: care.EveryWords(every)})
	}
	return made, nil
}

// isKept says whether the person keeps the selected page at hand.
func (s *Area) isKept(r *http.Request, d *desk.Desk) (bool, error) {
	kept, err := s.Store.KeptBy(r.Context(), d.Who.ID)
	return slices.Contains(kept, d.Selected), err
}

// stillRight takes somebody's word that a page is still right, or it and all below.
func (s *Area) stillRight(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	if answer := d.MayHere(string(site.ActionEdit)); !answer.Yes {
		return fmt.Errorf("%w: %s", desk.ErrForbidden, answer.Why)
	}
	if d.Draft.Base.Site.Page(d.Selected) == nil {
		return fmt.Errorf("%w: the page is not public yet, so nobody can have found it right", desk.ErrForbidden)
	}
	if err := d.MustBeToday(); err != nil {
		return err
	}
	branch := r.FormValue("branch") == "yes"
	if err := s.Store.StillRight(r.Context(), d.Selected, branch, d.Who); err != nil {
		return err
	}
	said := "You said that “" + desk.Short(d.Site.Page(d.Selected).Label) + "” is still right"
	if branch {
		said += ", with all below it"
	}
	s.Say(w, http.StatusOK, desk.Reply{Said: said + "."})
	return nil
}
