package desk

import (
	"net/http"
	"regexp"

	"vineladder/internal/core/edit"
	"vineladder/internal/core/site"
	"vineladder/internal/store"
)

// approves says whether the draft at hand, which is not the person's, is there for them to approve: somebody asks for
// that, and they may publish it.
func (s *Server) approves(r *http.Request, d *Desk) (bool, error) {
	if !d.Draft.Asked.Waits() {
		return false, nil
	}
	answer, err := s.Store.MayPublish(r.Context(), d.Draft, d.Who)
	return answer.Yes, err
}

// approving are the requests that change nothing in a draft but whether it is public.
var approving = regexp.MustCompile(`^/publish$|^/approval/|/(?:open|ask|tally|key|try|selection|folds)$`)

// mayTouch refuses edits of a draft that is there to be approved.
func (d *Desk) mayTouch(r *http.Request) error {
	if d.Approves && r.Method == http.MethodPost && !approving.MatchString(r.URL.Path) {
		return &edit.Refusal{
			Sentence: "This draft is " + d.Draft.OwnerName + "'s, and is there for you to approve: publish it, or send it back.",
		}
	}
	return nil
}

// approvalsShown bounds the approvals that are told after sign-in.
const approvalsShown = 5

// ToApprove gives what waits for the person's approval.
func (s *Server) ToApprove(r *http.Request, d *Desk) ([]*store.Approval, error) {
	if !d.MayAnywhere(string(site.ActionPublish)).Yes {
		return nil, nil
	}
	asked, err := s.Store.Asked(r.Context())
	if err != nil {
		return nil, err
	}
	var mine []*store.Approval
	for _, a := range asked {
		if len(mine) == approvalsShown || a.By == d.Who.ID {
			continue
		}
		draft, err := s.Store.Draft(r.Context(), a.Draft)
		if err != nil {
			return nil, err
		}
		answer, err := s.Store.MayPublish(r.Context(), draft, d.Who)
		if err != nil {
			return nil, err
		}
		if answer.Yes {
			mine = append(mine, a)
		}
	}
	return mine, nil
}
