package problems

import (
	"fmt"
	"net/http"
	"slices"
	"time"

	"vineladder/internal/core/check"
	"vineladder/internal/core/count"
	"vineladder/internal/core/edit"
	"vineladder/internal/core/say"
	"vineladder/internal/core/site"
	"vineladder/internal/core/typed"
	"vineladder/internal/store"
	"vineladder/internal/web/workbench/desk"
)

// fixLimit bounds the problems that are mended in one step.
const fixLimit = 2000

// chosen gives the problems that a form names, as they are found now.
func (s *Area) chosen(r *http.Request, d *desk.Desk) ([]check.Problem, error) {
	if err := r.ParseForm(); err != nil {
		return nil, err
	}
	found, err := s.Problems(r, d)
	if err != nil {
		return nil, err
	}
	ids := r.Form["id"]
	a := askedOf(r)
	var chosen []check.Problem
	for _, p := range found.All {
		if r.FormValue("all") == "yes" && a.takes(d.Site, p) || slices.Contains(ids, desk.ProblemID(p)) {
			chosen = append(chosen, p)
		}
	}
	switch {
	case len(chosen) == 0 && len(ids) > 0:
		return nil, &edit.Refusal{Sentence: "These problems are not there any more."}
	case len(chosen) == 0:
		return nil, &edit.Refusal{Sentence: "Nothing is ticked."}
	}
	return chosen, nil
}

// A mending is what is done to several problems, one on what the other left.
type mending struct {
	ops   []edit.Op
	done  int
	left  int
	why   error // of the first one that was left
	words string
}

// mend fixes problems of a site one after the other. One that can't be fixed is left, and does not hold up the others.
func (s *Area) mend(d *desk.Desk, on *site.Site, chosen []check.Problem) (m mending) {
	for _, p := range chosen {
		words, ops := check.NewLook(on, d.Now, s.Settings.Site).With(d.Besides()).Mend(p)
		if len(ops) == 0 {
			m.left++
			continue
		}
		allowed := s.Allowed(d, d.Draft, ops)
		next, settled, err := edit.ApplyAll(on, ops, d.Now)
		if allowed != nil {
			err = allowed
		}
		if err != nil {
			m.left++
			if m.why == nil {
				m.why = err
			}
			continue
		}
		on, m.words = next, words
		m.ops, m.done = append(m.ops, settled...), m.done+1
	}
	return m
}

func (s *Area) fix(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	chosen, err := s.chosen(r, d)
	if err != nil {
		return err
	}
	if len(chosen) > fixLimit {
		return typed.Refuse(
			"These are %s problems: fix at most %s at once.",
			count.Number(len(chosen)),
			count.Number(fixLimit),
		)
	}
	var last mending
	_, words, err := s.InDraft(r, d, func(on *site.Site) ([]edit.Op, string, error) {
		last = s.mend(d, on, chosen)
		switch {
		case last.done == 0 && last.why != nil:
			return nil, "", last.why
		case last.done == 0:
			return nil, "", &edit.Refusal{
				Sentence: "There is no fix of one step for this: it needs somebody who looks.",
			}
		case last.done == 1:
			return last.ops, "fixed a problem: " + say.Inside(last.words), nil
		}
		return last.ops, "fixed " + count.Of(last.done, "problem", "problems"), nil
	})
	if err != nil {
		return err
	}
	said := say.Capital(words) + "."
	if last.left > 0 {
		said += fmt.Sprintf(" %s left as they were", count.Of(last.left, "other", "others"))
		if last.why != nil {
			said += ": " + last.why.Error()
		}
		said += "."
	}
	s.Say(w, http.StatusOK, desk.Reply{Said: said})
	return nil
}

func (s *Area) mean(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	if err := d.MustBeToday(); err != nil {
		return err
	}
	chosen, err := s.chosen(r, d)
	if err != nil {
		return err
	}
	until, err := time.ParseInLocation(time.DateOnly, r.FormValue("until"), d.Site.Settings().Zone)
	if err != nil {
		return typed.Refuse("Choose the day on which to ask again.")
	}
	for _, p := range chosen {
		if answer := d.MayExcuse(p.On); !answer.Yes {
			return fmt.Errorf("%w: %s", desk.ErrForbidden, answer.Why)
		}
	}
	for _, p := range chosen {
		m := store.Meant{Key: p.Key(), Excuse: check.Excuse{Reason: r.FormValue("reason"), Until: until}}
		if err := s.Store.Mean(r.Context(), m, d.Who); err != nil {
			return err
		}
	}
	said := count.Of(
		len(chosen),
		"problem counts",
		"problems count",
	) + " as meant so until " + until.Format(
		"2 January 2006",
	) + "."
	s.Say(w, http.StatusOK, desk.Reply{Said: say.Capital(said)})
	return nil
}

func (s *Area) meanNoMore(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	found, err := s.Problems(r, d)
	if err != nil {
		return err
	}
	for _, p := range found.Meant {
		if desk.ProblemID(p.Problem) != r.FormValue("id") {
			continue
		}
		if answer := d.MayExcuse(p.On); !answer.Yes {
			return fmt.Errorf("%w: %s", desk.ErrForbidden, answer.Why)
		}
		if err := s.Store.MeanNoMore(r.Context(), p.Key(), d.Who); err != nil {
			return err
		}
		s.Say(w, http.StatusOK, desk.Reply{Said: "It counts as a problem again."})
		return nil
	}
	return &edit.Refusal{Sentence: "Nobody says of this that it is meant so."}
}
