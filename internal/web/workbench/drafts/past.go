package drafts

import (
	"fmt"
	"net/http"
	"strings"

	"vineladder/internal/core/consequence"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
	"vineladder/internal/web/workbench/desk"
)

// A comparedView is two moments with what a visitor could tell apart between them.
type comparedView struct {
	desk.Screen
	From, To  moment
	Sentences []consequence.Sentence
	Left      int // role sets that were not compared
}

// A moment is one of two that are compared.
type moment struct {
	Revision int64
	Words    string
}

// compare says what is different between what was public at two publications, as it says it of a draft.
func (s *Area) compare(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	if d.Veiled {
		return fmt.Errorf("%w: what was public then names pages that you may not know of", desk.ErrForbidden)
	}
	v := comparedView{}
	var err error
	if v.Screen, err = s.Screen(r, d, "compare"); err != nil {
		return err
	}
	sides := [2]*store.Past{}
	for i, key := range []string{"from", "to"} {
		revision := desk.Number[int64](r.FormValue(key))
		if revision == 0 {
			revision = s.Store.Published().Revision
		}
		if sides[i], err = s.Store.PastAt(r.Context(), revision); err != nil {
			return &edit.Refusal{Sentence: "Nothing is kept of what was public then."}
		}
	}
	words := func(p *store.Past) string { return desk.LongMoment(d.Draft.Base.Site, p.At) }
	v.From, v.To = moment{sides[0].Revision, words(sides[0])}, moment{sides[1].Revision, words(sides[1])}
	on := *d
	on.Site = sides[0].Site
	viewers, err := s.Viewers(r, &on)
	if err != nil {
		return err
	}
	v.Left = viewers.Left
	if v.Sentences, err = s.Store.Compare(r.Context(), sides[0].Site, sides[1].Site, viewers); err != nil {
		return err
	}
	v.Sentences = d.Readable(v.Sentences)
	s.Render(w, r, "compared", v)
	return nil
}

// bringBack makes a page, a branch or a menu as it was then, as edits of the draft.
func (s *Area) bringBack(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	if d.Then == nil {
		return &edit.Refusal{Sentence: "Go to a moment in the past first: what was then can be brought back."}
	}
	on := *d
	on.Then, on.State, on.Site = nil, "after", d.Draft.Site
	menu, below := desk.Number[site.MenuID](r.FormValue("bring")), r.FormValue("below") == "yes"
	var left []string
	draft, words, err := s.InDraft(r, &on, func(is *site.Site) ([]edit.Op, string, error) {
		var made edit.Bringing
		var err error
		what := "“" + desk.Short(d.Site.Page(d.Selected).Label) + "”"
		if menu != 0 {
			if made, err = edit.BringMenuBack(is, d.Then.Site, menu, s.Now()); err != nil {
				return nil, "", err
			}
			what = "the menu “" + desk.Short(d.Then.Site.Menu(menu).Name) + "”"
		} else {
			made = edit.BringBack(is, d.Then.Site, d.Selected, below, s.Now())
			if below {
				what += " with all below it"
			}
		}
		if left = made.Left; len(made.Ops) == 0 && len(left) > 0 {
			return nil, "", &edit.Refusal{Sentence: "It can't come back: " + strings.Join(left, "; ") + "."}
		}
		if len(made.Ops) == 0 {
			return nil, "", &edit.Refusal{Sentence: "It is today as it was then: there is nothing to bring back."}
		}
		return made.Ops, "brought " + what + " back as it was on " + desk.LongMoment(is, d.Then.At), nil
	})
	if err != nil {
		return err
	}
	said := strings.ToUpper(words[:1]) + words[1:] + "."
	if len(left) > 0 {
		said += " Left as it is: " + strings.Join(left, "; ") + "."
	}
	link := fmt.Sprintf("/tree?draft=%d&page=%d&state=after", draft.ID, d.Selected)
	if menu != 0 {
		link = fmt.Sprintf("/menus?draft=%d&menu=%d&state=after", draft.ID, menu)
	}
	s.Say(w, http.StatusOK, desk.Reply{Said: said, URL: link})
	return nil
}
