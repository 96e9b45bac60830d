package drafts

import (
	"context"
	"fmt"
	"net/http"

	"github.com/go-chi/chi/v5"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/grant"
	"vineladder/internal/store"
	"vineladder/internal/web/workbench/desk"
)

// An approvalView is where the asking for approval of a draft stands, and what colleagues say of it.
type approvalView struct {
	*store.Approval
	Can     bool // the person may ask for it
	Answers bool // the person may answer
	Since   int  // edits that came after it was asked for
	At      string
	Remarks []remarkLine
	BySteps map[int64][]remarkLine
}

type remarkLine struct{ By, At, Said string }

// approvalOf gives all of that for the draft at hand.
func (s *Area) approvalOf(ctx context.Context, d *desk.Desk, publish grant.Answer) (approvalView, error) {
	v := approvalView{Approval: d.Draft.Asked, BySteps: map[int64][]remarkLine{}}
	mine := d.Draft.IsFor(d.Who.ID)
	v.Can = mine && !publish.Yes && len(d.Draft.Steps) > 0
	v.Answers = v.Waits() && publish.Yes
	if v.Approval != nil {
		v.At = desk.LongMoment(d.Site, v.Approval.At)
		for _, step := range d.Draft.Steps {
			if step.ID > v.Steps {
				v.Since++
			}
		}
	}
	remarks, err := s.Store.Remarks(ctx, d.Draft.ID)
	for _, remark := range remarks {
		line := remarkLine{remark.Name, desk.LongMoment(d.Site, remark.At), remark.Said}
		if remark.Step.Valid {
			v.BySteps[remark.Step.Int64] = append(v.BySteps[remark.Step.Int64], line)
			continue
		}
		v.Remarks = append(v.Remarks, line)
	}
	return v, err
}

// approval asks for approval, takes that back, sends a draft back, or says something of it.
func (s *Area) approval(w http.ResponseWriter, r *http.Request, d *desk.Desk) error {
	ctx, id, words := r.Context(), d.Draft.ID, r.FormValue("words")
	said := ""
	var err error
	switch chi.URLParam(r, "do") {
	case "ask":
		link := fmt.Sprintf("%s/tree?draft=%d&show=review", s.Settings.Origin, id)
		err, said = s.Store.AskApproval(ctx, id, d.Who, words, link), "Asked. Who may publish it sees it at sign-in."
	case "withdraw":
		err, said = s.Store.Withdraw(ctx, id, d.Who), "It is yours to go on with."
	case "send-back":
		answer, asked := s.mayPublish(ctx, d)
		if asked != nil {
			return asked
		}
		if !answer.Yes {
			return fmt.Errorf("%w: %s", desk.ErrForbidden, answer.Why)
		}
		err, said = s.Store.SendBack(ctx, id, d.Who, words), "Sent back, with what you wrote."
	case "remark":
		step := desk.Number[int64](r.FormValue("step"))
		err, said = s.Store.Remark(ctx, id, d.Who, step, words), "Said."
	default:
		err = &edit.Refusal{Sentence: "This is not known."}
	}
	if err != nil {
		return err
	}
	s.Say(w, http.StatusOK, desk.Reply{Said: said})
	return nil
}
